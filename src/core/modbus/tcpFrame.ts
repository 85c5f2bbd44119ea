/**
 * Frames on TCP: Modbus Messaging on TCP/IP V1.0b, 3.1.3. Seven header bytes (transaction, protocol 0, length
 * of what follows, unit), then the PDU. A TCP stream cuts and joins frames at will.
 */
import { MAX_PDU_BYTES } from './pdu.ts';

export const HEADER_BYTES = 7;
export const MAX_FRAME_BYTES = HEADER_BYTES + MAX_PDU_BYTES;

/** One whole frame. @param transaction 0…65535 */
export function buildFrame(transaction: number, unit: number, pdu: Uint8Array): Uint8Array {
  const frame = new Uint8Array(HEADER_BYTES + pdu.length);
  const length = pdu.length + 1;
  frame[0] = transaction >> 8;
  frame[1] = transaction & 0xff;
  frame[4] = length >> 8;
  frame[5] = length & 0xff;
  frame[6] = unit;
  frame.set(pdu, HEADER_BYTES);
  return frame;
}

export interface TcpFrame {
  readonly transaction: number;
  readonly unit: number;
  readonly pdu: Uint8Array;
  /** The whole frame, for the trace. */
  readonly bytes: Uint8Array;
}

/**
 * Cuts frames out of a stream. Memory is bounded by one frame and one chunk. What does not fit together gives nothing:
 * a device or gateway that loses part of a frame would else have the next one read as its data.
 * After a problem the stream has lost its beat: the connection must be closed.
 */
export class FrameCutter {
  #rest: Uint8Array = new Uint8Array(0);

  /** Whether a frame has begun and not ended. */
  get hasPart(): boolean {
    return this.#rest.length > 0;
  }

  /**
   * @param chunk    bytes as they came; frames handed out are views into it where they can be
   * @param take     called for each whole frame in turn
   * @param isKnown  whether a reply to that transaction may be on its way; without it nothing is said of lost parts
   * @returns null, or in plain words why this is no Modbus TCP stream (any longer)
   */
  push(chunk: Uint8Array, take: (frame: TcpFrame) => void, isKnown?: (transaction: number) => boolean): string | null {
    let bytes = chunk;
    if (this.#rest.length > 0) {
      if (isKnown?.(word(chunk, 0)) && beginsFrame(chunk)) return this.#lost('a frame was cut: the next one begins before it ended');
      bytes = new Uint8Array(this.#rest.length + chunk.length);
      bytes.set(this.#rest);
      bytes.set(chunk, this.#rest.length);
    }
    const frames: TcpFrame[] = [];
    let at = 0;
    while (bytes.length - at >= 6) {
      const protocol = word(bytes, at + 2);
      const length = word(bytes, at + 4);
      if (protocol !== 0) return this.#lost(`the header names protocol ${protocol} instead of 0`);
      if (length < 2 || length > MAX_PDU_BYTES + 1) return this.#lost(`the header announces ${length} bytes; 2 to ${MAX_PDU_BYTES + 1} are possible`);
      const end = at + 6 + length;
      if (end > bytes.length) break;
      const frame = bytes.subarray(at, end);
      frames.push({ transaction: word(frame, 0), unit: frame[6] ?? 0, pdu: frame.subarray(HEADER_BYTES), bytes: frame });
      at = end;
    }
    if (isKnown && frames.length > 0 && bytes.length - at >= 2 && !isKnown(word(bytes, at)))
      return this.#lost('what follows a frame is the beginning of none');
    this.#rest = bytes.slice(at);
    for (const frame of frames) take(frame);
    return null;
  }

  #lost(why: string): string {
    this.#rest = new Uint8Array(0);
    return why;
  }
}

/** Whether bytes look like the beginning of a frame, as far as they go. */
function beginsFrame(bytes: Uint8Array): boolean {
  if (bytes.length < 2) return false;
  if (bytes.length >= 4 && word(bytes, 2) !== 0) return false;
  const length = word(bytes, 4);
  return bytes.length < 6 || (length >= 2 && length <= MAX_PDU_BYTES + 1);
}

function word(bytes: Uint8Array, at: number): number {
  return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
}
