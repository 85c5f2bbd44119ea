/**
 * A read whose reply cannot be mistaken for the reply to another one. Frames of a serial line carry no number: what
 * tells two replies apart is their function and their length (Modbus Application Protocol V1.1b3, 6.1 to 6.4).
 */
import { LIMITS } from './pdu.ts';

/**
 * @param ask   the request that is to follow; the read asks for some of what it asks for, where it is a read itself
 * @param owed  requests whose replies may still come
 * @param shift 1 for another function than any of theirs, where an exception would be ambiguous
 */
export function distinctRead(ask: Uint8Array, owed: readonly Uint8Array[], shift: 0 | 1 = 0): Uint8Array {
  const isRead = isReadRequest(ask);
  const own = isRead ? (ask[0] ?? 3) : 3;
  const fn = shift === 0 ? own : ([3, 4, 1, 2].find((f) => f !== own && !owed.some((pdu) => pdu[0] === f)) ?? own);
  const start = isRead && fn === own ? word(ask, 1) : 0;
  const count = isRead && fn === own ? word(ask, 3) : 1;
  const taken = new Set(owed.filter((pdu) => pdu[0] === fn && isReadRequest(pdu)).map((pdu) => dataBytes(fn, word(pdu, 3))));
  const wanted = countsFor(fn, count).find((c) => !taken.has(dataBytes(fn, c))) ?? count;
  const from = Math.min(start, 65_536 - wanted);
  return Uint8Array.of(fn, from >> 8, from & 0xff, wanted >> 8, wanted & 0xff);
}

function isReadRequest(pdu: Uint8Array): boolean {
  const fn = pdu[0] ?? 0;
  return fn >= 1 && fn <= 4 && pdu.length === 5;
}

/** Counts to try: fewer than were asked for first, since those are sure to be there. */
function countsFor(fn: number, count: number): readonly number[] {
  const most = fn <= 2 ? LIMITS.readBits : LIMITS.readRegisters;
  const step = fn <= 2 ? 8 : 1;
  const fewer: number[] = [];
  for (let c = fn <= 2 ? (dataBytes(fn, count) - 1) * 8 : count - 1; c >= 1 && fewer.length < 10; c -= step) fewer.push(c);
  const more = Array.from({ length: 10 }, (_, i) => (fn <= 2 ? dataBytes(fn, count) * 8 + 1 + 8 * i : count + 1 + i));
  return [...fewer, ...more.filter((c) => c <= most)];
}

function dataBytes(fn: number, count: number): number {
  return fn <= 2 ? (count + 7) >> 3 : count * 2;
}

function word(bytes: Uint8Array, at: number): number {
  return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
}
