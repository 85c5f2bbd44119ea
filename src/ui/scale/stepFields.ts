/** What the form asks of each kind of step. */
import type { TableEnds } from '@/core/scaling/steps/curves.ts';
import { PLATINUM_SENSORS } from '@/core/scaling/steps/sensors.ts';
import { THERMOCOUPLES } from '@/core/scaling/sensors/thermocouple.ts';
import type { StepKind } from '@/core/scaling/step.ts';

export interface StepField {
  readonly key: string;
  readonly label: string;
  readonly help?: string;
  /** `counts` where it is what comes in, `unit` where it is what goes out. */
  readonly of?: 'in' | 'out';
  /** A number unless it says otherwise: points one a line, terms side by side. */
  readonly form?: 'text' | 'pairs' | 'numbers';
  readonly choices?: readonly (readonly [value: string, words: string])[];
  /** What a new step begins with. */
  readonly first: string;
  /** It may be empty, and is left away then. */
  readonly isOptional?: boolean;
  /** Takes the whole row. */
  readonly isWide?: boolean;
}

const ENDS: readonly (readonly [TableEnds, string])[] = [
  ['none', 'there is no value'],
  ['hold', 'the last point is held'],
  ['extend', 'the line goes on'],
];

export const STEP_WORDS: Readonly<Record<StepKind, string>> = {
  linear: 'a straight line through two points',
  gain: 'a gain and an offset',
  power: 'a power of ten, exact for whole numbers',
  duration: 'a duration in another unit of time',
  unit: 'another unit: °C to °F, bar to psi',
  table: 'a table of points',
  current: 'a loop of 4–20 mA that tells faults: mA',
  root: 'a square root: flow from differential pressure',
  polynomial: 'a polynomial',
  formula: 'a formula of x',
  thermocouple: 'a thermocouple: mV to °C',
  platinum: 'a platinum resistance: Ω to °C',
  modulus: 'the rest of a division',
  clamp: 'held between two ends',
  texts: 'texts that stand for values',
};

export const STEP_FIELDS: Readonly<Record<StepKind, readonly StepField[]>> = {
  linear: [
    { key: 'rawA', label: 'First raw value', of: 'in', first: '0' },
    { key: 'engA', label: 'is', of: 'out', first: '0' },
    { key: 'rawB', label: 'Second raw value', of: 'in', first: '' },
    { key: 'engB', label: 'is', of: 'out', first: '100' },
  ],
  gain: [
    { key: 'gain', label: 'Gain', first: '1' },
    { key: 'offset', label: 'Offset', of: 'out', first: '0' },
  ],
  power: [{ key: 'exponent', label: 'Power of ten', help: '-1 shows 137 as 13.7; -9 shows nanoseconds as seconds.', first: '-1', isWide: true }],
  duration: [
    { key: 'from', label: 'A count is', help: 'ns, µs, ms, 10 ms, s, min, h, d', form: 'text', first: 'ms' },
    { key: 'to', label: 'shown in', form: 'text', first: 's' },
  ],
  unit: [
    { key: 'from', label: 'From', form: 'text', first: '°C' },
    { key: 'to', label: 'to', form: 'text', first: '°F' },
  ],
  table: [
    {
      key: 'points',
      label: 'Points, one a line',
      help: 'Value, then what it is, as copied from a spreadsheet.',
      form: 'pairs',
      first: '',
      isWide: true,
    },
    { key: 'ends', label: 'Outside of them', form: 'text', choices: ENDS, first: 'none', isWide: true },
  ],
  current: [],
  root: [
    { key: 'zero', label: 'No flow at', of: 'in', first: '0' },
    { key: 'span', label: 'Full at', of: 'in', first: '' },
    { key: 'full', label: 'Full flow', of: 'out', first: '' },
    { key: 'cut', label: 'Shown as 0 below', help: 'Of the full flow: 0.02 is 2 %.', first: '0' },
  ],
  polynomial: [
    { key: 'terms', label: 'Terms c0, c1, c2 …', form: 'numbers', first: '', isWide: true },
    { key: 'from', label: 'Meant from', of: 'in', first: '' },
    { key: 'to', label: 'to', of: 'in', first: '' },
  ],
  formula: [
    { key: 'expression', label: 'Formula of x', help: 'As in x * 1.8 + 32, or sqrt(x / 100) * 12.', form: 'text', first: '', isWide: true },
    { key: 'back', label: 'Way back, of y', help: 'Empty: found numerically where there is one.', form: 'text', first: '', isWide: true },
    { key: 'from', label: 'Meant from', of: 'in', first: '0' },
    { key: 'to', label: 'to', of: 'in', first: '' },
  ],
  thermocouple: [
    { key: 'type', label: 'Type', form: 'text', choices: THERMOCOUPLES.map((type) => [type, type] as const), first: 'K' },
    { key: 'reference', label: 'Reference junction, °C', help: '0 where the card makes up for it.', first: '0' },
  ],
  platinum: [{ key: 'r0', label: 'Sensor', choices: PLATINUM_SENSORS.map((r0) => [String(r0), `Pt${r0}`] as const), first: '100', isWide: true }],
  modulus: [
    { key: 'by', label: 'Divided by', first: '360' },
    { key: 'from', label: 'Begins at', help: '-180 for −180 … 180; empty for 0.', first: '', isOptional: true },
  ],
  clamp: [
    { key: 'low', label: 'Not below', of: 'out', first: '0' },
    { key: 'high', label: 'Not above', of: 'out', first: '100' },
  ],
  texts: [{ key: 'names', label: 'Texts', help: 'As in 0=off; 1=heating; 2=fault.', form: 'text', first: '', isWide: true }],
};

/** Raw spans that cards and drives have, by their numbers (common practice). */
export const RAW_SPANS: readonly (readonly [low: number, high: number, words: string])[] = [
  [0, 27_648, '0 … 27648'],
  [-27_648, 27_648, '−27648 … 27648'],
  [5529.6, 27_648, '5529.6 … 27648: 4–20 mA on a card of 0–20 mA'],
  [0, 4095, '0 … 4095: 12 bits'],
  [819, 4095, '819 … 4095: 4–20 mA in 12 bits of 0–20 mA'],
  [0, 32_767, '0 … 32767: 15 bits'],
  [0, 65_535, '0 … 65535: 16 bits'],
  [0, 10_000, '0 … 10000'],
  [4000, 20_000, '4000 … 20000: µA'],
];
