/**
 * What units of a line still owe: replies whose request was given up. They may come late, and nothing in them says
 * which request they answer. Units answer in turn, so once a read of a form of its own was answered, nothing that was
 * asked for before it can come any more.
 */
import { distinctRead } from '@/core/modbus/distinctRead.ts';
import { findReply, type SerialForm } from '@/core/modbus/serialFrame.ts';

interface Debt {
  readonly since: number;
  readonly pdus: readonly Uint8Array[];
}

/** How long after the last time-out a late reply is thought possible. */
const LATE_MS = 10_000;
const MOST_OWED = 8;

export class LateReplies {
  readonly #owed = new Map<number, Debt>();

  owe(unit: number, pdu: Uint8Array, now: number): void {
    const owed = this.#owed.get(unit);
    this.#owed.set(unit, { since: now, pdus: [...(owed?.pdus ?? []), pdu].slice(-MOST_OWED) });
  }

  owes(unit: number): boolean {
    return this.#owed.has(unit);
  }

  /** Whether a late reply could be taken for the reply to this request: they share a function, and so an exception too. */
  couldBeTakenFor(unit: number, pdu: Uint8Array, now: number): boolean {
    const owed = this.#owed.get(unit);
    if (owed && now - owed.since > LATE_MS) this.#owed.delete(unit);
    return this.#owed.get(unit)?.pdus.some((o) => o[0] === pdu[0]) ?? false;
  }

  /** A read whose data can only be its own; with `otherFunction` an exception can only be its own as well. */
  probe(unit: number, ask: Uint8Array, otherFunction: boolean): Uint8Array {
    return distinctRead(ask, this.#owed.get(unit)?.pdus ?? [], otherFunction ? 1 : 0);
  }

  /** Whether an exception in answer to a probe is surely its own. */
  isOwnException(unit: number, probe: Uint8Array): boolean {
    return !(this.#owed.get(unit)?.pdus.some((o) => o[0] === probe[0]) ?? false);
  }

  settle(unit: number): void {
    this.#owed.delete(unit);
  }

  /** The unit that pays with these bytes, with the frame in them; it owes nothing more when that was all. */
  payment(form: SerialForm, bytes: Uint8Array): { readonly unit: number; readonly frame: Uint8Array } | null {
    for (const [unit, { pdus }] of this.#owed)
      for (const pdu of pdus) {
        const found = findReply(form, bytes, unit, pdu);
        if (found.kind !== 'frame' || found.unit !== unit) continue;
        if (pdus.length === 1) this.#owed.delete(unit);
        return { unit, frame: bytes.slice(found.from, found.end) };
      }
    return null;
  }
}
