/** A controller of a hundred holding registers, whose program the test plays. */
import { FaultyServer, type Asked } from './faultyServer.ts';

export interface Registers {
  readonly port: number;
  /** As they are now: the test writes to them as the program of the controller would. */
  readonly words: Uint16Array;
  /** What was written to it, in its order. */
  readonly written: { readonly at: number; readonly value: number }[];
  /** It answers no more. */
  isSilent: boolean;
  /** It holds no more than this, whatever is written. */
  most: number;
  /** It answers writes with this exception. */
  exception: number | null;
  stop(): Promise<void>;
}

export async function startRegisters(): Promise<Registers> {
  const server = await FaultyServer.start();
  const registers: Registers = {
    port: server.port,
    words: new Uint16Array(100),
    written: [],
    isSilent: false,
    most: 0xffff,
    exception: null,
    stop: () => server.stop(),
  };
  server.onRequest = (asked: Asked): void => {
    if (registers.isSilent) return;
    const fn = asked.pdu[0] ?? 0;
    const at = asked.pdu.readUInt16BE(1);
    if (fn === 3) {
      const count = asked.pdu.readUInt16BE(3);
      const answer = Buffer.alloc(2 + 2 * count);
      answer[0] = 3;
      answer[1] = 2 * count;
      for (let i = 0; i < count; i++) answer.writeUInt16BE(registers.words[at + i] ?? 0, 2 + 2 * i);
      return asked.answer(answer);
    }
    if (registers.exception !== null) return asked.answer([fn | 0x80, registers.exception]);
    const count = fn === 6 ? 1 : asked.pdu.readUInt16BE(3);
    for (let i = 0; i < count; i++) {
      const value = asked.pdu.readUInt16BE((fn === 6 ? 3 : 6) + 2 * i);
      registers.words[at + i] = Math.min(value, registers.most);
      registers.written.push({ at: at + i, value });
    }
    asked.answer(asked.pdu.subarray(0, 5));
  };
  return registers;
}
