/** Values on their way to a controller: each with the type that the controller declares, several services in one message, bits by mask. */
import { canHold, codeFor, elementary, STRUCTURE } from '@/core/cip/dataTypes.ts';
import {
  buildMultiple,
  buildRequest,
  MULTIPLE_REPLY_BYTES,
  MULTIPLE_REQUEST_BYTES,
  OFFSET_BYTES,
  readReply,
  SERVICE,
  splitMultiple,
  type CipReply,
} from '@/core/cip/message.ts';
import type { MessageSize } from '@/core/cip/readPlan.ts';
import { EMBEDDED_ERROR, NOT_SUPPORTED, SUCCESS } from '@/core/cip/status.ts';
import { encodeSteps, formatTagPath, parseTagPath, type Step } from '@/core/cip/tagPath.ts';
import { modifyData, PACKED_BITS, writeData } from '@/core/cip/values.ts';
import type { DataType } from '@/core/value/dataType.ts';
import type { CallContext, DriverFault, PointSpec, PointWrite, WriteValue } from '../contract.ts';
import { placeKey, TagReadGroup, type KnownPlace, type Reading } from './readGroup.ts';
import { refusal } from './target.ts';

/** One service that carries a value. */
interface Request {
  /** Which of the writes it is. */
  readonly at: number;
  readonly service: number;
  readonly message: Uint8Array;
  /** The place whose type it relies on. */
  readonly key: string;
}
type Faults = (DriverFault | null)[];

/** Each is sent once, whatever comes of it. What cannot be sent at all keeps nothing else back. */
export async function writeTags(reading: Reading, writes: readonly PointWrite[], context: CallContext): Promise<readonly (DriverFault | null)[]> {
  const faults: Faults = writes.map(() => null);
  const untold = await learnPlaces(
    reading,
    writes.map(({ point }) => point),
    context,
  );
  const requests: Request[] = [];
  for (const [at, { point, value }] of writes.entries()) {
    const made = requestFor(reading, at, point, value, untold.get(point.key));
    if ('kind' in made) faults[at] = made;
    else requests.push(made);
  }
  const messages = packed(requests, reading.target.size, reading.packing);
  for (const [i, message] of messages.entries()) {
    const isThere = await sendMessage(reading, message, faults, context);
    if (isThere) continue;
    const why = faults[message[0]?.at ?? 0]?.problem.message ?? '';
    for (const { at } of messages.slice(i + 1).flat())
      faults[at] = { kind: 'aborted', problem: { code: 'not-sent', message: `It was not sent: ${why}` } };
    break;
  }
  return faults;
}

/** Asks, all at once, for the types of places that were never read. @returns why some of them are not known, by the key of the point */
async function learnPlaces(reading: Reading, points: readonly PointSpec[], context: CallContext): Promise<ReadonlyMap<string, DriverFault>> {
  const unknown = points.filter((point) => {
    const place = placeIn(point);
    return !('kind' in place) && !reading.places.has(keyOf(place));
  });
  const faults = new Map<string, DriverFault>();
  if (unknown.length > 0)
    await new TagReadGroup(reading, unknown).read((key, arrival) => {
      if ('fault' in arrival) faults.set(key, arrival.fault);
    }, context);
  return faults;
}

interface Place {
  readonly steps: readonly Step[];
  readonly bit: number | null;
  /** An element of an array of BOOL, which lies in words of its own. */
  readonly isPacked: boolean;
}

function keyOf({ steps }: Pick<Place, 'steps'>): string {
  return placeKey(formatTagPath({ steps, bit: null }));
}

function placeIn(point: PointSpec): Place | DriverFault {
  const path = parseTagPath(point.canonical);
  if (!path.ok) return { kind: 'settings', problem: path.problem };
  const { steps, bit } = path.value;
  const last = steps.at(-1);
  if (point.type.kind !== 'boolean' || bit !== null || typeof last !== 'number') return { steps, bit, isPacked: false };
  return { steps: [...steps.slice(0, -1), Math.floor(last / PACKED_BITS)], bit: last % PACKED_BITS, isPacked: true };
}

/** @param untold why the place is not known */
function requestFor(
  { places, target }: Reading,
  at: number,
  point: PointSpec,
  { raw }: WriteValue,
  untold: DriverFault | undefined,
): Request | DriverFault {
  const place = placeIn(point);
  if ('kind' in place) return place;
  const { steps, bit, isPacked } = place;
  const key = keyOf(place);
  // The controller's own type of the place, which a write must name.
  if (untold && !places.has(key)) return untold;
  const known: KnownPlace = places.get(key) ?? { code: codeFor(point.type), text: null };
  const declared = elementary(known.code);
  let service: number = SERVICE.writeTag;
  let data: Uint8Array;
  if (bit !== null) {
    if (isPacked && declared?.name !== 'DWORD') return unfit('The controller holds no array of BOOL there.');
    if (!declared || declared.name === 'BOOL' || declared.name.endsWith('REAL') || bit >= 8 * declared.bytes)
      return unfit(`There is no bit ${bit} there.`);
    service = SERVICE.modifyTag;
    data = modifyData(declared.bytes, bit, raw === true);
  } else {
    const fits = known.code === STRUCTURE ? point.type.kind === 'text' : canHold(point.type, known.code);
    if (!fits) return unfit(`The controller holds a ${declared?.name ?? 'structure'} there, which is no ${point.type.name}.`);
    const made = writeData(known.code, asDeclared(known.code, raw, point.type), known.text);
    if (!made.ok) return { kind: 'settings', problem: made.problem };
    data = made.value;
  }
  const message = buildRequest(service, encodeSteps(steps), data);
  return message.length > target.size.request
    ? unfit(
        'The value does not fit into one message; in several it could be read half new.',
        'Allow larger messages in the protocol options of the device.',
      )
    : { at, service, message, key };
}

