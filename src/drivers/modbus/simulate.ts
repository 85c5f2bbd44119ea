/** What a simulation of a device has to know of a tag. */
import type { Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { toEngineering } from '@/core/scaling/scale.ts';
import { asNumber } from '@/core/value/engineering.ts';
import type { EffectiveSignal } from '../effective.ts';
import { parseCanonical } from './notation.ts';

/** Values move between these where a tag has no range of its own. */
const USUAL = { low: 0, high: 100 };

/** As the stand-in reads it: plain JSON. */
export interface SimulatedTagJson {
  readonly name: string;
  readonly area: 'HR' | 'IR' | 'CO' | 'DI';
  readonly offset: number;
  readonly bit: number | null;
  readonly kind: 'boolean' | 'signed' | 'unsigned' | 'real' | 'text';
  readonly bytes: number;
  readonly order: string;
  readonly factor: number;
  readonly shift: number;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
  readonly isSetPoint: boolean;
}

export function simulatedTag(tag: Tag, { canonical, def }: EffectiveSignal): Result<SimulatedTagJson> {
  const address = parseCanonical(canonical);
  if (!address) return fail('address', `${tag.name}: “${canonical}” is not a Modbus address.`);
  const { type } = def;
  const kind = type.kind === 'integer' ? (type.signed ? 'signed' : 'unsigned') : type.kind;
  // A scale is a line: two of its points give it.
  const at = (raw: number): number => asNumber(toEngineering(def.scale, raw).value) ?? raw;
  const isNumber = kind === 'signed' || kind === 'unsigned' || kind === 'real';
  const shift = isNumber ? at(0) : 0;
  const factor = isNumber ? at(1) - shift : 1;
  // What an integer of this scale can hold at all, with room to move.
  const bits = type.bytes * 8;
  const raws = kind === 'real' ? [-1e9, 1e9] : kind === 'signed' ? [-(2 ** (bits - 1)), 2 ** (bits - 1) - 1] : [0, 2 ** bits - 1];
  const ends = raws.map((raw) => raw * factor + shift).sort((a, b) => a - b);
  const wanted = def.range ?? USUAL;
  return ok({
    name: tag.name,
    area: address.area,
    offset: address.offset,
    bit: address.bit,
    kind,
    bytes: type.kind === 'boolean' ? 2 : type.bytes,
    order: def.order,
    factor,
    shift,
    unit: def.unit,
    low: Math.max(wanted.low, ends[0] ?? wanted.low),
    high: Math.min(wanted.high, ends[1] ?? wanted.high),
    isSetPoint: tag.access === 'readWrite',
  });
}
