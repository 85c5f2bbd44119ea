/**
 * The way from the adapter on the network to the processor: pairs of a port and what is addressed on it, `1,0` for the backplane
 * and slot 0, `1,3,2,192.0.2.7,1,0` through a second network. CIP volume 1, C-1.4.1 (port segments).
 */
import { fail, ok, type Result } from '../result.ts';
import { asciiOf, joined, u16 } from './bytes.ts';

const ADDRESS = /^[a-z0-9.:_-]{1,60}$/i;
const MOST_HOPS = 8;

/** @param text empty where the adapter itself is the processor. @returns the bytes of the port segments, a whole number of words */
export function parseRoute(text: string): Result<Uint8Array> {
  const parts = text.split(',').map((part) => part.trim());
  if (parts.length === 1 && parts[0] === '') return ok(new Uint8Array(0));
  if (parts.length % 2 === 1) return refused(text, 'each port has what is addressed on it after it');
  if (parts.length > 2 * MOST_HOPS) return refused(text, `it has more than ${MOST_HOPS} hops`);
  const segments: Uint8Array[] = [];
  for (let at = 0; at < parts.length; at += 2) {
    const [port = '', link = ''] = parts.slice(at, at + 2);
    const number = /^\d{1,5}$/.test(port) ? Number(port) : 0;
    if (number < 1 || number > 0xffff) return refused(text, `“${port.slice(0, 20)}” is no port: 1 is the backplane, 2 mostly the network`);
    const isSlot = /^\d{1,3}$/.test(link) && Number(link) < 256;
    if (!isSlot && !ADDRESS.test(link)) return refused(text, `“${link.slice(0, 20)}” is neither a slot nor an address`);
    const body = isSlot ? Uint8Array.of(Number(link)) : asciiOf(link);
    const head = (isSlot ? 0 : 0x10) | Math.min(number, 15);
    const segment = joined([head], isSlot ? [] : [body.length], number >= 15 ? u16(number) : [], body);
    segments.push(segment.length % 2 === 1 ? joined(segment, [0]) : segment);
  }
  return ok(joined(...segments));
}

function refused(text: string, why: string): Result<never> {
  return fail('route', `“${text.slice(0, 60)}” is no route: ${why}.`, 'Write port and slot, 1,0; nothing where the host itself is the processor.');
}
