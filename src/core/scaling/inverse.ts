/** The inverse of a function that only rises or only falls between two ends, found numerically. */

/** Whether a function of `from` to `to` rises, falls, or does neither throughout, as far as samples tell. */
export function monotony(f: (x: number) => number, from: number, to: number, samples = 256): 'rises' | 'falls' | 'neither' {
  let [rises, falls] = [true, true];
  let before = f(from);
  for (let i = 1; i <= samples; i++) {
    const y = f(from + ((to - from) * i) / samples);
    if (!(y > before)) rises = false;
    if (!(y < before)) falls = false;
    before = y;
  }
  return rises ? 'rises' : falls ? 'falls' : 'neither';
}

const KNOTS = 64;
const MOST_ROUNDS = 80;

/**
 * @param f of a monotonic function, in doubles
 * @returns its inverse, to the last digits of a double; NaN outside
 */
export function inverseOf(f: (x: number) => number, from: number, to: number): (y: number) => number {
  const xs = Float64Array.from({ length: KNOTS + 1 }, (_, i) => (i === KNOTS ? to : from + ((to - from) * i) / KNOTS));
  const ys = xs.map(f);
  const falls = (ys[KNOTS] ?? 0) < (ys[0] ?? 0);
  const at = (values: Float64Array, i: number): number => values[i] ?? NaN;
  return (y) => {
    const [first, last] = [at(ys, 0), at(ys, KNOTS)];
    if (y === first) return from;
    if (y === last) return to;
    if (!(falls ? y < first && y > last : y > first && y < last)) return NaN;
    let [low, high] = [0, KNOTS];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (at(ys, middle) <= y !== falls) low = middle;
      else high = middle;
    }
    return between(f, y, [at(xs, low), at(ys, low)], [at(xs, high), at(ys, high)]);
  };
}

/** The secant between two points on either side, halved where it does not gain (the Illinois rule of false position). */
function between(f: (x: number) => number, y: number, [a, fa]: readonly [number, number], [b, fb]: readonly [number, number]): number {
  let [x0, y0, x1, y1] = [a, fa - y, b, fb - y];
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const x = x1 - (y1 * (x1 - x0)) / (y1 - y0);
    if (x === x0 || x === x1 || !Number.isFinite(x)) break;
    const off = f(x) - y;
    if (off === 0) return x;
    if (off < 0 !== y1 < 0) [x0, y0] = [x1, y1];
    else y0 /= 2;
    [x1, y1] = [x, off];
    if (Math.abs(x1 - x0) <= 4 * Number.EPSILON * Math.abs(x1)) break;
  }
  return x1;
}
