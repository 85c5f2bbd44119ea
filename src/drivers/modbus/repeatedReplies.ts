/**
 * Replies that come twice: two devices of one address, or a gateway that repeats. The second one looks like the reply
 * to the next request. So do two places that hold the same, which is found out by asking again.
 */
import { sameBytes } from '@/core/modbus/sameBytes.ts';
import { isWrite } from '@/core/modbus/pdu.ts';

/** A reply that came lately, to what. */
interface Recent {
  readonly unit: number;
  /** Null where nobody knows to what. */
  readonly pdu: Uint8Array | null;
  readonly bytes: Uint8Array;
  readonly at: number;
}

/** A reply that comes again within this time is one that was sent twice. */
const AGAIN_MS = 2000;
/** How long a line on which replies come twice is treated with care. */
const CARE_MS = 30_000;
const LEAST_LINGER_MS = 100;
const MOST_LINGER_MS = 250;
const MOST_TRUSTED = 5000;

export class RepeatedReplies {
  #recent: Recent[] = [];
  /** Pairs of requests that were found to have the same reply by asking again. */
  readonly #trusted = new Set<string>();
  /** Where replies come twice: how long the line is left alone after each, and until when. */
  #care = { lingerMs: 0, until: 0 };

  /** Whether a reply is byte for byte one that came lately to another request of the unit, and nobody knows yet why. */
  isDoubtful(unit: number, pdu: Uint8Array, bytes: Uint8Array, now: number): boolean {
    return !isWrite(pdu) && this.#alike(unit, pdu, bytes, now).some((r) => !this.#trusted.has(pairOf(unit, r.pdu, pdu)));
  }

  /** A reply was taken. @param doubted the one that came the first time, where it was asked for again */
  taken(unit: number, pdu: Uint8Array, bytes: Uint8Array, doubted: Uint8Array | null, now: number): void {
    if (doubted && !sameBytes(doubted, bytes)) this.#takeCare(LEAST_LINGER_MS, now);
    if (doubted && sameBytes(doubted, bytes)) {
      if (this.#trusted.size > MOST_TRUSTED) this.#trusted.clear();
      for (const r of this.#alike(unit, pdu, bytes, now)) this.#trusted.add(pairOf(unit, r.pdu, pdu));
    }
    this.saw(unit, pdu, bytes, now);
  }

  saw(unit: number, pdu: Uint8Array | null, bytes: Uint8Array, now: number): void {
    const isReplaced = (r: Recent): boolean =>
      r.unit === unit && (pdu === null ? r.pdu === null && sameBytes(r.bytes, bytes) : r.pdu !== null && sameBytes(r.pdu, pdu));
    this.#recent = this.#recent.filter((r) => now - r.at < AGAIN_MS && !isReplaced(r));
    this.#recent.push({ unit, pdu, bytes, at: now });
  }

  /** Whether a frame is a reply that has come before; if so, the line is left alone long enough from here on. */
  isAgain(unit: number, bytes: Uint8Array, now: number): boolean {
    const first = this.#recent.findLast((r) => r.unit === unit && now - r.at < AGAIN_MS && sameBytes(r.bytes, bytes));
    if (first) this.#takeCare(now - first.at, now);
    return first !== undefined;
  }

  /** Whether a frame is byte for byte the fitting reply to another request of the unit; if so, the line is left alone long enough from here on. */
  isOfAnother(unit: number, pdu: Uint8Array, bytes: Uint8Array, now: number): boolean {
    return this.#alike(unit, pdu, bytes, now).some((r) => r.pdu !== null) && this.isAgain(unit, bytes, now);
  }

  /** How long the line is left alone after a reply. */
  lingerMs(now: number): number {
    if (now >= this.#care.until) this.#care = { lingerMs: 0, until: 0 };
    return this.#care.lingerMs;
  }

  /** Replies to other requests of the unit that came lately and are the same. */
  #alike(unit: number, pdu: Uint8Array, bytes: Uint8Array, now: number): readonly Recent[] {
    return this.#recent.filter(
      (r) => r.unit === unit && now - r.at < AGAIN_MS && sameBytes(r.bytes, bytes) && !(r.pdu !== null && sameBytes(r.pdu, pdu)),
    );
  }

  #takeCare(lagMs: number, now: number): void {
    const lingerMs = Math.min(MOST_LINGER_MS, Math.max(this.#care.lingerMs, 1.5 * lagMs + 10));
    this.#care = { lingerMs, until: now + CARE_MS };
  }
}

/** Two requests of one unit. */
function pairOf(unit: number, a: Uint8Array | null, b: Uint8Array): string {
  return `${unit} ${a === null ? '?' : String(a)} ${String(b)}`;
}
