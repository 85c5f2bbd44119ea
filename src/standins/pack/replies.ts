/** Numbers and refusals as messages carry them. */
import type { Refused } from './tagMemory.ts';

export function word(value: number): Buffer {
  const bytes = Buffer.alloc(2);
  bytes.writeUInt16LE(value & 0xffff);
  return bytes;
}
export function double(value: number): Buffer {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value >>> 0);
  return bytes;
}

export function refusedReply(service: number, general: number, ...extended: readonly number[]): Buffer {
  return Buffer.concat([Buffer.from([service | 0x80, 0, general, extended.length]), ...extended.map(word)]);
}
export function refusedPlace(service: number, { general, extended }: Refused): Buffer {
  return extended === 0 ? refusedReply(service, general) : refusedReply(service, general, extended);
}
