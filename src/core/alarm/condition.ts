/** What an alarm is raised by, and whether it holds: true, false, or not known. */
import { isBound, type Bound, type Live } from '../panel/bound.ts';
import { RunningFormula, type Formula } from '../panel/formula.ts';
import type { Input } from '../expression/evaluate.ts';
import { limitBeyond, LIMIT_KEYS, type LimitKey } from '../ranges/limits.ts';
import { fail, ok, type Result } from '../result.ts';
import type { QualityLevel } from '../value/quality.ts';

export const CONDITION_WORDS = {
  bit: 'a bit',
  limit: 'a limit of its own',
  ofTag: 'a limit of the tag',
  noValue: 'no good value',
  formula: 'an expression',
} as const;
export type ConditionKind = keyof typeof CONDITION_WORDS;
export const CONDITION_KINDS = Object.keys(CONDITION_WORDS) as readonly ConditionKind[];

export type AlarmCondition =
  | { readonly kind: 'bit'; readonly isOn: boolean }
  /** A limit that is another tag compares two of them. */
  | { readonly kind: 'limit'; readonly side: 'above' | 'below'; readonly limit: Live<number>; readonly hysteresis: number }
  | { readonly kind: 'ofTag'; readonly key: LimitKey }
  | { readonly kind: 'noValue' }
  | { readonly kind: 'formula'; readonly holds: Bound };

/** What an alarm sees of a tag. */
export interface SeenTag extends Input {
  readonly level: QualityLevel;
  /** Nothing of it has come yet. */
  readonly isWaiting: boolean;
  /** As its own limits tell, with their hysteresis and delay. */
  readonly limit: LimitKey | null;
  /** Why there is no value. */
  readonly why: string;
}

export interface Holds {
  /** Null where it is not known. */
  readonly holds: boolean | null;
  readonly why: string;
}

const known = (holds: boolean): Holds => ({ holds, why: '' });
const unknown = (why: string): Holds => ({ holds: null, why });

/** A condition in use: it keeps where the value was, for the hysteresis. */
export class RunningCondition {
  readonly #condition: AlarmCondition;
  readonly #tagId: string | null;
  readonly #formula: RunningFormula | null;
  #was: LimitKey | null = null;

  /** @property formula that of a condition or a limit that is an expression. @property isBeyond it was, when it was last known */
  constructor(
    condition: AlarmCondition,
    tagId: string | null,
    { formula, isBeyond }: { readonly formula: Formula | null; readonly isBeyond: boolean },
  ) {
    this.#condition = condition;
    this.#tagId = tagId;
    this.#formula = formula && new RunningFormula(formula);
    if (isBeyond && condition.kind === 'limit') this.#was = condition.side === 'above' ? 'high' : 'low';
  }

