/**
 * What a simulated tag does: a value of each moment, from how long it has run. All but those that go by other tags are functions of
 * that time alone, so that a pause is a pause, and the same moment has the same value.
 */
import { idsIn } from '../expression/references.ts';
import { isBound, LONGEST_EXPRESSION, type Bound } from '../panel/bound.ts';
import { fail, ok, type Result } from '../result.ts';

export const BEHAVIOUR_WORDS = {
  hold: 'holds a value',
  ramp: 'ramps',
  sine: 'swings',
  random: 'is random',
  follow: 'follows another tag',
  sequence: 'goes through a sequence',
  script: 'is what an expression gives',
} as const;
export type BehaviourKind = keyof typeof BEHAVIOUR_WORDS;
export const BEHAVIOUR_KINDS = Object.keys(BEHAVIOUR_WORDS) as readonly BehaviourKind[];

/** At the end: from the beginning, back the way it came, or no further. */
export const ENDS = ['again', 'back', 'stay'] as const;
export type End = (typeof ENDS)[number];

export type Behaviour =
  /** As a person would enter it; what is written to the tag takes its place. */
  | { readonly kind: 'hold'; readonly value: string }
  | { readonly kind: 'ramp'; readonly from: number; readonly to: number; readonly seconds: number; readonly end: End }
  | { readonly kind: 'sine'; readonly low: number; readonly high: number; readonly seconds: number }
  /** Another value so often; gliding from one to the next, or in steps. */
  | { readonly kind: 'random'; readonly low: number; readonly high: number; readonly seconds: number; readonly isSmooth: boolean }
  | { readonly kind: 'follow'; readonly tagId: string; readonly factor: number; readonly shift: number }
  | { readonly kind: 'sequence'; readonly steps: readonly SequenceStep[]; readonly end: 'again' | 'stay'; readonly isSmooth: boolean }
  | { readonly kind: 'script'; readonly gives: Bound };

/** From a second on. */
export interface SequenceStep {
  readonly at: number;
  readonly value: string;
}

export const MOST_STEPS = 5000;
export const LONGEST_VALUE = 400;

/** A number, or a text as a person would enter it. */
export type Wanted = number | string;

/**
 * The value after it has run for so long; null for what goes by other tags.
 * @param seconds that it has run
 * @param seed one for each tag, so that two that are random are not alike
 */
export function wantedAt(behaviour: Behaviour, seconds: number, seed: number): Wanted | null {
  switch (behaviour.kind) {
    case 'hold':
      return behaviour.value;
    case 'ramp': {
      const { from, to, end } = behaviour;
      const part = seconds / behaviour.seconds;
      const at = end === 'stay' ? Math.min(1, part) : end === 'again' ? part % 1 : 1 - Math.abs((part % 2) - 1);
      return from + (to - from) * at;
    }
    case 'sine': {
      const { low, high } = behaviour;
      return (low + high) / 2 + ((high - low) / 2) * Math.sin((2 * Math.PI * seconds) / behaviour.seconds);
    }
    case 'random': {
      const { low, high, isSmooth } = behaviour;
      const n = Math.floor(seconds / behaviour.seconds);
      const [now, next] = [low + (high - low) * noise(seed, n), low + (high - low) * noise(seed, n + 1)];
      return isSmooth ? now + (next - now) * (seconds / behaviour.seconds - n) : now;
    }
    case 'sequence':
      return inSequence(behaviour, seconds);
    case 'follow':
    case 'script':
      return null;
  }
}

/** The last step says when it ends: then it begins anew, or stays. */
function inSequence({ steps, end, isSmooth }: Extract<Behaviour, { kind: 'sequence' }>, seconds: number): Wanted {
  const [first] = steps;
  const last = steps.at(-1);
  if (!first || !last) return 0;
  const at = end === 'again' && last.at > 0 ? seconds % last.at : Math.min(seconds, last.at);
  let low = 0;
  for (let high = steps.length - 1; low < high;) {
    const middle = Math.ceil((low + high) / 2);
    if ((steps[middle]?.at ?? Infinity) <= at) low = middle;
    else high = middle - 1;
  }
  const here = steps[low] ?? first;
  const next = steps[low + 1];
  const [a, b] = [Number(here.value), Number(next?.value)];
  if (!isSmooth || !next || here.value.trim() === '' || Number.isNaN(a) || Number.isNaN(b)) return here.value;
  return a + (b - a) * Math.max(0, Math.min(1, (at - here.at) / (next.at - here.at)));
}

/** From 0 to 1, always the same for the same two numbers (the finalizer of MurmurHash3, 32 bits, from memory). */
function noise(seed: number, n: number): number {
  let h = (seed ^ Math.imul(n + 1, 0x9e3779b1)) >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32;
}

