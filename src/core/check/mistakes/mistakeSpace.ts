/** The space of plausible mistakes around one way to read a value: every single one, as the way that it leads to. */
import { timesTen, scaleOf, stepsOf, AS_IS, type Scale } from '../../scaling/scale.ts';
import type { SignalDefinition } from '../../signal.ts';
import { unitLine } from '../../units/unitLine.ts';
import { unitsLike } from '../../units/unitsLike.ts';
import { ORDERS, orderInWords, orderLike, orderWidth, type ByteOrder } from '../../value/byteOrder.ts';
import { formatDataType, parseDataType, type DataType } from '../../value/dataType.ts';
import type { Mistake, MistakeKind } from './mistake.ts';
import type { Way } from './way.ts';

export interface Mistaken {
  readonly mistake: Mistake;
  readonly way: Way;
}

/** What the memory of a device is made of, where it is made of anything. */
export interface Cells {
  /** Bytes of the step from one address to the next: 2 for registers. */
  readonly bytes: number;
  /** What one of them is called: `register`. */
  readonly name: string;
}

/** How far away a neighbour is looked for, in cells. */
export const FARTHEST_CELLS = 4;

/** Every single mistake of the kinds from one on, from what a way is. @param cells null where its source gives values, not bytes */
export function mistakesOf(way: Way, cells: Cells | null, from = 0): readonly (readonly Mistaken[])[] {
  return GENERATORS.map((generate, at) => (at < from ? [] : [...generate(way, cells)]));
}

type Generate = (way: Way, cells: Cells | null) => Iterable<Mistaken>;

/** In the order of {@link MISTAKE_KINDS}. */
const GENERATORS: readonly Generate[] = [places, widths, types, orders, bits, shifts, scales, tens, units, points];

function mistaken(kind: MistakeKind, words: string, cost: number, way: Way): Mistaken {
  return { mistake: { kind, words, cost }, way };
}

function* places(way: Way, cells: Cells | null): Iterable<Mistaken> {
  if (!cells) return;
  for (let by = 1; by <= FARTHEST_CELLS; by++)
    for (const sign of [1, -1]) {
      const count = by === 1 ? `one ${cells.name}` : `${by} ${cells.name}s`;
      const words = `${count} ${sign > 0 ? 'further on' : 'before'}${by === 1 ? ', as with another counting base' : ''}`;
      yield mistaken('place', words, by === 1 ? 1 : by === 2 ? 1.4 : 1.7, { ...way, at: way.at + sign * by * cells.bytes });
    }
}

/** Types of other widths that a value may have been taken for. The one of the same sign, and a real. */
const WIDER: Readonly<Record<string, readonly string[]>> = {
  INT: ['DINT', 'REAL'],
  UINT: ['UDINT', 'REAL'],
  WORD: ['DWORD', 'REAL'],
  DINT: ['INT', 'LINT', 'LREAL'],
  UDINT: ['UINT', 'ULINT', 'LREAL'],
  DWORD: ['WORD', 'LWORD', 'LREAL'],
  REAL: ['INT', 'UINT', 'LREAL'],
  LINT: ['DINT', 'INT', 'REAL'],
  ULINT: ['UDINT', 'UINT', 'REAL'],
  LWORD: ['DWORD', 'WORD', 'REAL'],
  LREAL: ['REAL', 'DINT', 'INT'],
};

/** Types of the same width. */
const SIBLINGS: Readonly<Record<string, readonly string[]>> = {
  INT: ['UINT', 'UINT bcd'],
  UINT: ['INT', 'UINT bcd'],
  WORD: ['INT', 'UINT', 'UINT bcd'],
  'UINT bcd': ['INT', 'UINT'],
  SINT: ['USINT'],
  USINT: ['SINT'],
  BYTE: ['SINT'],
  DINT: ['UDINT', 'REAL', 'UDINT bcd'],
  UDINT: ['DINT', 'REAL', 'UDINT bcd'],
  'UDINT bcd': ['DINT', 'UDINT', 'REAL'],
  DWORD: ['REAL', 'DINT', 'UDINT'],
  REAL: ['DINT', 'UDINT'],
  LINT: ['ULINT', 'LREAL'],
  ULINT: ['LINT', 'LREAL'],
  LWORD: ['LREAL', 'LINT', 'ULINT'],
  LREAL: ['LINT', 'ULINT'],
};

const typesByName = new Map<string, DataType | null>();

function typeNamed(name: string): DataType | null {
  let type = typesByName.get(name);
  if (type === undefined) {
    const parsed = parseDataType(name);
    typesByName.set(name, (type = parsed.ok ? parsed.value : null));
  }
  return type;
}

function* widths(way: Way, cells: Cells | null): Iterable<Mistaken> {
  const { def } = way;
  if (!cells || def.type.kind === 'boolean' || def.type.kind === 'text') return;
  for (const name of WIDER[formatDataType(def.type)] ?? []) {
    const type = typeNamed(name);
    if (type)
      yield mistaken('width', `read as ${name}, ${type.bytes * 8} bits`, 1.4, { ...way, def: { ...def, type, order: orderFor(def.order, type) } });
  }
}

function orderFor(order: ByteOrder, type: DataType): ByteOrder {
  return orderLike(order === 'AB' ? 'ABCD' : order === 'BA' ? 'BADC' : order, orderWidth(type));
}

