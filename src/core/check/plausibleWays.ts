/** Other ways to read bytes by which an implausible value would be one that a process has. Told as a question. */
import { followWire, type SignalDefinition, type WireValue, unjudged } from '../signal.ts';
import { ORDERS, orderInWords, orderWidth, type ByteOrder } from '../value/byteOrder.ts';
import { formatDataType, parseDataType, type DataType } from '../value/dataType.ts';
import { asNumber } from '../value/engineering.ts';
import { lettersIn } from '../value/plausible.ts';

export interface PlausibleWay {
  readonly type: string;
  readonly order: ByteOrder;
  /** What it would show. */
  readonly text: string;
  /** How it differs: `words swapped`, `read as DINT`. */
  readonly words: string;
}

const TYPES: Readonly<Record<number, readonly string[]>> = { 4: ['REAL', 'DINT', 'UDINT'], 8: ['LREAL', 'LINT', 'ULINT'] };
const [LEAST, MOST] = [1e-3, 1e7];

/**
 * Those first that are plausible for what was seen before too, and among them the simplest change; nothing where the value came typed.
 *
 * @param seen values of before, of the same length
 * @param most how many are wanted
 */
export function plausibleWays(def: SignalDefinition, wire: WireValue, seen: readonly WireValue[] = [], most = 4): readonly PlausibleWay[] {
  if (wire.kind !== 'bytes') return [];
  const { bytes } = wire;
  const ways: (PlausibleWay & { readonly effort: number })[] = [];
  const offer = (type: DataType, order: ByteOrder): void => {
    const isSameType = formatDataType(type) === formatDataType(def.type);
    if (isSameType && order === def.order) return;
    const scale = isSameType ? def.scale : ({ kind: 'none' } as const);
    const read: SignalDefinition = { ...unjudged(def), type, order, scale, bit: null };
    if (!isPlausible(read, wire)) return;
    const words = [...(isSameType ? [] : [`read as ${formatDataType(type)}`]), ...(order === def.order ? [] : [orderInWords(order)])].join(', ');
    // A number with decimals is likelier right: few patterns are plausible ones by chance.
    const effort =
      10 * seen.filter((each) => !isPlausible(read, each)).length +
      (isSameType ? 0 : 2) +
      (order === def.order ? 0 : 1) +
      (type.kind === 'real' ? 0 : 0.5);
    ways.push({ type: formatDataType(type), order, text: followWire(read, wire).text, words, effort });
  };
  for (const name of TYPES[bytes.length] ?? []) {
    const type = parseDataType(name);
    if (type.ok) for (const order of ORDERS[orderWidth(type.value)]) offer(type.value, order);
  }
  const unsignedToo = ways.filter(
    (way) => !(way.type.startsWith('U') && ways.some((other) => other.type === way.type.slice(1) && other.order === way.order)),
  );
  const text = lettersIn(bytes);
  const asText =
    text === null ? [] : [{ type: `STRING(${bytes.length})`, order: 'AB', text, words: `read as a text of ${bytes.length} characters`, effort: 1.2 }];
  return [...unsignedToo, ...asText]
    .sort((a, b) => a.effort - b.effort)
    .slice(0, most)
    .map(({ effort: _effort, ...way }) => way);
}

/** A number of a size that processes have; zero says nothing. */
function isPlausible(def: SignalDefinition, wire: WireValue): boolean {
  const { raw, quality } = followWire(def, wire);
  const number = raw === null || typeof raw === 'string' ? null : asNumber(raw);
  return quality.level !== 'bad' && number !== null && Math.abs(number) >= (def.type.kind === 'real' ? LEAST : 1) && Math.abs(number) <= MOST;
}
