/** Steps that are no straight lines. */
import { fail, ok } from '../../result.ts';
import { inverseOf, monotony } from '../inverse.ts';
import { signed } from './signed.ts';
import type { Curve, StepRule } from './stepRule.ts';

/** What lies before the first point of a table and after its last one. */
export type TableEnds = 'none' | 'hold' | 'extend';

/** Straight between its points. */
export interface TableStep {
  readonly kind: 'table';
  /** x and y, x rising. */
  readonly points: readonly (readonly [x: number, y: number])[];
  readonly ends: TableEnds;
}

/** Flow from differential pressure: full · √((x − zero) / (span − zero)), and 0 below a cut. */
export interface RootStep {
  readonly kind: 'root';
  /** Where the flow is zero, and where it is full. */
  readonly zero: number;
  readonly span: number;
  readonly full: number;
  /** Of the full flow, 0 to 0.5: what is below is shown as 0. */
  readonly cut: number;
}

export interface PolynomialStep {
  readonly kind: 'polynomial';
  /** From the constant term on. */
  readonly terms: readonly number[];
  /** For which x it is meant. */
  readonly from: number;
  readonly to: number;
}

/** The rest of a division: a counter that begins anew, an angle of more than one turn, a rollover from 65535 to -1. */
export interface ModulusStep {
  readonly kind: 'modulus';
  readonly by: number;
  /** The least of its results; 0 where it is not said. */
  readonly from?: number;
}

export interface ClampStep {
  readonly kind: 'clamp';
  readonly low: number;
  readonly high: number;
}

const MOST_POINTS = 1000;
const MOST_TERMS = 20;

export const table: StepRule<TableStep> = {
  title: 'Table of points',
  formula: 'y = yi + (x − xi) · (yi+1 − yi) / (xi+1 − xi) between two points',
  source: 'linear interpolation',
  check(step) {
    const { points } = step;
    if (points.length < 2) return fail('scale-table', 'A table has two points at least.', 'Give another point.', 'points');
    if (points.length > MOST_POINTS) return fail('scale-table', `A table has at most ${MOST_POINTS} points.`, undefined, 'points');
    for (const [i, [x, y]] of points.entries()) {
      if (!Number.isFinite(x) || !Number.isFinite(y)) return fail('scale-table', `Point ${i + 1} is no pair of numbers.`, undefined, 'points');
      const before = points[i - 1];
      if (before && x === before[0]) return fail('scale-table', `Points ${i} and ${i + 1} are both at ${x}.`, 'Remove one of them.', 'points');
      if (before && x < before[0])
        return fail('scale-table', `Point ${i + 1}, at ${x}, lies before the one above it.`, 'Sort the points by their first number.', 'points');
    }
    return ok(step);
  },
  inWords: ({ points }) => `table of ${points.length} points`,
  worked({ points }, text) {
    const x = Number(text.replace(/[()]/g, ''));
    const after = points.findIndex(([at]) => at >= x);
    const [a, b] = after <= 0 ? (after === 0 ? [points[0], points[1]] : points.slice(-2)) : [points[after - 1], points[after]];
    return a && b ? `${a[1]} + (${text} − ${signed(a[0])}) · (${b[1]} − ${signed(a[1])}) / (${b[0]} − ${signed(a[0])})` : '';
  },
  curve({ points, ends }) {
    const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
    const rises = ys.every((y, i) => i === 0 || y > (ys[i - 1] ?? y));
    const falls = ys.every((y, i) => i === 0 || y < (ys[i - 1] ?? y));
    const plain = rises ? between(ys, xs, ends) : falls ? between([...ys].reverse(), [...xs].reverse(), ends) : null;
    const forward = between(xs, ys, ends);
    const back = plain && withEnds(plain, forward, xs[0] ?? 0, xs.at(-1) ?? 0);
    return {
      forward,
      // A held end stands for many values: the way back gives the point itself.
      back,
      inverse: back ? (ends === 'hold' ? 'chosen' : 'unique') : 'none',
      exactness: 'approximate',
      limits: back ? 'the table ends there' : 'the table rises and falls, so one value belongs to several',
    };
  },
};

/** Straight between points whose x rise. */
function between(xs: readonly number[], ys: readonly number[], ends: TableEnds): (x: number) => number {
  const last = xs.length - 1;
  return (x) => {
    const [least = NaN, most = NaN] = [xs[0], xs[last]];
    if (x < least || x > most) {
      if (ends === 'none') return NaN;
      if (ends === 'hold') return (x < least ? ys[0] : ys[last]) ?? NaN;
    }
    let [low, high] = [0, last];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if ((xs[middle] ?? NaN) <= x) low = middle;
      else high = middle;
    }
    const [xa = NaN, ya = NaN, xb = NaN, yb = NaN] = [xs[low], ys[low], xs[high], ys[high]];
    return x === xb ? yb : ya + ((x - xa) * (yb - ya)) / (xb - xa);
  };
}

