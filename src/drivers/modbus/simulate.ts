/** What a simulation of a device has to know of a tag. */
import { fail, ok, type Result } from '@/core/result.ts';
import { toEngineering } from '@/core/scaling/scale.ts';
import { asNumber } from '@/core/value/engineering.ts';
import type { Settings, SimulatedTag, SimulationPart } from '../contract.ts';
import { parseCanonical } from './notation.ts';
import { deviceOf, dialectOf } from './settings.ts';

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

/** @param isLine the devices stand behind a serial gateway; else each is a host of its own */
export function simulationOf(isLine: boolean, lineSpeed: (link: Settings) => number): SimulationPart {
  return {
    config(link, devices) {
      const told = [];
      for (const { name, settings, dialect, tags } of devices) {
        if (dialectOf(dialect).wide === 'one')
          return fail(
            'not-simulated',
            `${name} keeps 32-bit values behind one address, which is not simulated.`,
            'Choose two addresses for the time being.',
          );
        const simulated = tags.map(simulatedTag).flatMap((tag) => (tag.ok ? tag.value : []));
        told.push({ unit: deviceOf(settings).unit, name, tags: simulated });
      }
      if (told.every(({ tags }) => tags.length === 0)) return fail('nothing-to-simulate', 'No device of this link has tags.', 'Import a list first.');
      return ok({ form: isLine ? 'rtu' : 'tcp', speed: isLine ? lineSpeed(link) : USUAL_SPEED, devices: told });
    },
    reach: (link, port) =>
      isLine
        ? { driver: 'modbus-gateway', settings: { host: '127.0.0.1', port, speed: lineSpeed(link) } }
        : { driver: 'modbus-tcp', settings: { host: '127.0.0.1', port } },
  };
}

const USUAL_SPEED = 19_200;

function simulatedTag({ name, canonical, def, isSetPoint }: SimulatedTag): Result<SimulatedTagJson> {
  const address = parseCanonical(canonical);
  if (!address) return fail('address', `${name}: “${canonical}” is not a Modbus address.`);
  const { type } = def;
  const isDate = type.kind === 'integer' && (type.coding === 'parts' || type.coding === 'bcd-clock');
  const kind = isDate ? 'date' : type.kind === 'integer' ? (type.signed ? 'signed' : 'unsigned') : type.kind;
  // A scale is a line: two of its points give it.
  const at = (raw: number): number => asNumber(toEngineering(def.scale, raw).value) ?? raw;
  const isNumber = kind === 'signed' || kind === 'unsigned' || kind === 'real';
  const shift = isNumber ? at(0) : 0;
  const factor = isNumber ? at(1) - shift : 1;
  // What an integer of this scale can hold at all, with room to move.
  const raws = type.kind === 'integer' ? [Number(type.min), Number(type.max)] : [-1e9, 1e9];
  const ends = raws.map((raw) => raw * factor + shift).sort((a, b) => a - b);
  const wanted = def.range ?? USUAL;
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
    unit: def.unit,
    low: Math.max(wanted.low, ends[0] ?? wanted.low),
    high: Math.min(wanted.high, ends[1] ?? wanted.high),
    isSetPoint,
  });
}