/** Tags that it goes by. */
export function tagsOfBehaviour(behaviour: Behaviour): readonly string[] {
  return behaviour.kind === 'follow' ? [behaviour.tagId] : behaviour.kind === 'script' ? [...idsIn(behaviour.gives.by)] : [];
}

/** Refuses what cannot be carried out; the place names the field. */
export function checkBehaviour(value: unknown): Result<Behaviour> {
  const kind = typeof value === 'object' && value !== null && 'kind' in value ? value.kind : undefined;
  if (!BEHAVIOUR_KINDS.some((one) => one === kind)) return fail('behaviour', 'There is no such behaviour.', undefined, 'kind');
  const given = value as Behaviour & Readonly<Record<string, unknown>>;
  const strange = Object.keys(given).find((field) => field !== 'kind' && !FIELDS[given.kind].includes(field));
  if (strange !== undefined) return fail('behaviour', `What ${BEHAVIOUR_WORDS[given.kind]} has no ${strange}.`, undefined, strange);
  for (const field of FIELDS[given.kind].filter((one) => NUMBERS.has(one)))
    if (!Number.isFinite(given[field])) return fail('behaviour', 'A number is needed here.', undefined, field);
  const { seconds } = given as { readonly seconds?: number };
  if (seconds !== undefined && (seconds < LEAST_SECONDS || seconds > MOST_SECONDS))
    return fail('behaviour', `The time is from ${LEAST_SECONDS} s to ${MOST_SECONDS / 3600} h.`, undefined, 'seconds');
  switch (given.kind) {
    case 'hold':
      return isShort(given.value) ? ok(given) : fail('behaviour', 'Enter the value.', undefined, 'value');
    case 'ramp':
      return ENDS.includes(given.end) ? ok(given) : fail('behaviour', 'Say what follows.', undefined, 'end');
    case 'sine':
    case 'random':
      if (given.kind === 'random' && typeof given.isSmooth !== 'boolean') return fail('behaviour', 'Say whether it glides.', undefined, 'isSmooth');
      return given.low <= given.high ? ok(given) : fail('behaviour', 'The lower end is above the upper one.', undefined, 'low');
    case 'follow':
      return typeof given.tagId === 'string' && given.tagId !== ''
        ? ok(given)
        : fail('behaviour', 'Choose the tag that it follows.', undefined, 'tagId');
    case 'sequence':
      return checkSequence(given);
    case 'script':
      return isBound(given.gives) && given.gives.by.trim() !== '' && given.gives.by.length <= LONGEST_EXPRESSION
        ? ok(given)
        : fail('behaviour', `Enter an expression of at most ${LONGEST_EXPRESSION} characters.`, undefined, 'gives');
  }
}

function checkSequence(given: Extract<Behaviour, { kind: 'sequence' }>): Result<Behaviour> {
  const { steps, end, isSmooth } = given;
  if (!Array.isArray(steps) || steps.length === 0) return fail('behaviour', 'A sequence has at least one step.', undefined, 'steps');
  if (steps.length > MOST_STEPS) return fail('behaviour', `A sequence has at most ${MOST_STEPS} steps.`, undefined, 'steps');
  if ((end !== 'again' && end !== 'stay') || typeof isSmooth !== 'boolean')
    return fail('behaviour', 'Say what follows, and whether it glides.', undefined, 'end');
  let before = -Infinity;
  for (const [i, step] of steps.entries()) {
    const { at, value, ...more } = step as SequenceStep;
    if (Object.keys(more).length > 0 || !isShort(value)) return fail('behaviour', `Step ${i + 1} has a time and a value.`, undefined, 'steps');
    if (!Number.isFinite(at) || at < 0 || at > MOST_SECONDS || at <= before)
      return fail('behaviour', `Step ${i + 1}: its time is after that of the one before.`, 'Put the steps in order.', 'steps');
    before = at;
  }
  return (steps as readonly SequenceStep[])[0]?.at === 0 ? ok(given) : fail('behaviour', 'The first step is at 0 s.', undefined, 'steps');
}

const LEAST_SECONDS = 0.1;
const MOST_SECONDS = 86_400;
const isShort = (value: unknown): boolean => typeof value === 'string' && value.length <= LONGEST_VALUE;
const FIELDS: Readonly<Record<BehaviourKind, readonly string[]>> = {
  hold: ['value'],
  ramp: ['from', 'to', 'seconds', 'end'],
  sine: ['low', 'high', 'seconds'],
  random: ['low', 'high', 'seconds', 'isSmooth'],
  follow: ['tagId', 'factor', 'shift'],
  sequence: ['steps', 'end', 'isSmooth'],
  script: ['gives'],
};
const NUMBERS: ReadonlySet<string> = new Set(['from', 'to', 'seconds', 'low', 'high', 'factor', 'shift']);
