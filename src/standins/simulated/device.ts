/** A device made from the tags of a project: memory that the tags lie in, values that move or are set by hand. */
import type { Told } from '../controlChannel.ts';
import type { Memory } from '../modbusServer.ts';
import { fromBytes, toBytes, type Shown, type SimulatedTag } from './value.ts';

export interface SimulatedDevice {
  readonly memory: Memory;
  /** @param seconds since it began */
  readonly move: (seconds: number) => void;
  readonly tell: () => Readonly<Record<string, Told>>;
  /** Sets a value by hand, which then stands still. False for a tag that it has not. */
  readonly set: (name: string, value: unknown) => boolean;
}

export function simulatedDevice(name: string, tags: readonly SimulatedTag[]): SimulatedDevice {
  const end = (area: SimulatedTag['area']): number =>
    Math.max(0, ...tags.filter((t) => t.area === area).map((t) => t.offset + (area === 'HR' || area === 'IR' ? Math.ceil(t.bytes / 2) : 1)));
  const holding = Buffer.alloc(end('HR') * 2);
  const input = Buffer.alloc(end('IR') * 2);
  const coils = new Uint8Array(end('CO'));
  const discrete = new Uint8Array(end('DI'));
  const taken = new Set(tags.flatMap((t) => (t.area === 'HR' ? Array.from({ length: Math.ceil(t.bytes / 2) }, (_, i) => t.offset + i) : [])));
  /** Values that somebody has set, by hand or from a panel. */
  const still = new Set<string>();

  const put = (tag: SimulatedTag, shown: Shown): void => {
    if (tag.area === 'CO' || tag.area === 'DI') {
      (tag.area === 'CO' ? coils : discrete)[tag.offset] = shown === true ? 1 : 0;
      return;
    }
    const words = tag.area === 'HR' ? holding : input;
    if (tag.bit === null) {
      toBytes(tag, shown, words.subarray(tag.offset * 2, tag.offset * 2 + tag.bytes + (tag.bytes % 2))).copy(words, tag.offset * 2);
      return;
    }
    const at = wireBit(tag);
    const byte = words[at.byte] ?? 0;
    words[at.byte] = shown === true ? byte | at.mask : byte & ~at.mask;
  };
  const held = (tag: SimulatedTag): Shown => {
    if (tag.area === 'CO' || tag.area === 'DI') return (tag.area === 'CO' ? coils : discrete)[tag.offset] === 1;
    const words = tag.area === 'HR' ? holding : input;
    if (tag.bit === null) return fromBytes(tag, words.subarray(tag.offset * 2, tag.offset * 2 + tag.bytes + (tag.bytes % 2)));
    const at = wireBit(tag);
    return ((words[at.byte] ?? 0) & at.mask) !== 0;
  };
  const begin = (tag: SimulatedTag): Shown =>
    tag.kind === 'text' ? `SIM ${name}` : tag.kind === 'date' ? '2026-03-01-06:30:00' : tag.kind === 'boolean' ? false : (tag.low + tag.high) / 2;
  for (const tag of tags) put(tag, begin(tag));

  return {
    memory: {
      holding,
      input,
      coils,
      discrete,
      missing: (register) => !taken.has(register),
      written: (area, start, count) => {
        for (const tag of tags) {
          const size = tag.area === 'HR' ? Math.ceil(tag.bytes / 2) : 1;
          if (tag.area === (area === 'holding' ? 'HR' : 'CO') && tag.offset < start + count && start < tag.offset + size) still.add(tag.name);
        }
      },
      identity: ['simulated', name, '1'],
    },
    move: (seconds) => {
      tags.forEach((tag, i) => {
        if (still.has(tag.name) || tag.isSetPoint || tag.kind === 'text' || tag.kind === 'date') return;
        const wave = Math.sin((2 * Math.PI * seconds) / (20 + (i % 7) * 6) + i);
        put(tag, tag.kind === 'boolean' ? wave > 0.3 : (tag.low + tag.high) / 2 + ((tag.high - tag.low) / 2) * 0.8 * wave);
      });
    },
    tell: () => Object.fromEntries(tags.map((tag) => [tag.name, { value: held(tag), unit: tag.unit }])),
    set: (tagName, value) => {
      const tag = tags.find((t) => t.name === tagName);
      const wanted = tag?.kind === 'boolean' ? 'boolean' : tag?.kind === 'text' || tag?.kind === 'date' ? 'string' : 'number';
      if (!tag || typeof value !== wanted) return false;
      still.add(tag.name);
      put(tag, value as Shown);
      return true;
    },
  };
}

/** Where a bit of a register lies in memory; a device that swaps bytes swaps them here too. */
function wireBit({ offset, bit, order }: SimulatedTag): { readonly byte: number; readonly mask: number } {
  const isHigh = (bit ?? 0) > 7;
  return { byte: offset * 2 + (isHigh === (order === 'BA') ? 1 : 0), mask: 1 << ((bit ?? 0) & 7) };
}
