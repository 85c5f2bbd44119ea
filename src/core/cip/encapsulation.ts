/**
 * Frames of EtherNet/IP: a header of 24 bytes, then data (CIP volume 2, 2-3). Messages travel as items in it (2-6): without a
 * connection (B2h), or on one (A1h with its id, B1h with a sequence number before the message).
 */
import { fail, ok, type Result } from '../result.ts';
import { joined, u16, u32, viewOf } from './bytes.ts';

export const HEADER_BYTES = 24;
/** Data of one frame, at the most (volume 2, 2-3.3). */
export const MAX_DATA_BYTES = 65_511;

export const COMMAND = {
  nop: 0x00,
  listServices: 0x04,
  listIdentity: 0x63,
  listInterfaces: 0x64,
  registerSession: 0x65,
  unregisterSession: 0x66,
  sendRRData: 0x6f,
  sendUnitData: 0x70,
} as const;

const COMMANDS: ReadonlySet<number> = new Set(Object.values(COMMAND));

export const ITEM = { null: 0x00, identity: 0x0c, connectedAddress: 0xa1, connectedData: 0xb1, unconnectedData: 0xb2 } as const;

export interface EipFrame {
  readonly command: number;
  readonly session: number;
  readonly status: number;
  /** What the sender put in, given back with the reply. */
  readonly context: number;
  readonly data: Uint8Array;
  /** The whole frame, for the trace. */
  readonly bytes: Uint8Array;
}

/** @param context a number that tells the reply; the other half of its eight bytes is 0 */
export function buildFrame(command: number, session: number, data: Uint8Array, context = 0): Uint8Array {
  return joined(u16(command), u16(data.length), u32(session), u32(0), u32(context), u32(0), u32(0), data);
}

/** Volume 2, 2-4.4: version 1, no options. */
export function registerSessionFrame(): Uint8Array {
  return buildFrame(COMMAND.registerSession, 0, joined(u16(1), u16(0)));
}

/** Reads one whole frame. */
export function readFrame(bytes: Uint8Array): Result<EipFrame> {
  if (bytes.length < HEADER_BYTES) return fail('short', `a frame has at least ${HEADER_BYTES} bytes, ${bytes.length} came`);
  const view = viewOf(bytes);
  const command = view.getUint16(0, true);
  const length = view.getUint16(2, true);
  if (!COMMANDS.has(command)) return fail('command', `there is no command ${command.toString(16)}h`);
  if (length !== bytes.length - HEADER_BYTES) return fail('length', `${length} bytes of data are announced, ${bytes.length - HEADER_BYTES} came`);
  return ok({
    command,
    session: view.getUint32(4, true),
    status: view.getUint32(8, true),
    context: view.getUint32(12, true),
    data: bytes.subarray(HEADER_BYTES),
    bytes,
  });
}

/** Cuts frames out of a stream. After a problem the stream has lost its beat: the connection must be closed. */
export class FrameCutter {
  #rest: Uint8Array = new Uint8Array(0);

  /** @returns null, or in plain words why this is no stream of EtherNet/IP (any longer) */
  push(chunk: Uint8Array, take: (frame: EipFrame) => void): string | null {
    let bytes = this.#rest.length > 0 ? joined(this.#rest, chunk) : chunk;
    while (bytes.length >= 4) {
      const view = viewOf(bytes);
      const command = view.getUint16(0, true);
      if (!COMMANDS.has(command)) return `there is no command ${command.toString(16)}h`;
      const length = view.getUint16(2, true);
      if (length > MAX_DATA_BYTES) return `a frame of ${length} bytes is announced`;
      const whole = HEADER_BYTES + length;
      if (bytes.length < whole) break;
      const frame = readFrame(bytes.subarray(0, whole));
      if (!frame.ok) return frame.problem.message;
      take(frame.value);
      bytes = bytes.subarray(whole);
    }
    this.#rest = bytes.slice();
    return null;
  }
}

export interface Item {
  readonly type: number;
  readonly data: Uint8Array;
}

/** Data of SendRRData and SendUnitData: interface 0, a time-out that the target does not use, the items. */
function itemData(items: readonly Item[]): Uint8Array {
  return joined(u32(0), u16(0), u16(items.length), ...items.map(({ type, data }) => joined(u16(type), u16(data.length), data)));
}

export function unconnectedFrame(session: number, message: Uint8Array, context: number): Uint8Array {
  const items: readonly Item[] = [
    { type: ITEM.null, data: new Uint8Array(0) },
    { type: ITEM.unconnectedData, data: message },
  ];
  return buildFrame(COMMAND.sendRRData, session, itemData(items), context);
}

export function connectedFrame(session: number, connection: number, sequence: number, message: Uint8Array, context: number): Uint8Array {
  const items: readonly Item[] = [
    { type: ITEM.connectedAddress, data: joined(u32(connection)) },
    { type: ITEM.connectedData, data: joined(u16(sequence), message) },
  ];
  return buildFrame(COMMAND.sendUnitData, session, itemData(items), context);
}

/** A message that a frame carries. */
export type Carried =
  | { readonly kind: 'unconnected'; readonly message: Uint8Array }
  | { readonly kind: 'connected'; readonly connection: number; readonly sequence: number; readonly message: Uint8Array };

/** The message in the data of a frame of SendRRData or SendUnitData. */
export function carriedIn(data: Uint8Array): Result<Carried> {
  const items = itemsIn(data, 6);
  if (!items.ok) return items;
  const [address, body] = items.value;
  if (!address || !body) return fail('items', 'an address and a message are needed');
  if (address.type === ITEM.null && body.type === ITEM.unconnectedData) return ok({ kind: 'unconnected', message: body.data });
  if (address.type === ITEM.connectedAddress && body.type === ITEM.connectedData && address.data.length >= 4 && body.data.length >= 2)
    return ok({
      kind: 'connected',
      connection: viewOf(address.data).getUint32(0, true),
      sequence: viewOf(body.data).getUint16(0, true),
      message: body.data.subarray(2),
    });
  return fail('items', `items of the types ${address.type.toString(16)}h and ${body.type.toString(16)}h carry no message`);
}

/** @param at where their count stands */
export function itemsIn(data: Uint8Array, at: number): Result<readonly Item[]> {
  if (data.length < at + 2) return fail('short', 'the count of items is missing');
  const view = viewOf(data);
  const items: Item[] = [];
  let next = at + 2;
  for (let left = view.getUint16(at, true); left > 0; left--) {
    if (data.length < next + 4) return fail('short', 'an item is cut');
    const length = view.getUint16(next + 2, true);
    if (data.length < next + 4 + length) return fail('short', 'an item is cut');
    items.push({ type: view.getUint16(next, true), data: data.subarray(next + 4, next + 4 + length) });
    next += 4 + length;
  }
  return ok(items);
}

/** Status of the header (volume 2, 2-3.5). */
export function frameStatusInWords(status: number): string {
  return (
    {
      0x01: 'the command is not supported',
      0x02: 'the device has no memory for it',
      0x03: 'its data cannot be read',
      0x64: 'the session is not known',
      0x65: 'its length is not right',
      0x69: 'the version of the protocol is not supported',
    }[status] ?? `status ${status.toString(16)}h`
  );
}