export const root: StepRule<RootStep> = {
  title: 'Square root',
  formula: 'y = full · √((x − zero) / (span − zero)); 0 below the cut',
  source: 'flow by differential pressure, ISO 5167-1: it goes with the root of the pressure',
  check(step) {
    if (![step.zero, step.span, step.full, step.cut].every(Number.isFinite)) return fail('scale-root', 'All four must be numbers.');
    if (step.zero === step.span)
      return fail('scale-root', 'No flow and full flow have the same raw value.', 'Give two different raw values.', 'span');
    if (step.full === 0) return fail('scale-root', 'The full flow is 0, so nothing could be written back.', undefined, 'full');
    return step.cut < 0 || step.cut > 0.5 ? fail('scale-root', 'The cut is 0 to 0.5 of the full flow.', undefined, 'cut') : ok(step);
  },
  worked: ({ zero, span, full, cut }, x) =>
    `${full} · √((${x} − ${signed(zero)}) / (${span} − ${signed(zero)}))${cut > 0 ? `, 0 below ${cut * full}` : ''}`,
  inWords: ({ zero, span, full, cut }) => `root of ${zero}…${span}, full ${full}${cut > 0 ? `, cut at ${cut * 100} %` : ''}`,
  curve({ zero, span, full, cut }) {
    return {
      forward(x) {
        const part = (x - zero) / (span - zero);
        const flow = part <= 0 ? 0 : Math.sqrt(part);
        return flow < cut ? 0 : full * flow;
      },
      back(y) {
        const flow = y / full;
        return flow < 0 ? NaN : zero + flow * flow * (span - zero);
      },
      inverse: 'chosen',
      exactness: 'approximate',
      limits: 'a flow is not below zero',
    };
  },
};

export const polynomial: StepRule<PolynomialStep> = {
  title: 'Polynomial',
  formula: 'y = c0 + c1 · x + c2 · x² + …',
  source: 'Horner’s scheme; the inverse is found numerically where it only rises or only falls',
  check(step) {
    if (step.terms.length < 1 || step.terms.length > MOST_TERMS || !step.terms.every(Number.isFinite))
      return fail('scale-polynomial', `A polynomial has 1 to ${MOST_TERMS} terms, each a number.`, undefined, 'terms');
    return Number.isFinite(step.from) && Number.isFinite(step.to) && step.from < step.to
      ? ok(step)
      : fail('scale-polynomial', 'It is meant for values from a smaller number to a larger one.', undefined, 'to');
  },
  inWords: ({ terms, from, to }) => `polynomial of degree ${terms.length - 1}, ${from}…${to}`,
  worked: ({ terms }, x) => terms.map((term, i) => (i === 0 ? String(term) : `${signed(term)} · ${x}${i === 1 ? '' : `^${i}`}`)).join(' + '),
  curve({ terms, from, to }) {
    const value = (x: number): number => {
      let sum = 0;
      for (let i = terms.length - 1; i >= 0; i--) sum = sum * x + (terms[i] ?? 0);
      return sum;
    };
    return boundedCurve(value, from, to, 'the polynomial');
  },
};

/** A function between two ends, with its inverse where it has one. */
export function boundedCurve(value: (x: number) => number, from: number, to: number, what: string): Curve {
  const hasInverse = monotony(value, from, to) !== 'neither';
  return {
    forward: (x) => (x >= from && x <= to ? value(x) : NaN),
    back: hasInverse ? withEnds(inverseOf(value, from, to), value, from, to) : null,
    inverse: hasInverse ? 'unique' : 'none',
    exactness: 'approximate',
    limits: hasInverse ? `${what} is meant for ${from} to ${to}` : `${what} rises and falls, so one value belongs to several`,
  };
}

/** Of the span of values: what was rounded to be shown may lie so far beyond an end, and stands for the end. */
const BEYOND = 1e-4;

function withEnds(back: (y: number) => number, value: (x: number) => number, from: number, to: number): (y: number) => number {
  const [first, last] = [value(from), value(to)];
  const beyond = Math.abs(last - first) * BEYOND;
  return (y) => {
    const x = back(y);
    if (!Number.isNaN(x)) return x;
    if (Math.abs(y - first) <= beyond) return from;
    return Math.abs(y - last) <= beyond ? to : NaN;
  };
}

export const modulus: StepRule<ModulusStep> = {
  title: 'Modulus',
  formula: 'y = x − n · ⌊(x − from) / n⌋',
  source: 'the rest of a division; it rolls over to where it begins',
  check(step) {
    if (!Number.isFinite(step.by) || step.by <= 0) return fail('scale-modulus', 'The modulus is a number above zero.', undefined, 'by');
    return step.from === undefined || Number.isFinite(step.from) ? ok(step) : fail('scale-modulus', 'It begins at a number.', undefined, 'from');
  },
  inWords: ({ by, from = 0 }) => `modulo ${by}${from === 0 ? '' : ` from ${from}`}`,
  worked: ({ by, from = 0 }, x) => `${x} − ${by} · ⌊(${x} − ${signed(from)}) / ${by}⌋`,
  curve: ({ by, from = 0 }) => ({
    forward: (x) => ((((x - from) % by) + by) % by) + from,
    back: (y) => (y >= from && y < from + by ? y : NaN),
    inverse: 'chosen',
    exactness: 'exact',
    limits: `a rest is ${from} to below ${from + by}`,
  }),
};

export const clamp: StepRule<ClampStep> = {
  title: 'Clamp',
  formula: 'y = the nearest of low … high',
  source: 'common practice',
  check(step) {
    return Number.isFinite(step.low) && Number.isFinite(step.high) && step.low < step.high
      ? ok(step)
      : fail('scale-clamp', 'It is held between a smaller number and a larger one.', undefined, 'high');
  },
  inWords: ({ low, high }) => `held in ${low}…${high}`,
  worked: ({ low, high }, x) => `the nearest to ${x} of ${low} … ${high}`,
  curve: ({ low, high }) => ({
    forward: (x) => (x < low ? low : x > high ? high : x),
    back: (y) => (y >= low && y <= high ? y : NaN),
    inverse: 'chosen',
    exactness: 'exact',
    limits: `it is held in ${low} to ${high}`,
  }),
};
