/** Steps that are straight lines. */
import { fail, ok } from '../../result.ts';
import { UNITS_OF_TIME } from '../timeUnits.ts';
import { unitLine } from '../../units/unitLine.ts';
import { checkNames, formatNames, parseNames } from '../../value/valueNames.ts';
import { gcd, lineOf, lineThrough } from '../line.ts';
import { signed } from './signed.ts';
import type { StepRule } from './stepRule.ts';

/** Straight line through two points. Raw points may be fractional (4 mA on 0…20 mA in 27648 counts is 5529.6). */
export interface LinearStep {
  readonly kind: 'linear';
  readonly rawA: number;
  readonly engA: number;
  readonly rawB: number;
  readonly engB: number;
}

export interface GainStep {
  readonly kind: 'gain';
  readonly gain: number;
  readonly offset: number;
}

/** engineering = raw · 10^exponent, exact for integers of any width. */
export interface PowerStep {
  readonly kind: 'power';
  readonly exponent: number;
}

export interface DurationStep {
  readonly kind: 'duration';
  /** What a count is worth, as `ms` or `10 ms`. */
  readonly from: string;
  readonly to: string;
}

/** From one unit of measurement to another. */
export interface UnitStep {
  readonly kind: 'unit';
  readonly from: string;
  readonly to: string;
}

/** The number stays, and is shown as the text that stands for it. */
export interface TextsStep {
  readonly kind: 'texts';
  /** `0=off; 1=heating` */
  readonly names: string;
}

const MOST_EXPONENT = 18;

export const linear: StepRule<LinearStep> = {
  title: 'Two points',
  formula: 'y = yA + (x − xA) · (yB − yA) / (xB − xA)',
  source: 'straight line through two points, counted in exact fractions',
  check(step) {
    const points = [step.rawA, step.engA, step.rawB, step.engB];
    if (!points.every(Number.isFinite)) return fail('scale-points', 'Every point of a scale must be a number.');
    if (step.rawA === step.rawB)
      return fail('scale-raw', 'Both raw points are the same, so no line goes through them.', 'Give two different raw values.', 'rawB');
    if (step.engA === step.engB)
      return fail(
        'scale-eng',
        'Both engineering points are the same, so no value could be written back.',
        'Give two different engineering values.',
        'engB',
      );
    return ok(step);
  },
  inWords: ({ rawA, rawB, engA, engB }) => `${rawA}…${rawB} to ${engA}…${engB}`,
  worked: ({ rawA, engA, rawB, engB }, x) => `${engA} + (${x} − ${signed(rawA)}) · (${engB} − ${signed(engA)}) / (${rawB} − ${signed(rawA)})`,
  line: ({ rawA, engA, rawB, engB }) => lineThrough(rawA, engA, rawB, engB),
};

export const gain: StepRule<GainStep> = {
  title: 'Gain and offset',
  formula: 'y = gain · x + offset',
  source: 'straight line, counted in exact fractions',
  check(step) {
    if (!Number.isFinite(step.gain) || !Number.isFinite(step.offset)) return fail('scale-gain', 'Gain and offset must be numbers.');
    return step.gain === 0
      ? fail('scale-gain', 'A gain of 0 makes one value of all, so nothing could be written back.', 'Give another gain.', 'gain')
      : ok(step);
  },
  inWords: (step) => `× ${step.gain}${step.offset === 0 ? '' : step.offset < 0 ? ` − ${-step.offset}` : ` + ${step.offset}`}`,
  worked: ({ gain: by, offset }, x) => `${by} · ${x} + ${signed(offset)}`,
  line: (step) => lineOf(step.gain, step.offset),
};

export const power: StepRule<PowerStep> = {
  title: 'Power of ten',
  formula: 'y = x · 10^n',
  source: 'a decimal point that is moved; exact at any width',
  check(step) {
    return !Number.isInteger(step.exponent) || Math.abs(step.exponent) > MOST_EXPONENT
      ? fail('scale-exponent', `The power of ten must be a whole number from -${MOST_EXPONENT} to ${MOST_EXPONENT}.`, undefined, 'exponent')
      : ok(step);
  },
  inWords: ({ exponent }) => `× 10^${exponent}`,
  worked: ({ exponent }, x) => `${x} · 10^${exponent}`,
  line: ({ exponent }) => lineOf({ digits: 1n, exponent }, 0),
};

export const duration: StepRule<DurationStep> = {
  title: 'Duration',
  formula: 'y = x · (worth of a count / unit)',
  source: 'units of time of ISO 8601 and IEC 61131-3, table 10; exact',
  check(step) {
    for (const field of ['from', 'to'] as const)
      if (nanosecondsOf(step[field]) === null)
        return fail(
          'scale-duration',
          `“${step[field].slice(0, 20)}” is no length of time.`,
          'Write ns, µs, ms, s, min, h or d, with a number before it where a count is several: 10 ms.',
          field,
        );
    return ok(step);
  },
  inWords: ({ from, to }) => `${from} to ${to}`,
  gives: ({ to }) => to,
  worked: ({ from, to }, x) => `${x} · ${from} / ${to}`,
  line({ from, to }) {
    const [one, other] = [nanosecondsOf(from) ?? 1n, nanosecondsOf(to) ?? 1n];
    return { p: one / gcd(one, other), q: 0n, r: other / gcd(one, other) };
  },
};

export const unit: StepRule<UnitStep> = {
  title: 'Another unit',
  formula: 'y = factor · x + offset',
  source: 'factors of UCUM, the Unified Code for Units of Measure; counted in exact fractions',
  check(step) {
    const line = unitLine(step.from, step.to);
    return line.ok ? ok(step) : line;
  },
  inWords: ({ from, to }) => `${from} to ${to}`,
  gives: ({ to }) => to,
  worked(step, x) {
    const { p, q, r } = unit.line?.(step) ?? NO_CHANGE;
    return `${x} · ${p}${r === 1n ? '' : ` / ${r}`}${q === 0n ? '' : ` + ${signed(Number(q) / Number(r))}`}`;
  },
  line({ from, to }) {
    const line = unitLine(from, to);
    return line.ok ? line.value : NO_CHANGE;
  },
};

const NO_CHANGE = lineOf(1, 0);

export const texts: StepRule<TextsStep> = {
  title: 'Texts',
  formula: 'y = x, shown as the text that stands for it',
  source: 'names of values as IEC 61131-3 gives them to enumerations',
  check(step) {
    const names = parseNames(step.names);
    if (!names.ok) return { ok: false, problem: { ...names.problem, place: 'names' } };
    return names.value.length > 0 && checkNames(names.value).ok
      ? ok(step)
      : fail('names', 'No value has a text yet.', 'Write them as in 0=off; 1=heating.', 'names');
  },
  inWords(step) {
    const names = parseNames(step.names);
    return names.ok ? `texts of ${names.value.length} values` : 'texts';
  },
  worked(step, x) {
    const names = parseNames(step.names);
    return `${x} in ${names.ok ? formatNames(names.value).slice(0, 60) : ''}`;
  },
  line: () => NO_CHANGE,
};

/** `10 ms` in nanoseconds; null for what is no length of time. */
function nanosecondsOf(text: string): bigint | null {
  const match = /^(\d{1,9})?\s*([a-zµμ]{1,3})$/i.exec(text.trim());
  const unit = UNITS_OF_TIME.get(match?.[2]?.toLowerCase() ?? '');
  const count = BigInt(match?.[1] ?? '1');
  return unit === undefined || count === 0n ? null : count * unit;
}
