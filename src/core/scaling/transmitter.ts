/** The scale of a transmitter on a card: counts to the current or voltage between them, and on to what is measured. */
import { fail, ok, type Result } from '../result.ts';
import { checkScale, scaleOf, type Scale } from './scale.ts';
import type { Step } from './step.ts';

export interface Signal {
  readonly words: string;
  readonly unit: 'mA' | 'V';
  readonly low: number;
  readonly high: number;
}

/** Signals between transmitters and cards (common practice; the currents also IEC 60381-1, the voltages IEC 60381-2). */
export const SIGNALS: readonly Signal[] = [
  { words: '4–20 mA', unit: 'mA', low: 4, high: 20 },
  { words: '0–20 mA', unit: 'mA', low: 0, high: 20 },
  { words: '0–10 V', unit: 'V', low: 0, high: 10 },
  { words: '2–10 V', unit: 'V', low: 2, high: 10 },
  { words: '±10 V', unit: 'V', low: -10, high: 10 },
  { words: '0–5 V', unit: 'V', low: 0, high: 5 },
  { words: '1–5 V', unit: 'V', low: 1, high: 5 },
];

export interface Transmitter {
  /** What it measures at the two ends of its signal. */
  readonly from: number;
  readonly to: number;
  readonly gives: Signal;
  /** The counts of the card at the two ends of its own span. */
  readonly rawLow: number;
  readonly rawHigh: number;
  readonly card: Signal;
}

/** Refuses what does not go together: a current on a card of voltages, no span. */
export function transmitterScale({ from, to, gives, rawLow, rawHigh, card }: Transmitter): Result<Scale> {
  if (gives.unit !== card.unit)
    return fail(
      'transmitter',
      `The transmitter gives ${gives.unit}, and the card takes ${card.unit}.`,
      'Choose what stands between them, or enter the steps.',
      'card',
    );
  const steps: Step[] = [{ kind: 'linear', rawA: rawLow, engA: card.low, rawB: rawHigh, engB: card.high }];
  // Only a signal that begins above zero can tell a broken wire.
  if (gives.unit === 'mA' && gives.low === 4) steps.push({ kind: 'current' });
  steps.push({ kind: 'linear', rawA: gives.low, engA: from, rawB: gives.high, engB: to });
  const checked = checkScale(scaleOf(steps));
  return checked.ok ? ok(checked.value) : fail('transmitter', checked.problem.message, checked.problem.remedy, from === to ? 'to' : 'rawHigh');
}
