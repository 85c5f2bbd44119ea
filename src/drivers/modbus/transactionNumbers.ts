/**
 * Whether a device gives replies the numbers of their requests, while several are in flight. One that answers each under
 * the number it saw last would hand the value of one address to another. So every connection begins with one request
 * at a time; then two that are told apart by their length as well are sent together.
 */
import { distinctRead } from '@/core/modbus/distinctRead.ts';
import type { Answer, Ask } from './channel.ts';

export class TransactionNumbers {
  #state: 'untested' | 'testing' | 'right' | 'confused' = 'untested';

  /** A new connection. */
  forget(): void {
    this.#state = 'untested';
  }

  /**
   * Whether a request may be in flight together with others. Replies of two units are told apart without their numbers,
   * as long as no unit may answer for another.
   */
  mayJoin(ask: Ask, inFlight: ReadonlyMap<number, { readonly ask: Ask }>): boolean {
    if (inFlight.size === 0) return true;
    if (this.#state === 'confused' || inFlight.size >= ask.depth) return false;
    if (this.#state === 'right') return true;
    return ask.strictUnit && [...inFlight.values()].every((other) => other.ask.strictUnit && other.ask.unit !== ask.unit);
  }

  /** Whether the numbers are to be tested now, by means of a read that was just answered with data. */
  begins(ask: Ask): boolean {
    if (this.#state !== 'untested' || ask.depth < 2 || !isRead(ask.pdu)) return false;
    this.#state = 'testing';
    return true;
  }

  /** Two reads of different length, the first of which was answered before. */
  pair(ask: Ask): readonly [Ask, Ask] {
    return [ask, { ...ask, pdu: distinctRead(ask.pdu, [ask.pdu]) }];
  }

  /** @returns whether the device confuses its numbers, or serves one request at a time only */
  judge(known: Answer, other: Answer): boolean {
    if (this.#state !== 'testing') return false;
    // What was never sent tells nothing.
    if ((!known.ok && !known.sent) || (!other.ok && !other.sent)) {
      this.#state = 'untested';
      return false;
    }
    this.#state = known.ok && known.reply.kind === 'data' && other.ok ? 'right' : 'confused';
    return this.#state === 'confused';
  }

  /** A reply did not fit the request whose number it has, or has that of none: no number is believed any more. False when none was in doubt. */
  doubt(): boolean {
    if (this.#state !== 'right') return false;
    this.#state = 'confused';
    return true;
  }
}

function isRead(pdu: Uint8Array): boolean {
  return (pdu[0] ?? 0) >= 1 && (pdu[0] ?? 0) <= 4;
}
