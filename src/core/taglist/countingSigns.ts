/**
 * Signs that the numbers of a list count from another number than those of its device: the whole list is then read one
 * register beside. They are told and asked about, never followed.
 */
import { AREA_WORDS, isRegisterArea, parseAddress, type CountingBase, type ModbusAddress } from '../modbus/address.ts';
import { followWire, type SignalDefinition, type WireValue, unjudged } from '../signal.ts';
import { asNumber } from '../value/engineering.ts';
import { parseDataType, registersOf, type DataType } from '../value/dataType.ts';
import { countsFromZero, plainNumber } from './addressRule.ts';

/** What the list then counts from, and an address of it that shows it. */
export interface CountingSign {
  readonly kind: 'before-first' | 'neighbour' | 'odd-pairs' | 'values';
  readonly countsFrom: CountingBase;
  readonly address: string;
  /** Addresses that show it. */
  readonly count: number;
  /** The tag that would be overlapped by one register; empty for the other kinds. */
  readonly neighbour: string;
}

/** A place as it is written and as it is read now. */
export interface CountedPlace {
  readonly address: string;
  readonly canonical: string;
  readonly type: string;
}

/** A tag that stands in the project already. */
export interface KnownPlace {
  readonly name: string;
  readonly canonical: string;
  readonly type: string;
}

/** So many values of several registers must begin at odd ones, and none at an even one. */
const MANY = 4;

/** @param base what numbers of the list count from as long as nothing is said */
export function countingSign(
  unread: readonly string[],
  places: readonly CountedPlace[],
  known: readonly KnownPlace[],
  base: CountingBase,
): CountingSign | null {
  const first = base === 1 ? unread.filter(countsFromZero) : [];
  if (first[0] !== undefined) return { kind: 'before-first', countsFrom: 0, address: first[0], count: first.length, neighbour: '' };
  const read = places.flatMap((place) => {
    const span = isCounted(place.address) ? spanOf(place) : null;
    return span ? [{ ...span, written: place.address, countsFrom: countedFrom(place.address, base) === 1 ? (0 as const) : (1 as const) }] : [];
  });
  return overlapping(read, known) ?? oddPairs(read);
}

type Span = ModbusAddress & { readonly count: number };
type CountedSpan = Span & { readonly written: string; readonly countsFrom: CountingBase };

/** Where it would lie if the list counted from the other number. */
const shiftOf = (countsFrom: CountingBase): 1 | -1 => (countsFrom === 0 ? 1 : -1);

/** Read one register beside, a value of several registers overlaps its neighbour in part; read right, it does not. */
function overlapping(read: readonly CountedSpan[], known: readonly KnownPlace[]): CountingSign | null {
  const takenBy = new Map<string, Span & { readonly name: string }>();
  for (const place of known) {
    const span = spanOf(place);
    if (span?.bit !== null) continue;
    for (let i = 0; i < span.count; i++) takenBy.set(`${span.area}${span.offset + i}`, { ...span, name: place.name });
  }
  const crossed = (area: string, offset: number, count: number): string | null => {
    for (let i = 0; i < count; i++) {
      const other = takenBy.get(`${area}${offset + i}`);
      if (other && (other.offset !== offset || other.count !== count)) return other.name;
    }
    return null;
  };
  const found: Pick<CountingSign, 'countsFrom' | 'address' | 'neighbour'>[] = [];
  for (const { area, offset, count, bit, written, countsFrom } of read) {
    if (bit !== null) continue;
    const here = crossed(area, offset, count);
    const there = crossed(area, offset + shiftOf(countsFrom), count);
    if (here === null && there !== null) return null;
    if (here !== null && there === null) found.push({ countsFrom, address: written, neighbour: here });
  }
  return found[0] ? { kind: 'neighbour', ...found[0], count: found.length } : null;
}

/** Values of several registers begin at even PDU addresses in most controllers (common practice). */
function oddPairs(read: readonly CountedSpan[]): CountingSign | null {
  const wide = read.filter(({ count, area }) => count > 1 && isRegisterArea(area));
  const [first] = wide;
  if (!first || wide.length < MANY || wide.some(({ offset }) => offset % 2 === 0)) return null;
  return { kind: 'odd-pairs', countsFrom: first.countsFrom, address: first.written, count: wide.length, neighbour: '' };
}