  /** @param now in milliseconds, never less than before */
  next(see: (tagId: string) => SeenTag, now: number): Holds {
    const condition = this.#condition;
    if (condition.kind === 'formula') return this.#given(see, now, (value) => (typeof value === 'boolean' ? value : null));
    if (this.#tagId === null) return unknown('It has no tag.');
    const seen = see(this.#tagId);
    if (condition.kind === 'noValue') return seen.isWaiting ? unknown(seen.why) : known(seen.level === 'bad');
    if (seen.value === null) return unknown(seen.why);
    if (condition.kind === 'bit')
      return typeof seen.value === 'boolean' ? known(seen.value === condition.isOn) : unknown('Its tag is neither on nor off.');
    if (condition.kind === 'ofTag') return known(isAtLeast(seen.limit, condition.key));
    if (typeof seen.value !== 'number') return unknown('Its tag is no number.');
    const { value } = seen;
    const { limit } = condition;
    return isBound(limit)
      ? this.#given(see, now, (at) => (typeof at === 'number' ? this.#isBeyond(value, at) : null))
      : known(this.#isBeyond(value, limit));
  }

  #given(see: (tagId: string) => SeenTag, now: number, holds: (value: unknown) => boolean | null): Holds {
    if (!this.#formula) return unknown('Its expression says nothing.');
    const came = this.#formula.next(see, now);
    if (came.kind === 'value') {
      const answer = holds(came.value);
      return answer === null ? unknown('Its expression gives something else than is asked for.') : known(answer);
    }
    if (came.kind === 'none') return unknown(came.message);
    return unknown(see(this.#formula.formula.program.inputs[came.input] ?? '').why);
  }

  /** One that follows a tag is where that tag is now; a value at the limit is beyond it. */
  #isBeyond(value: number, limit: number): boolean {
    if (this.#condition.kind !== 'limit') return false;
    const { side, hysteresis } = this.#condition;
    const [low, high] = side === 'above' ? [null, limit] : [limit, null];
    this.#was = limitBeyond({ lowLow: null, low, high, highHigh: null, hysteresis, delayMs: 0 }, value, this.#was);
    return this.#was !== null;
  }
}

/** Beyond the outer limit of a side a value is beyond the inner one too. */
function isAtLeast(limit: LimitKey | null, key: LimitKey): boolean {
  return limit === key || (key === 'high' && limit === 'highHigh') || (key === 'low' && limit === 'lowLow');
}

/** Holds for as long as it has to before it counts, and the same for its end. */
export class Delayed {
  readonly #onMs: number;
  readonly #offMs: number;
  #isActive: boolean;
  /** Since when it has been otherwise. */
  #since: number | null = null;

  constructor(onMs: number, offMs: number, isActive: boolean) {
    this.#onMs = onMs;
    this.#offMs = offMs;
    this.#isActive = isActive;
  }

  /** @param holds null leaves it as it is, and a delay begins anew. @returns when to look again, null where nothing runs */
  next(holds: boolean | null, now: number): { readonly isActive: boolean; readonly againAt: number | null } {
    if (holds === null || holds === this.#isActive) {
      this.#since = null;
      return { isActive: this.#isActive, againAt: null };
    }
    this.#since ??= now;
    const due = this.#since + (holds ? this.#onMs : this.#offMs);
    if (now < due) return { isActive: this.#isActive, againAt: due };
    this.#isActive = holds;
    this.#since = null;
    return { isActive: holds, againAt: null };
  }
}

/** Why a condition says nothing for its tag, as far as settings tell. */
export function checkCondition(condition: unknown): Result<AlarmCondition> {
  const wrong = (message: string, place: string): Result<never> => fail('condition', message, undefined, `condition.${place}`);
  if (typeof condition !== 'object' || condition === null || !('kind' in condition)) return wrong('An alarm needs a condition.', 'kind');
  const given = condition as Record<string, unknown>;
  const fields: Readonly<Record<ConditionKind, readonly string[]>> = {
    bit: ['isOn'],
    limit: ['side', 'limit', 'hysteresis'],
    ofTag: ['key'],
    noValue: [],
    formula: ['holds'],
  };
  const kind = CONDITION_KINDS.find((one) => one === given.kind);
  if (!kind) return wrong(`A condition is one of ${CONDITION_KINDS.join(', ')}.`, 'kind');
  const names = ['kind', ...fields[kind]];
  const other = Object.keys(given).find((name) => !names.includes(name));
  if (other !== undefined) return wrong('A condition of this kind has no such field.', other);
  if (kind === 'bit' && typeof given.isOn !== 'boolean') return wrong('It is raised by on or by off.', 'isOn');
  if (kind === 'ofTag' && !LIMIT_KEYS.some((key) => key === given.key)) return wrong('The limit of the tag is not named.', 'key');
  if (kind === 'formula' && !isBound(given.holds)) return wrong('The expression is missing.', 'holds');
  if (kind === 'limit') {
    if (given.side !== 'above' && given.side !== 'below') return wrong('It is raised above or below.', 'side');
    if (!isBound(given.limit) && !(typeof given.limit === 'number' && Number.isFinite(given.limit))) return wrong('The limit is no number.', 'limit');
    if (typeof given.hysteresis !== 'number' || !(given.hysteresis >= 0) || !Number.isFinite(given.hysteresis))
      return wrong('The hysteresis is 0 or more.', 'hysteresis');
  }
  return ok(condition as AlarmCondition);
}
