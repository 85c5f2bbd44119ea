/** Which single setting would turn a wrong value into the expected one. */
import { timesTen } from '../scaling/scale.ts';
import { followWire, otherOrders, type SignalDefinition, type WireValue, unjudged } from '../signal.ts';
import { orderInWords } from '../value/byteOrder.ts';
import { parseDataType, type DataType } from '../value/dataType.ts';
import { asNumber } from '../value/engineering.ts';

export interface Expectation {
  readonly low: number;
  readonly high: number;
}

export interface Suggestion {
  readonly setting: 'order' | 'type' | 'scale';
  /** The setting's new value as it would be entered. */
  readonly value: string;
  /** The value that would be shown. */
  readonly text: string;
  /** “words swapped would give 98.2 °C”. */
  readonly sentence: string;
}

/** Other types of the same width that a controller may have meant. */
const SIBLINGS: Readonly<Record<string, readonly string[]>> = {
  INT: ['UINT'],
  UINT: ['INT'],
  WORD: ['INT', 'UINT'],
  SINT: ['USINT'],
  USINT: ['SINT'],
  DINT: ['REAL', 'UDINT'],
  UDINT: ['REAL', 'DINT'],
  DWORD: ['REAL', 'DINT', 'UDINT'],
  REAL: ['DINT', 'UDINT'],
  LINT: ['LREAL', 'ULINT'],
  ULINT: ['LREAL', 'LINT'],
  LWORD: ['LREAL', 'LINT', 'ULINT'],
  LREAL: ['LINT', 'ULINT'],
};

/**
 * Tries every other order, then every other type of the same width, then factors of ten, one at a time.
 * @returns the changes that bring the value inside the expectation, the likeliest first; empty when the value
 *          is inside already or nothing helps. A candidate that would show exactly zero is not offered for its
 *          order or type: wrong orders of reals are full of numbers next to zero.
 */
export function explain(def: SignalDefinition, wire: WireValue, expected: Expectation): readonly Suggestion[] {
  const bare: SignalDefinition = unjudged(def);
  if (inside(bare, wire, expected)) return [];
  const found: Suggestion[] = [];
  const offer = (setting: Suggestion['setting'], value: string, changed: SignalDefinition, words: string): void => {
    const stages = followWire(changed, wire);
    if (!inside(changed, wire, expected)) return;
    if (setting !== 'scale' && Math.abs(asNumber(stages.eng ?? '') ?? 0) < 1e-9) return;
    const unit = def.unit ? ` ${def.unit}` : '';
    found.push({ setting, value, text: stages.text, sentence: `${words} would give ${stages.text}${unit}` });
  };
  if (wire.kind === 'bytes') {
    for (const order of otherOrders(def)) offer('order', order, { ...bare, order }, orderInWords(order));
    for (const type of siblings(def.type)) offer('type', type.name, { ...bare, type }, `read as ${type.name} it`);
  }
  if (def.type.kind !== 'boolean' && def.type.kind !== 'text')
    for (const factor of [10, 0.1, 100, 0.01, 1000, 0.001]) {
      const words = factor >= 1 ? `${factor} times larger` : `${Math.round(1 / factor)} times smaller`;
      offer('scale', String(factor), { ...bare, scale: timesTen(def.scale, Math.round(Math.log10(factor))) }, `a scale ${words}`);
    }
  return found;
}

function inside(def: SignalDefinition, wire: WireValue, expected: Expectation): boolean {
  const { eng } = followWire(def, wire);
  const number = eng === null ? null : asNumber(eng);
  return number !== null && number >= expected.low && number <= expected.high;
}

function siblings(type: DataType): readonly DataType[] {
  return (SIBLINGS[type.name] ?? []).flatMap((name) => {
    const parsed = parseDataType(name);
    return parsed.ok ? [parsed.value] : [];
  });
}