/** Whether what it names depends on what numbers count from. */
function isCounted(written: string): boolean {
  return plainNumber(written) !== null || /^[0134]\d{4,5}(\.\d{1,2})?$/.test(written.trim());
}

/** Plain numbers are PDU addresses as long as nothing is said. */
function countedFrom(written: string, base: CountingBase): CountingBase {
  return plainNumber(written) === null ? base : 0;
}

function spanOf({ canonical, type }: Pick<KnownPlace, 'canonical' | 'type'>): Span | null {
  const [address, read] = [parseAddress(canonical, 0), parseDataType(type)];
  return address.ok && read.ok ? { ...address.value, count: isRegisterArea(address.value.area) ? registersOf(read.value) : 1 } : null;
}

/** A value to be read where it is now and where it would be. */
export interface CountingSample {
  readonly address: string;
  readonly countsFrom: CountingBase;
  readonly here: string;
  readonly there: string;
}

/**
 * Addresses of the list whose values tell whether they are read at the right place: reals, and numbers with a range. Of
 * several registers only where the list names their order: words swapped look like words one register beside.
 */
export function countingSample(
  place: CountedPlace,
  known: { readonly range: boolean; readonly order: boolean },
  base: CountingBase,
): CountingSample | null {
  const span = isCounted(place.address) ? spanOf(place) : null;
  const type = parseDataType(place.type);
  if (!span || !type.ok || span.bit !== null || !isRegisterArea(span.area)) return null;
  if ((span.count > 1 && !known.order) || !tellsItself(type.value, known.range)) return null;
  const countsFrom = countedFrom(place.address, base) === 1 ? 0 : 1;
  const offset = span.offset + shiftOf(countsFrom);
  if (offset < 0 || offset + span.count > 65_536) return null;
  return { address: place.address, countsFrom, here: place.canonical, there: `${span.area}${offset}` };
}

function tellsItself(type: DataType, hasRange: boolean): boolean {
  return type.kind === 'real' || (type.kind === 'integer' && hasRange);
}

/** What was read at a place: `nothing` says neither yes nor no. */
export type Believable = 'yes' | 'no' | 'nothing';

/** Quantities of a machine lie between these (common practice); zero stands anywhere. */
const [SMALLEST, LARGEST] = [1e-5, 1e9];

/** @param wire null where the device refused to read there */
export function believable(def: SignalDefinition, wire: WireValue | null): Believable {
  if (wire === null) return 'no';
  const { eng } = followWire(unjudged(def), wire);
  const value = eng === null ? null : asNumber(eng);
  if (value === null) return 'no';
  if (def.range) return value >= def.range.low && value <= def.range.high ? (value === 0 ? 'nothing' : 'yes') : 'no';
  if (value === 0) return 'nothing';
  return Math.abs(value) >= SMALLEST && Math.abs(value) <= LARGEST ? 'yes' : 'no';
}

/** So many values must make sense beside their place alone, and none at it alone. */
const ENOUGH = 2;

export function signOfValues(seen: readonly (CountingSample & { readonly atHere: Believable; readonly atThere: Believable })[]): CountingSign | null {
  const shifted = seen.filter(({ atHere, atThere }) => atHere === 'no' && atThere === 'yes');
  const [first] = shifted;
  if (!first || shifted.length < ENOUGH || seen.some(({ atHere, atThere }) => atHere === 'yes' && atThere !== 'yes')) return null;
  return { kind: 'values', countsFrom: first.countsFrom, address: first.address, count: shifted.length, neighbour: '' };
}

/** One line: what shows it. */
export function countingSignInWords({ kind, countsFrom, address, count, neighbour }: CountingSign): string {
  const unless = `unless the list counts from ${countsFrom}`;
  switch (kind) {
    case 'before-first':
      return `${address} lies before the first ${areaOf(address)} ${unless}`;
    case 'neighbour':
      return `${address} overlaps ${neighbour} by part ${unless}`;
    case 'odd-pairs':
      return `All ${count} values of several registers begin at odd ones (${address}) ${unless}`;
    case 'values':
      return `${count} values of the device (${address}) make no sense ${unless}`;
  }
}

function areaOf(reference: string): string {
  const read = parseAddress(reference.trim(), 0);
  return read.ok ? AREA_WORDS[read.value.area] : 'register';
}
