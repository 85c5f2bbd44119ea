/** What carries Modbus requests over a link and pairs each reply with its request. */
import type { Reply } from '@/core/modbus/pdu.ts';
import type { DriverFault, LinkState } from '../contract.ts';

/** One request. It is never repeated by the channel. */
export interface Ask {
  readonly unit: number;
  readonly pdu: Uint8Array;
  readonly timeoutMs: number;
  /** How many requests may be in flight on the connection when this one is sent; lines carry one at a time. */
  readonly depth: number;
  /** Rest between a reply and the next request, in milliseconds. */
  readonly pauseMs: number;
  /** Bytes that one address holds; some devices keep 32-bit values behind one. */
  readonly registerBytes: 2 | 4;
  /** Whether a reply under another unit's number is refused. */
  readonly strictUnit: boolean;
  /** Clock time after which it is not even sent. */
  readonly deadline: number;
  readonly signal?: AbortSignal;
  /** Sent even when the unit is left in peace for a while because it was silent. */
  readonly isUrgent?: boolean;
  /** Goes before all that waits. @see CallContext */
  readonly goesFirst?: boolean;
}

export type Answer =
  | { readonly ok: true; readonly reply: Reply; readonly roundTripMs: number }
  | { readonly ok: false; readonly fault: DriverFault; /** False: it never left, so nothing was done. */ readonly sent: boolean };

export interface ModbusChannel {
  readonly state: LinkState;
  /** The most requests in flight that it can tell apart. */
  readonly maxDepth: number;
  start(): void;
  close(): void;
  transact(ask: Ask): Promise<Answer>;
}

export const ABORTED: DriverFault = { kind: 'aborted', problem: { code: 'aborted', message: 'The request was cancelled.' } };
export const EXPIRED: DriverFault = { kind: 'aborted', problem: { code: 'expired', message: 'The request came too late to be sent.' } };

export function silentFault(unit: number, timeoutMs: number): DriverFault {
  return {
    kind: 'silent',
    problem: {
      code: 'timeout',
      message: `No reply from unit ${unit} within ${timeoutMs} ms.`,
      remedy: 'Check unit number, power and line of the device.',
    },
  };
}
