/** How long bytes take on a serial line: Modbus over Serial Line V1.02, 2.5.1.1 and 2.5.2.1. */
import { serialLength, type SerialForm } from '../modbus/serialFrame.ts';

export interface LineFormat {
  /** Bits per second. */
  readonly speed: number;
  readonly dataBits: 7 | 8;
  readonly parity: 'none' | 'even' | 'odd';
  readonly stopBits: 1 | 2;
}

/** Milliseconds of one character: a start bit, the data, the parity and the stop bits. */
export function characterMs({ speed, dataBits, parity, stopBits }: LineFormat): number {
  return ((1 + dataBits + (parity === 'none' ? 0 : 1) + stopBits) * 1000) / speed;
}

/** The least silence between two frames: 3.5 characters; fixed at 1.750 ms above 19200 bit/s. ASCII frames need none. */
export function silenceMs(form: SerialForm, line: LineFormat): number {
  if (form === 'ascii') return 0;
  return line.speed > 19200 ? 1.75 : 3.5 * characterMs(line);
}

/** Counted for the turnaround of a device where nobody has measured it: common practice is a few milliseconds. */
export const USUAL_TURNAROUND_MS = 5;

/**
 * Time that one request and its reply occupy a serial line, silences included.
 *
 * @param requestBytes, replyBytes  of the PDUs
 * @returns milliseconds; the device's own turnaround is not included
 */
export function exchangeMs(form: SerialForm, requestBytes: number, replyBytes: number, line: LineFormat): number {
  const characters = serialLength(form, requestBytes) + serialLength(form, replyBytes);
  return characters * characterMs(line) + 2 * silenceMs(form, line);
}

/** In the way engineers write it: `9600 8E1`. */
export function formatLine({ speed, dataBits, parity, stopBits }: LineFormat): string {
  return `${speed} ${dataBits}${parity === 'none' ? 'N' : parity === 'even' ? 'E' : 'O'}${stopBits}`;
}
