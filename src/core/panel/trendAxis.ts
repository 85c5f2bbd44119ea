/** The axis of a trend: round numbers, written with the digits that tell them apart. */
import { extent, nice, tickStep, ticks } from 'd3-array';
import type { Range } from '../ranges/range.ts';

export interface TrendAxis extends Range {
  readonly ticks: readonly number[];
  readonly text: (tick: number) => string;
}

/** Of what stands still, in parts of its value: so much is shown above and below it. */
const AROUND = 0.05;
/** Whatever is smaller is nothing. */
const SMALLEST = 1e-9;

/**
 * @param numbers what is drawn; null where there was no value
 * @param ends  what is chosen; null where they follow from what is drawn
 * @param most  how many ticks are wanted; one more may come
 */
export function trendAxis(numbers: readonly (number | null)[], ends: Range | null, most: number): TrendAxis {
  const { low, high } = ends ?? endsOf(numbers, most);
  // As many as asked for may come out as twice as many.
  let asked = most;
  while (asked > 1 && ticks(low, high, asked).length > most + 1) asked--;
  const step = tickStep(low, high, asked);
  const digits = Math.min(12, Math.max(0, -Math.floor(Math.log10(Math.abs(step)) + 1e-9)));
  const isPlain = Math.max(Math.abs(low), Math.abs(high)) < 1e9;
  return { low, high, ticks: ticks(low, high, asked), text: (tick) => (isPlain ? tick.toFixed(digits) : String(Number(tick.toPrecision(6)))) };
}

function endsOf(numbers: readonly (number | null)[], most: number): Range {
  const [least, greatest] = extent(numbers.filter((number) => number !== null && Number.isFinite(number)) as number[]);
  if (least === undefined || greatest === undefined) return { low: 0, high: 1 };
  // Noise far below what is shown of the value is no movement.
  const size = Math.max(Math.abs(least), Math.abs(greatest));
  const room = greatest - least > Math.max(size * 1e-6, SMALLEST) ? 0 : size > SMALLEST ? size * AROUND : 1;
  const [low, high] = nice(least - room, greatest + room, most);
  return { low, high };
}
