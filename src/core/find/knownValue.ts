/** Where and how a value that is known from elsewhere stands in bytes that were read: type, order and scale of ten. */
import { fail, ok, type Result } from '../result.ts';
import { followWire, type SignalDefinition } from '../signal.ts';
import { AS_IS, type Scale } from '../scaling/scale.ts';
import { ORDERS, orderInWords, orderWidth, type ByteOrder } from '../value/byteOrder.ts';
import { parseDataType, registersOf } from '../value/dataType.ts';
import { decimalNumber, parseDecimal } from '../value/decimal.ts';
import { asNumber } from '../value/engineering.ts';

/** Bytes that were read, and what reading them there would mean. */
export interface ProbeReading {
  /** `HR0`, as the driver names places. */
  readonly canonical: string;
  /** Settings of the dialect that lead there: `{ countingBase: 1 }`. */
  readonly settings: Readonly<Record<string, unknown>>;
  /** How it was reached, in words: `function 3, counted from 1`. */
  readonly words: string;
  /** Whole registers from there on, as they came: two to eight bytes. */
  readonly bytes: Uint8Array;
}

export interface Candidate {
  /** The same for the same reading at another time. */
  readonly key: string;
  /** It shows the value to the last digit that was given, and not a neighbour. */
  readonly isExact: boolean;
  readonly canonical: string;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly type: string;
  readonly order: ByteOrder;
  /** Power of ten between raw and shown. */
  readonly exponent: number;
  readonly text: string;
  /** One line. */
  readonly words: string;
}

/** Signed types first: an unsigned one is named only where the value needs it. */
const TYPES = ['INT', 'UINT', 'REAL', 'DINT', 'UDINT', 'LREAL', 'LINT'] as const;
const TWIN: Readonly<Record<string, string>> = { UINT: 'INT', UDINT: 'DINT' };
const EXPONENTS = [0, -1, -2, -3];

/**
 * All readings that show the value, to one step of the last digit that was given: it may have moved meanwhile.
 * Those that show just that value first, and among equals the simplest: fewer registers, no swapping, no scale.
 */
export function matchKnownValue(readings: readonly ProbeReading[], text: string): Result<readonly Candidate[]> {
  const decimal = parseDecimal(text.trim());
  if (!decimal) return fail('unfit-value', `“${text.trim().slice(0, 40)}” is not a number.`, 'Write it with a decimal point: 23.5.', 'value');
  const wanted = decimalNumber(decimal);
  if (wanted === 0) return fail('says-nothing', 'Zero stands in too many places.', 'Choose a moment at which it shows another value.', 'value');
  const step = 10 ** -(text.trim().split('.')[1]?.length ?? 0);
  const found: Candidate[] = [];
  for (const reading of readings)
    for (const name of TYPES) {
      const type = parseDataType(name);
      if (!type.ok || registersOf(type.value) * 2 > reading.bytes.length) continue;
      const bytes = reading.bytes.subarray(0, registersOf(type.value) * 2);
      for (const order of ORDERS[orderWidth(type.value)])
        for (const exponent of type.value.kind === 'real' ? [0] : EXPONENTS) {
          const scale: Scale = exponent === 0 ? AS_IS : { kind: 'power', exponent };
          const def: SignalDefinition = { type: type.value, order, bit: null, scale, unit: '', decimals: null, range: null };
          const stages = followWire(def, { kind: 'bytes', bytes });
          const value = stages.eng === null ? null : asNumber(stages.eng);
          if (value === null || Math.abs(value - wanted) > step * (1 + 1e-9)) continue;
          const key = [reading.canonical, name, order, exponent].join(' ');
          const twin = TWIN[name] === undefined ? null : [reading.canonical, TWIN[name], order, exponent].join(' ');
          if (twin !== null && found.some((c) => c.key === twin)) continue;
          const scaled = exponent === 0 ? '' : `, divided by ${10 ** -exponent}`;
          const words = `${reading.words}: ${name}, ${orderInWords(order)}${scaled}`;
          const { canonical, settings } = reading;
          const isExact = Math.abs(value - wanted) <= (step / 2) * (1 + 1e-9);
          found.push({ isExact, key, canonical, settings, type: name, order, exponent, text: stages.text, words });
        }
    }
  const effort = (c: Candidate): number => {
    const type = parseDataType(c.type);
    const plain = type.ok ? (ORDERS[orderWidth(type.value)].indexOf(c.order) === 0 ? 0 : 1) : 0;
    return (type.ok ? registersOf(type.value) : 1) + plain + (c.exponent === 0 ? 0 : 0.5);
  };
  return ok(found.sort((a, b) => Number(b.isExact) - Number(a.isExact) || effort(a) - effort(b)));
}

/** Those that showed the first value at its time and the second at its own. */
export function settle(first: readonly Candidate[], second: readonly Candidate[]): readonly Candidate[] {
  return second.filter((c) => first.some((f) => f.key === c.key));
}
