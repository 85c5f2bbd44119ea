/** Limits of a value in engineering units, and how far beyond them it is. */
import { fail, ok, type Result } from '../result.ts';

export interface Limits {
  /** Null where there is none. */
  readonly lowLow: number | null;
  readonly low: number | null;
  readonly high: number | null;
  readonly highHigh: number | null;
  /** How far inside a limit a value has to come back to be no longer beyond it. */
  readonly hysteresis: number;
  /** How long a value has to be beyond a limit before that is told. */
  readonly delayMs: number;
}

/** From the lowest to the highest. */
export const LIMIT_KEYS = ['lowLow', 'low', 'high', 'highHigh'] as const;
export type LimitKey = (typeof LIMIT_KEYS)[number];

export const LIMIT_WORDS: Readonly<Record<LimitKey, string>> = { lowLow: 'low-low', low: 'low', high: 'high', highHigh: 'high-high' };

export const LONGEST_DELAY_MS = 3_600_000;

/** Refuses limits that are in no order or leave no room for their hysteresis, with the field as the place. */
export function checkLimits(limits: Limits): Result<Limits> {
  const given = LIMIT_KEYS.flatMap((key) => (limits[key] === null ? [] : [{ key, value: limits[key] }]));
  if (given.length === 0) return fail('limits', 'None of the limits is given.', 'Give one, or leave them all away.', 'high');
  for (const { key, value } of given)
    if (!Number.isFinite(value)) return fail('limits', `The limit ${LIMIT_WORDS[key]} is no number.`, undefined, key);
  for (const [i, { key, value }] of given.entries()) {
    const below = given[i - 1];
    if (below && below.value >= value)
      return fail('limits', `${LIMIT_WORDS[key]} must be above ${LIMIT_WORDS[below.key]}, which is ${below.value}.`, undefined, key);
  }
  const { hysteresis, delayMs } = limits;
  if (!Number.isFinite(hysteresis) || hysteresis < 0) return fail('limits', 'The hysteresis is 0 or more.', undefined, 'hysteresis');
  const [low, high] = [limits.low ?? limits.lowLow, limits.high ?? limits.highHigh];
  if (low !== null && high !== null && low + hysteresis >= high - hysteresis)
    return fail('limits', 'The hysteresis leaves no value between the limits.', 'Make it smaller.', 'hysteresis');
  return Number.isInteger(delayMs) && delayMs >= 0 && delayMs <= LONGEST_DELAY_MS
    ? ok(limits)
    : fail('limits', 'The delay is 0 to 3600 seconds.', undefined, 'delayMs');
}

/**
 * The outermost limit that a value is beyond, null for none: a value at a limit is beyond it.
 * @param was  where it was before: it comes back only when it is inside the limit by the hysteresis
 */
export function limitBeyond(limits: Limits, value: number, was: LimitKey | null): LimitKey | null {
  const isBeyond = (key: LimitKey): boolean => {
    const limit = limits[key];
    if (limit === null) return false;
    const by = sideOf(key) === 'high' ? value - limit : limit - value;
    return by >= 0 || (was !== null && (was === key || was === outerOf(key)) && by > -limits.hysteresis);
  };
  return OUTERMOST_FIRST.find(isBeyond) ?? null;
}

const OUTERMOST_FIRST = ['highHigh', 'lowLow', 'high', 'low'] as const;

function sideOf(key: LimitKey): 'high' | 'low' {
  return key === 'high' || key === 'highHigh' ? 'high' : 'low';
}

function outerOf(key: LimitKey): LimitKey {
  return sideOf(key) === 'high' ? 'highHigh' : 'lowLow';
}

/** One value over time: what lasts long enough beyond a limit is told. Coming back is told at once. */
export class LimitWatch {
  readonly limits: Limits;
  #beyond: LimitKey | null = null;
  /** Since when it is beyond each limit. */
  readonly #since = new Map<LimitKey, number>();

  constructor(limits: Limits) {
    this.limits = limits;
  }

  /**
   * @param value null where there is none: what was told of the last one stays
   * @param at  a moment in milliseconds
   * @returns what is told now
   */
  next(value: number | null, at: number): LimitKey | null {
    if (value === null) return this.told(at);
    this.#beyond = limitBeyond(this.limits, value, this.#beyond);
    for (const key of LIMIT_KEYS) {
      // Beyond the outer limit of a side it is beyond the inner one too.
      const isBeyond = this.#beyond === key || this.#beyond === outerOf(key);
      if (!isBeyond) this.#since.delete(key);
      else if (!this.#since.has(key)) this.#since.set(key, at);
    }
    return this.told(at);
  }

  /** It is beyond a limit that is not told yet. */
  isWaiting(at: number): boolean {
    return this.#beyond !== this.told(at);
  }

  /** The outermost limit that it has been beyond for as long as the delay. */
  told(at: number): LimitKey | null {
    const { delayMs } = this.limits;
    return OUTERMOST_FIRST.find((key) => this.limits[key] !== null && at - (this.#since.get(key) ?? Infinity) >= delayMs) ?? null;
  }
}
