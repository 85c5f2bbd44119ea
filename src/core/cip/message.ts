/** Messages of CIP: a service and the path of what it is asked of; the reply with its status (volume 1, 2-4). */
import { fail, ok, type Result } from '../result.ts';
import { joined, u16, u32, viewOf } from './bytes.ts';
import type { CipStatus } from './status.ts';
import { objectPath } from './tagPath.ts';

export const SERVICE = {
  getAttributesAll: 0x01,
  getAttributeList: 0x03,
  multiple: 0x0a,
  readTag: 0x4c,
  writeTag: 0x4d,
  modifyTag: 0x4e,
  forwardClose: 0x4e,
  readFragmented: 0x52,
  unconnectedSend: 0x52,
  writeFragmented: 0x53,
  forwardOpen: 0x54,
  instanceAttributeList: 0x55,
  largeForwardOpen: 0x5b,
} as const;

export const CLASS = { identity: 0x01, messageRouter: 0x02, connectionManager: 0x06, symbol: 0x6b, template: 0x6c } as const;
const MESSAGE_ROUTER = objectPath(CLASS.messageRouter, 1);

const REPLY = 0x80;

/** @param path a whole number of words */
export function buildRequest(service: number, path: Uint8Array, data: Uint8Array | readonly number[] = []): Uint8Array {
  return joined([service, path.length / 2], path, data);
}

export interface CipReply extends CipStatus {
  readonly service: number;
  readonly data: Uint8Array;
}

/** @param service what was asked for: another one answers nothing */
export function readReply(message: Uint8Array, service: number): Result<CipReply> {
  if (message.length < 4) return fail('short', 'the reply is cut');
  const told = message[0] ?? 0;
  if (told !== (service | REPLY)) return fail('service', `it answers service ${(told & 0x7f).toString(16)}h`);
  const words = message[3] ?? 0;
  const at = 4 + 2 * words;
  if (message.length < at) return fail('short', 'the additional status is cut');
  return ok({ service, general: message[2] ?? 0, extended: words > 0 ? viewOf(message).getUint16(4, true) : 0, data: message.subarray(at) });
}

/** Bytes that several services in one message take beside them: the service with its path, and their count. */
export const MULTIPLE_REQUEST_BYTES = 2 + MESSAGE_ROUTER.length + 2;
export const MULTIPLE_REPLY_BYTES = 4 + 2;
/** The offset of each, in request and reply. */
export const OFFSET_BYTES = 2;

/** Several services in one message (volume 1, appendix: Multiple_Service_Packet). */
export function buildMultiple(requests: readonly Uint8Array[]): Uint8Array {
  let offset = 2 + OFFSET_BYTES * requests.length;
  const offsets = requests.flatMap((request) => {
    const at = offset;
    offset += request.length;
    return u16(at);
  });
  return buildRequest(SERVICE.multiple, MESSAGE_ROUTER, joined(u16(requests.length), offsets, ...requests));
}

/** The replies in the data of a reply to {@link buildMultiple}. */
export function splitMultiple(data: Uint8Array, count: number): Result<readonly Uint8Array[]> {
  if (data.length < 2) return fail('short', 'the count of replies is missing');
  const view = viewOf(data);
  const told = view.getUint16(0, true);
  if (told !== count) return fail('count', `${count} services were asked for, ${told} are answered`);
  if (data.length < 2 + OFFSET_BYTES * count) return fail('short', 'the offsets of the replies are cut');
  const offsets = Array.from({ length: count }, (_, i) => view.getUint16(2 + OFFSET_BYTES * i, true));
  const parts: Uint8Array[] = [];
  for (const [i, from] of offsets.entries()) {
    const to = offsets[i + 1] ?? data.length;
    if (from < 2 + OFFSET_BYTES * count || to < from || to > data.length) return fail('offset', 'the offsets of the replies do not fit them');
    parts.push(data.subarray(from, to));
  }
  return ok(parts);
}

const TICK = 0x0a;