function* types(way: Way, cells: Cells | null): Iterable<Mistaken> {
  const { def } = way;
  // A source that gives values says their type itself.
  if (!cells || def.type.kind === 'boolean' || def.type.kind === 'text') return;
  for (const name of SIBLINGS[formatDataType(def.type)] ?? []) {
    const type = typeNamed(name);
    if (!type) continue;
    const isSign = type.kind === 'integer' && def.type.kind === 'integer' && type.coding === def.type.coding;
    const words = isSign ? `read as ${name}, ${type.signed ? 'with' : 'without'} a sign` : `read as ${name}`;
    yield mistaken('type', words, isSign ? 1 : 1.2, { ...way, def: { ...def, type } });
  }
}

function* orders(way: Way, cells: Cells | null): Iterable<Mistaken> {
  const { def } = way;
  if (!cells || def.isTyped || def.bit !== null || def.type.kind === 'boolean') return;
  const width = orderWidth(def.type);
  for (const order of ORDERS[width]) {
    if (order === def.order) continue;
    const words = orderInWords(order);
    const cost = words === 'words swapped' || def.order !== ORDERS[width][0] ? 1 : width === 2 || words === 'bytes swapped' ? 1.2 : 1.3;
    yield mistaken('order', `${words} (${order})`, cost, { ...way, def: { ...def, order } });
  }
}

function* bits(way: Way): Iterable<Mistaken> {
  const { def } = way;
  if (def.bit === null) return;
  for (let bit = 0; bit < 16; bit++) {
    if (bit === def.bit) continue;
    const cost = Math.abs(bit - def.bit) === 1 ? 1 : bit === 15 - def.bit || bit === (def.bit ^ 8) ? 1.2 : 1.5;
    yield mistaken('bit', `bit ${bit}`, cost, { ...way, def: { ...def, bit } });
  }
}

const SHIFTS = [1, 2, 3, 4, 8];

function* shifts(way: Way): Iterable<Mistaken> {
  if (way.def.type.kind !== 'integer' || way.def.isTyped) return;
  for (const by of SHIFTS)
    for (const bits of [-by, by]) {
      const words = `shifted by ${by} ${by === 1 ? 'bit' : 'bits'} to the ${bits > 0 ? 'left' : 'right'}`;
      yield mistaken('shift', words, by === 4 || by === 8 ? 1.5 : 1.7, { ...way, bits });
    }
}

function isNumber({ type }: SignalDefinition): boolean {
  return type.kind === 'integer' || type.kind === 'real';
}

function* scales(way: Way): Iterable<Mistaken> {
  const { def } = way;
  const steps = stepsOf(def.scale);
  const last = steps.at(-1);
  if (last?.kind === 'linear') {
    const swapped: Scale = scaleOf([...steps.slice(0, -1), { ...last, engA: last.engB, engB: last.engA }]);
    yield mistaken('scale', 'the ends of the scale swapped', 1.4, { ...way, def: { ...def, scale: swapped } });
  }
  if (isNumber(def) && steps.some(({ kind }) => kind !== 'power' && kind !== 'unit'))
    yield mistaken('scale', 'shown without its scale', 1.3, { ...way, def: { ...def, scale: AS_IS } });
}

const unitsBeside = new Map<string, readonly string[]>();

/** Units of the trade that a value may have been left in. */
function otherUnits(unit: string): readonly string[] {
  let units = unitsBeside.get(unit);
  if (!units) unitsBeside.set(unit, (units = unit === '' ? [] : unitsLike(unit).filter((other) => isNear(unit, other))));
  return units;
}

/** Nobody takes millimetres for kilometres and does not see it. */
const FARTHEST_FACTOR = 1e5;

function isNear(unit: string, other: string): boolean {
  const line = unitLine(unit, other);
  const factor = line.ok ? Math.abs(Number(line.value.p) / Number(line.value.r)) : Infinity;
  return factor <= FARTHEST_FACTOR && factor >= 1 / FARTHEST_FACTOR;
}

function* units(way: Way): Iterable<Mistaken> {
  const { def } = way;
  if (!isNumber(def)) return;
  const steps = stepsOf(def.scale);
  const last = steps.at(-1);
  if (last?.kind === 'unit') yield mistaken('unit', `left in ${last.from}`, 1.1, { ...way, def: { ...def, scale: scaleOf(steps.slice(0, -1)) } });
  for (const other of otherUnits(def.unit)) {
    const turned = (from: string, to: string): Way => ({ ...way, def: { ...def, scale: scaleOf([...steps, { kind: 'unit', from, to }]) } });
    yield mistaken('unit', `${other} taken for ${def.unit}`, 1.2, turned(other, def.unit));
    yield mistaken('unit', `turned into ${other}`, 1.2, turned(def.unit, other));
  }
}

const TENS = [1, 2, 3];

function* tens(way: Way): Iterable<Mistaken> {
  const { def } = way;
  if (!isNumber(def)) return;
  for (const exponent of TENS)
    for (const sign of [1, -1]) {
      const times = `${10 ** exponent} times ${sign > 0 ? 'larger' : 'smaller'}`;
      yield mistaken('ten', `a scale ${times}`, exponent === 1 ? 1 : 1.2, { ...way, def: { ...def, scale: timesTen(def.scale, sign * exponent) } });
    }
}

function* points(way: Way): Iterable<Mistaken> {
  const { def } = way;
  if (!isNumber(def) || def.decimals === null) return;
  for (let places = 0; places <= 4; places++) {
    if (places === def.decimals) continue;
    const words = `the decimal point before the last ${places === 1 ? 'digit' : `${places} digits`}`;
    yield mistaken('point', places === 0 ? 'no decimal point' : words, 1.3, { ...way, point: def.decimals - places });
  }
}
