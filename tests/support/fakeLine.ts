/**
 * Units behind a pipe that exists only in memory, on a clock in the test's hand, with every fault that a line or a
 * network has. Every register tells who and where it is, and HR90 what time it is, so that no wrong value passes.
 */
import type { Clock } from '@/drivers/contract.ts';
import type { OpenPipe, PipeEvents } from '@/drivers/transport/connection.ts';
import { rtu } from './faultyLine.ts';

export type LineFault =
  | 'well'
  | 'dead-unit'
  | 'silent'
  | 'late'
  | 'very-late'
  | 'garbled'
  | 'cut'
  | 'noise'
  | 'stranger'
  | 'twice'
  | 'refused'
  | 'lossy'
  | 'echo'
  | 'in-pieces';

export class FakeLine {
  readonly #clock: Clock;
  readonly #form: 'rtu' | 'tcp';
  readonly #random: () => number;
  #events: PipeEvents | null = null;
  /** Replies leave one after the other, as on a line. */
  #freeAt = 0;
  faults: readonly LineFault[] = [];
  /** Whether it takes a connection. */
  isOpen = true;

  constructor(clock: Clock, form: 'rtu' | 'tcp', random: () => number) {
    this.#clock = clock;
    this.#form = form;
    this.#random = random;
  }

  /** What a register holds at a time. */
  static valueOf(unit: number, register: number, at: number): number {
    return register === 90 ? Math.floor(at / 100) & 0x7fff : unit * 100 + register;
  }

  readonly open: OpenPipe = (events) => {
    this.#events = null;
    this.#clock.after(2, () => {
      if (!this.isOpen) return events.lost({ code: 'host-refused', message: 'refused' });
      this.#events = events;
      events.opened();
    });
    return {
      write: (bytes) => {
        if (this.#events === events) this.#take(Buffer.from(bytes), events);
      },
      close: () => {
        if (this.#events === events) this.#events = null;
      },
    };
  };

  cut(): void {
    this.#events?.lost({ code: 'closed-by-peer', message: 'cut' });
  }

  #has(fault: LineFault): boolean {
    return this.faults.includes(fault);
  }

  #take(bytes: Buffer, events: PipeEvents): void {
    for (let rest = bytes; rest.length > 0;) {
      const length = this.#form === 'tcp' ? 6 + rest.readUInt16BE(4) : rest.length;
      this.#answer(rest.subarray(0, length), events);
      rest = rest.subarray(length);
    }
  }

  #answer(frame: Buffer, events: PipeEvents): void {
    const now = this.#clock.now();
    const unit = frame[this.#form === 'tcp' ? 6 : 0] ?? 0;
    const pdu = this.#form === 'tcp' ? frame.subarray(7) : frame.subarray(1, -2);
    const send = (reply: Buffer, ms: number): void => {
      this.#clock.after(ms, () => {
        if (this.#events === events) events.data(reply);
      });
    };
    if (this.#has('echo') && this.#form === 'rtu') send(Buffer.from(frame), 1);
    if (this.#has('silent') || (this.#has('dead-unit') && unit === 4) || (this.#has('lossy') && this.#random() < 0.3)) return;
    const delayMs = this.#has('very-late') ? 700 + 900 * this.#random() : this.#has('late') ? 150 + 200 * this.#random() : 8;
    const at = Math.max(now + delayMs, this.#freeAt);
    this.#freeAt = at + 2;
    const body = this.#bodyOf(unit, pdu, at);
    const speaker = this.#has('stranger') && this.#random() < 0.5 ? unit + 20 : unit;
    let reply: Buffer =
      this.#form === 'rtu' ? rtu(speaker, body) : Buffer.concat([frame.subarray(0, 4), Buffer.from([0, body.length + 1, speaker]), body]);
    if (this.#has('garbled') && this.#form === 'rtu' && this.#random() < 0.6) {
      const bit = Math.floor(this.#random() * reply.length * 8);
      reply = Buffer.from(reply);
      reply[bit >> 3] = (reply[bit >> 3] ?? 0) ^ (1 << (bit & 7));
    }
    if (this.#has('cut') && this.#random() < 0.6) reply = reply.subarray(0, 1 + Math.floor(this.#random() * (reply.length - 1)));
    if (this.#has('noise') && this.#form === 'rtu')
      reply = Buffer.concat([Buffer.from(Array.from({ length: 4 }, () => Math.floor(this.#random() * 256))), reply]);
    if (this.#has('in-pieces')) {
      send(reply.subarray(0, 3), at - now);
      send(reply.subarray(3), at - now + 15);
    } else send(reply, at - now);
    if (this.#has('twice')) send(reply, at - now + 30);
  }

  #bodyOf(unit: number, pdu: Buffer, at: number): Buffer {
    const fn = pdu[0] ?? 0;
    if (this.#has('refused') && this.#random() < 0.5) return Buffer.from([fn | 0x80, 4]);
    if (fn === 8) return Buffer.from(pdu);
    if (fn !== 3) return Buffer.from([fn | 0x80, 1]);
    const [start, count] = [pdu.readUInt16BE(1), pdu.readUInt16BE(3)];
    const words = Array.from({ length: count }, (_, i) => FakeLine.valueOf(unit, start + i, at));
    return Buffer.from([3, count * 2, ...words.flatMap((w) => [w >> 8, w & 255])]);
  }
}