/** A message for the end of a route, without a connection (volume 1, 3-5.5.4: Unconnected_Send). Without a route it stands alone. */
export function alongRoute(message: Uint8Array, route: Uint8Array, timeoutMs: number): Uint8Array {
  if (route.length === 0) return message;
  // A tick of 2^10 ms; the target gives up no later than we do.
  const ticks = Math.max(1, Math.min(255, Math.floor(timeoutMs / 1024)));
  return buildRequest(
    SERVICE.unconnectedSend,
    objectPath(CLASS.connectionManager, 1),
    joined([TICK, ticks], u16(message.length), message, message.length % 2 === 1 ? [0] : [], [route.length / 2, 0], route),
  );
}

export interface ConnectionAsked {
  /** Bytes of one message each way, the sequence number counted. */
  readonly size: number;
  readonly route: Uint8Array;
  /** Told to the target for its messages to us. */
  readonly ourId: number;
  readonly serial: number;
  readonly originator: number;
}

/** Who opens connections: no vendor of devices. */
const VENDOR = 0xffff;
/** How often something may come, at the latest; a target gives a connection up after this many times the multiplier. */
const INTERVAL_US = 2_000_000;
/** Times 32 (volume 1, 3-5.5.1.4). */
const MULTIPLIER = 3;
/** Class 3, the target is a server, triggered by the application (volume 1, 3-4.4.3). */
const CLASS_3 = 0xa3;
/** Point to point, of variable size, low priority (volume 1, 3-5.5.1.1). */
const PARAMETERS = 0x4200;
export const SMALL_SIZE = 500;
const LARGEST_SMALL = 511;
/** A connection that nothing was sent on for so long is given up by the target: {@link INTERVAL_US} times the multiplier. */
export const IDLE_MS = (INTERVAL_US / 1000) * 32;

/** Opens a connection for messages (volume 1, 3-5.5.2): the large form where a size of 511 is not enough. */
export function forwardOpen({ size, route, ourId, serial, originator }: ConnectionAsked): { readonly service: number; readonly message: Uint8Array } {
  const isLarge = size > LARGEST_SMALL;
  const parameters = isLarge ? u32(PARAMETERS * 0x1_0000 + size) : u16(PARAMETERS | size);
  const service = isLarge ? SERVICE.largeForwardOpen : SERVICE.forwardOpen;
  const path = joined(route, MESSAGE_ROUTER);
  const data = joined(
    [TICK, 5],
    u32(0),
    u32(ourId),
    u16(serial),
    u16(VENDOR),
    u32(originator),
    [MULTIPLIER, 0, 0, 0],
    u32(INTERVAL_US),
    parameters,
    u32(INTERVAL_US),
    parameters,
    [CLASS_3, path.length / 2],
    path,
  );
  return { service, message: buildRequest(service, objectPath(CLASS.connectionManager, 1), data) };
}

export function forwardClose({ route, serial, originator }: Pick<ConnectionAsked, 'route' | 'serial' | 'originator'>): Uint8Array {
  const path = joined(route, MESSAGE_ROUTER);
  return buildRequest(
    SERVICE.forwardClose,
    objectPath(CLASS.connectionManager, 1),
    joined([TICK, 5], u16(serial), u16(VENDOR), u32(originator), [path.length / 2, 0], path),
  );
}

/** The ids of an opened connection: to the target, and to us. */
export function openedConnection(data: Uint8Array): Result<{ readonly theirId: number; readonly ourId: number }> {
  if (data.length < 26) return fail('short', 'the answer to the opening of a connection is cut');
  const view = viewOf(data);
  return ok({ theirId: view.getUint32(0, true), ourId: view.getUint32(4, true) });
}

/** The size that a target takes instead of the one it refused, where it says so (volume 1, 3-5.5.3: extended status 0109h). */
export function sizeInstead(message: Uint8Array): number | null {
  const words = message[3] ?? 0;
  return words >= 2 && message.length >= 8 ? viewOf(message).getUint16(6, true) : null;
}
