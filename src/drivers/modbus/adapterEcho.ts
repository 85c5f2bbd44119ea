/**
 * A two-wire adapter may send back what we send. Whether it does is shown by the first request whose reply does not
 * repeat it; from then on the echo is taken off what comes.
 */
import { sameBytes } from '@/core/modbus/sameBytes.ts';

export class AdapterEcho {
  /** Null until a reply has shown it. */
  #echoes: boolean | null = null;
  /** The frame whose echo was taken off already. */
  #stripped: Uint8Array | null = null;

  get isKnown(): boolean {
    return this.#echoes !== null;
  }

  /** A new connection: whoever listens there may be another adapter. */
  forget(): void {
    this.#echoes = null;
  }

  /** A reply, or a silence, without an echo before it. */
  hadNone(): void {
    this.#echoes ??= false;
  }

  /**
   * Takes the echo off.
   * @param sent     the frame that was sent
   * @param pdu      the request in it
   * @param received all that came since
   * @returns the bytes of the echo that stand at the beginning of what came; null while it has not come whole
   */
  strip(sent: Uint8Array, pdu: Uint8Array, received: Uint8Array): number | null {
    if (this.#echoes !== true && !isRepeated(pdu) && received.length >= sent.length && sameBytes(received.slice(0, sent.length), sent))
      this.#echoes = true;
    if (this.#echoes !== true || this.#stripped === sent) return 0;
    const common = Math.min(received.length, sent.length);
    if (!sameBytes(received.slice(0, common), sent.slice(0, common))) {
      // The adapter echoes no longer; whether it does is found out again.
      this.#echoes = null;
      this.#stripped = sent;
      return 0;
    }
    if (common < sent.length) return null;
    this.#stripped = sent;
    return sent.length;
  }
}

/** Requests whose reply repeats them, so that an echo looks like it. */
export function isRepeated(pdu: Uint8Array): boolean {
  return [5, 6, 8, 22].includes(pdu[0] ?? 0);
}
