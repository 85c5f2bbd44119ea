/** Platinum resistance thermometers by IEC 60751, clause 5.1 (Callendar-Van Dusen), −200 to 850 °C. */

const A = 3.9083e-3;
const B = -5.775e-7;
const C = -4.183e-12;
export const PLATINUM_RANGE = { from: -200, to: 850 } as const;

/** Ω of a sensor of `r0` Ω at 0 °C; NaN outside the range. */
export function ohms(r0: number, celsius: number): number {
  if (!(celsius >= PLATINUM_RANGE.from && celsius <= PLATINUM_RANGE.to)) return NaN;
  const t = celsius;
  return r0 * (1 + A * t + B * t * t + (t < 0 ? C * (t - 100) * t * t * t : 0));
}

/** The inverse of {@link ohms}, °C; NaN outside. */
export function celsiusOfOhms(r0: number, resistance: number): number {
  const ratio = resistance / r0;
  const [least, most] = [ohms(1, PLATINUM_RANGE.from), ohms(1, PLATINUM_RANGE.to)];
  if (ratio === least) return PLATINUM_RANGE.from;
  if (ratio === most) return PLATINUM_RANGE.to;
  if (!(ratio > least && ratio < most)) return NaN;
  // The quadratic is the whole function above 0 °C, and near it below: some steps of Newton's method do the rest.
  let t = (-A + Math.sqrt(A * A - 4 * B * (1 - ratio))) / (2 * B);
  // Without a sign before its zero.
  if (ratio >= 1) return t + 0;
  for (let round = 0; round < 8; round++) {
    const off = 1 + A * t + B * t * t + C * (t - 100) * t * t * t - ratio;
    const step = off / (A + 2 * B * t + C * (4 * t - 300) * t * t);
    t -= step;
    if (Math.abs(step) < 1e-12) break;
  }
  return Math.max(PLATINUM_RANGE.from, t);
}
