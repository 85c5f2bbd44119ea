/** What the stand-in that lays out memory by code of its own is told of the tags of a project: an independent peer for our codec. */
import { fail, ok, type Result } from '@/core/result.ts';
import { drawnSpan, toEngineering, toRaw } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { asNumber } from '@/core/value/engineering.ts';
import type { Settings } from '@/drivers/contract.ts';
import { parseCanonical } from '@/drivers/modbus/notation.ts';
import { deviceOf, dialectOf } from '@/drivers/modbus/settings.ts';

/** Values move between these where a tag has no range of its own. */
const USUAL = { low: 0, high: 100 };

/** As the stand-in reads it: plain JSON. */
interface SimulatedTagJson {
  readonly name: string;
  readonly area: 'HR' | 'IR' | 'CO' | 'DI';
  readonly offset: number;
  readonly bit: number | null;
  readonly kind: 'boolean' | 'signed' | 'unsigned' | 'real' | 'text' | 'date';
  readonly bytes: number;
  /** How digits or dates make a number. */
  readonly coding: string;
  /** Bits of the value under a mask. */
  readonly field: { readonly low: number; readonly bits: number } | null;
  /** Where a text ends, and its characters; null for anything else. */
  readonly text: { readonly layout: string; readonly characters: string; readonly unit: 1 | 2 } | null;
  readonly order: string;
  readonly factor: number;
  readonly shift: number;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
  readonly isSetPoint: boolean;
}

export interface SimulatedDevice {
  readonly name: string;
  readonly settings: Settings;
  readonly dialect: Settings;
  readonly tags: readonly SimulatedTag[];
}
export interface SimulatedTag {
  readonly name: string;
  readonly canonical: string;
  readonly def: SignalDefinition;
  /** The controller takes what is written to it. */
  readonly isSetPoint: boolean;
}

/** The configuration of the stand-in; refused where it cannot do what the devices do. */
export function simulatedConfig(devices: readonly SimulatedDevice[]): Result<object> {
  const told = [];
  for (const { name, settings, dialect, tags } of devices) {
    if (dialectOf(dialect).wide === 'one') return fail('not-simulated', `${name} keeps 32-bit values behind one address, which is not simulated.`);
    const simulated = tags.map(simulatedTag).flatMap((tag) => (tag.ok ? tag.value : []));
    told.push({ unit: deviceOf(settings).unit, name, tags: simulated });
  }
  return ok({ form: 'tcp', speed: USUAL_SPEED, devices: told });
}

const USUAL_SPEED = 19_200;

function simulatedTag({ name, canonical, def, isSetPoint }: SimulatedTag): Result<SimulatedTagJson> {
  const address = parseCanonical(canonical);
  if (!address) return fail('address', `${name}: “${canonical}” is not a Modbus address.`);
  const { type } = def;
  const isDate = type.kind === 'integer' && (type.coding === 'parts' || type.coding === 'bcd-clock');
  const kind = isDate ? 'date' : type.kind === 'integer' ? (type.signed ? 'signed' : 'unsigned') : type.kind;
  const isNumber = kind === 'signed' || kind === 'unsigned' || kind === 'real';
  const line = isNumber ? straightLine(def) : AS_COUNTED;
  const { factor, shift } = line ?? AS_COUNTED;
  // What an integer of this scale can hold at all, with room to move.
  const raws = type.kind === 'integer' ? [Number(type.min), Number(type.max)] : [-1e9, 1e9];
  const ends = raws.map((raw) => raw * factor + shift).sort((a, b) => a - b);
  // On a curve the device moves its counts, and tells them: nothing else here knows the curve.
  const wanted = line ? (def.range ?? USUAL) : rawRange(def);
  return ok({
    name,
    area: address.area,
    offset: address.offset,
    bit: address.bit,
    kind,
    bytes: type.kind === 'boolean' ? 2 : type.bytes,
    coding: type.kind === 'integer' ? (isDate ? `${type.coding} ${type.time?.shows ?? ''}` : type.coding) : 'binary',
    field: type.kind === 'integer' ? type.field : null,
    text:
      type.kind === 'text'
        ? { layout: type.layout, characters: type.characters, unit: type.name === 'WSTRING' || type.name === 'WCHAR' ? 2 : 1 }
        : null,
    order: def.order,
    factor,
    shift,
    unit: line ? def.unit : 'counts',
    low: Math.max(wanted.low, ends[0] ?? wanted.low),
    high: Math.min(wanted.high, ends[1] ?? wanted.high),
    isSetPoint,
  });
}

const AS_COUNTED = { factor: 1, shift: 0 } as const;
const LOOKED_AT = 16;

/** Two points of a scale give it where it is a straight line over its range; null for a curve. */
function straightLine(def: SignalDefinition): typeof AS_COUNTED | { readonly factor: number; readonly shift: number } | null {
  const at = (raw: number): number => asNumber(toEngineering(def.scale, raw).value) ?? NaN;
  const shift = at(0);
  const factor = at(1) - shift;
  const { low, high } = rawRange(def);
  for (let i = 0; i <= LOOKED_AT; i++) {
    const raw = low + ((high - low) * i) / LOOKED_AT;
    const expected = shift + factor * raw;
    if (!(Math.abs(at(raw) - expected) <= 1e-6 * (Math.abs(expected) + Math.abs(factor)))) return null;
  }
  return { factor, shift };
}

/** Raw values that it may have: those of its range, those that its scale is drawn over, or some. */
function rawRange({ scale, range, type }: SignalDefinition): { readonly low: number; readonly high: number } {
  const ends = range && [toRaw(scale, range.low, false), toRaw(scale, range.high, false)].flatMap((raw) => (raw.ok ? [Number(raw.value)] : []));
  const [low, high] = ends?.length === 2 ? ends.sort((a, b) => a - b) : (drawnSpan(scale) ?? [USUAL.low, USUAL.high]);
  const [least, most] = type.kind === 'integer' ? [Number(type.min), Number(type.max)] : [-Infinity, Infinity];
  return { low: Math.max(low ?? 0, least), high: Math.min(high ?? 0, most) };
}