/** A reply to a write has four bytes, and six where its status says more. */
const REPLY_BYTES = 6;

function packed(requests: readonly Request[], size: MessageSize, isPacking: boolean): readonly (readonly Request[])[] {
  const messages: Request[][] = [];
  let request = 0;
  let reply = 0;
  for (const one of requests) {
    const last = messages.at(-1);
    request += one.message.length + OFFSET_BYTES;
    reply += REPLY_BYTES + OFFSET_BYTES;
    if (last && isPacking && request <= size.request && reply <= size.reply) last.push(one);
    else {
      messages.push([one]);
      request = MULTIPLE_REQUEST_BYTES + one.message.length + OFFSET_BYTES;
      reply = MULTIPLE_REPLY_BYTES + REPLY_BYTES + OFFSET_BYTES;
    }
  }
  return messages;
}

/** @returns false where the controller does not answer, and nothing more is to be sent */
async function sendMessage(reading: Reading, requests: readonly Request[], faults: Faults, context: CallContext): Promise<boolean> {
  const [first, ...others] = requests;
  if (!first) return true;
  const isSingle = others.length === 0;
  const service = isSingle ? first.service : SERVICE.multiple;
  const message = isSingle ? first.message : buildMultiple(requests.map((one) => one.message));
  const asked = await reading.target.ask(service, message, context);
  const tellAll = (fault: DriverFault): void => {
    for (const { at } of requests) faults[at] = fault;
  };
  if (!asked.ok) {
    tellAll(asked.sent && asked.fault.kind !== 'refused' ? { ...asked.fault, kind: 'unknown' } : asked.fault);
    return asked.fault.kind === 'refused';
  }
  const { reply } = asked;
  if (isSingle) {
    faults[first.at] = outcome(reading, first, reply);
    return true;
  }
  // A controller without this service has carried nothing of it out: each goes by itself.
  if (reply.general === NOT_SUPPORTED) {
    for (const [i, one] of requests.entries()) {
      if (await sendMessage(reading, [one], faults, context)) continue;
      for (const { at } of requests.slice(i + 1)) faults[at] = { kind: 'aborted', problem: { code: 'not-sent', message: 'It was not sent.' } };
      return false;
    }
    return true;
  }
  const parts = reply.general === SUCCESS || reply.general === EMBEDDED_ERROR ? splitMultiple(reply.data, requests.length) : null;
  if (!parts?.ok) {
    const problem = parts ? { code: 'malformed', message: `The reply does not fit: ${parts.problem.message}.` } : refusal(reply).problem;
    tellAll({ kind: 'unknown', problem });
    return true;
  }
  for (const [i, one] of requests.entries()) {
    const part = readReply(parts.value[i] ?? new Uint8Array(0), one.service);
    faults[one.at] = part.ok
      ? outcome(reading, one, part.value)
      : { kind: 'unknown', problem: { code: 'malformed', message: `The reply does not fit: ${part.problem.message}.` } };
  }
  return true;
}

function outcome({ places }: Reading, { key }: Request, reply: CipReply): DriverFault | null {
  if (reply.general === SUCCESS) return null;
  // Its type may have been changed: it is asked for again before the next write.
  places.delete(key);
  return refusal(reply);
}

function unfit(message: string, remedy = 'Choose the type that the controller declares.'): DriverFault {
  return { kind: 'settings', problem: { code: 'unfit-value', message, remedy } };
}

/** Where the tag reads the bits of an integer, or a time counts in one: the same bits as the controller's type has them. */
function asDeclared(code: number, raw: WriteValue['raw'], type: DataType): WriteValue['raw'] {
  const declared = elementary(code);
  if (type.kind !== 'integer' || declared?.name === type.name || (typeof raw !== 'number' && typeof raw !== 'bigint') || !declared) return raw;
  if (BigInt(raw) < type.min || BigInt(raw) > type.max) return raw;
  const bits = 8 * declared.bytes;
  const same = /^[SDL]?INT$/.test(declared.name) ? BigInt.asIntN(bits, BigInt(raw)) : BigInt.asUintN(bits, BigInt(raw));
  return declared.bytes === 8 ? same : Number(same);
}
