/** Reads many tags with few messages; where one of them is refused, the others still come. */
import { u16, u32, joined } from '@/core/cip/bytes.ts';
import { elementary } from '@/core/cip/dataTypes.ts';
import { buildMultiple, buildRequest, readReply, SERVICE, splitMultiple, type CipReply } from '@/core/cip/message.ts';
import { needsFragments, packItems, planReads, takenApart, type MessageSize, type ReadItem, type TagPoint, type Take } from '@/core/cip/readPlan.ts';
import { EMBEDDED_ERROR, NOT_SUPPORTED, PARTIAL, SUCCESS } from '@/core/cip/status.ts';
import { encodeSteps, parseTagPath } from '@/core/cip/tagPath.ts';
import { readTyped, valueIn, type TypedData } from '@/core/cip/values.ts';
import type { Arrival, CallContext, DriverFault, PointSpec, ReadGroup, Sink } from '../contract.ts';
import type { Asked, Target } from './target.ts';
import { refusal } from './target.ts';
import { malformed } from './eipChannel.ts';

/** A value may be so long, its fragments together. */
const MOST_BYTES = 1_000_000;
/** Room for the head of a service and of what carries it. */
const MESSAGE_HEAD = 24;

export interface Reading {
  readonly target: Target;
  readonly packing: boolean;
  readonly now: () => number;
  /** What controllers have told of places, by {@link placeKey}, for whoever writes to them. */
  readonly places: Map<string, KnownPlace>;
}
/** The elements of an array are alike, and may have been asked for together: what is told of one holds for all. */
export function placeKey(name: string): string {
  return name.replace(/\[[\d,]+\]$/, '');
}
export interface KnownPlace {
  readonly code: number;
  /** Of a structure's layout, with its length. */
  readonly text: { readonly handle: number; readonly bytes: number } | null;
}

interface Plan {
  readonly size: MessageSize;
  readonly messages: readonly PlannedMessage[];
}
/** Items that are asked for together, and the request that does: it is the same each time. */
interface PlannedMessage {
  readonly items: readonly ReadItem[];
  readonly request: Uint8Array;
}

export class TagReadGroup implements ReadGroup {
  readonly #reading: Reading;
  readonly #points: readonly TagPoint[];
  readonly #strangers: readonly PointSpec[];
  /** Items whose elements are asked for one by one, since they were refused together. */
  readonly #apart = new Set<string>();
  /** Items whose answers were cut: they are read in fragments. */
  readonly #long = new Set<string>();
  #plan: Plan | null = null;
  /** The device took no message of several services. */
  #isSingle: boolean;

  constructor(reading: Reading, points: readonly PointSpec[]) {
    this.#reading = reading;
    this.#isSingle = !reading.packing;
    const known: TagPoint[] = [];
    const strangers: PointSpec[] = [];
    for (const point of points) {
      const path = parseTagPath(point.canonical);
      if (path.ok) known.push({ key: point.key, path: path.value, type: point.type });
      else strangers.push(point);
    }
    [this.#points, this.#strangers] = [known, strangers];
  }

  get requestCount(): number {
    return this.#current().messages.length;
  }

  async read(sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const { target, now } = this.#reading;
    for (const { key, canonical } of this.#strangers)
      sink(key, { fault: { kind: 'settings', problem: { code: 'address', message: `“${canonical}” is no name of a tag.` } }, at: now() });
    if (this.#points.length === 0) return null;
    const closed = await target.open(context);
    if (closed) return this.#tellAll(this.#points, closed, sink);
    const { messages, size } = this.#current();
    for (const [at, message] of messages.entries()) {
      const fault = await this.#readMessage(message, size, sink, context);
      if (fault) {
        for (const { items } of messages.slice(at)) for (const item of items) this.#tellAll(item.takes, fault, sink);
        return fault;
      }
    }
    return null;
  }

  #current(): Plan {
    const { size } = this.#reading.target;
    if (this.#plan?.size.request === size.request && this.#plan.size.reply === size.reply) return this.#plan;
    const { places } = this.#reading;
    const items = planReads(this.#points, size.reply - MESSAGE_HEAD, (name) => places.get(placeKey(name))?.text?.bytes ?? null).flatMap((item) =>
      this.#apart.has(item.name) && item.count > 1 ? takenApart(item) : [item],
    );
    const isAlone = (item: ReadItem): boolean => this.#isSingle || this.#long.has(item.name);
    const messages = [
      ...packItems(
        items.filter((item) => !isAlone(item)),
        size,
      ),
      ...items.filter(isAlone).map((item) => [item]),
    ];
    return (this.#plan = { size, messages: messages.map(planned) });
  }

  /** Null, or what kept the device from answering at all. Each of its values has its arrival unless it returns a fault. */
  async #readMessage({ items, request }: PlannedMessage, size: MessageSize, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const [only, ...others] = items;
    if (!only) return null;
    if (others.length === 0) {
      if (this.#long.has(only.name) || needsFragments(only, size)) return this.#readFragments(only, sink, context);
      const came = await this.#ask(SERVICE.readTag, request, context);
      return came.ok ? this.#take(only, came.reply, came.roundTripMs, sink, context) : this.#faultOf(came);
    }
    const came = await this.#ask(SERVICE.multiple, request, context);
    if (!came.ok) return this.#faultOf(came);
    const { reply } = came;
    if (reply.general === NOT_SUPPORTED) {
      this.#isSingle = true;
      this.#plan = null;
      return this.#oneByOne(items, size, sink, context);
    }
    if (reply.general !== SUCCESS && reply.general !== EMBEDDED_ERROR) {
      // Too large after all, or cut: each is asked for by itself this time.
      return this.#oneByOne(items, size, sink, context);
    }
    const parts = splitMultiple(reply.data, items.length);
    if (!parts.ok) return malformed(`The reply does not fit: ${parts.problem.message}.`);
    for (const [at, item] of items.entries()) {
      const part = readReply(parts.value[at] ?? new Uint8Array(0), SERVICE.readTag);
      const fault = part.ok
        ? await this.#take(item, part.value, came.roundTripMs, sink, context)
        : (this.#tellAll(item.takes, malformed(`The reply does not fit: ${part.problem.message}.`), sink), null);
      // What is left of this message has its answers already; a fault here is one of the whole device.
      if (fault) {
        for (const rest of items.slice(at + 1)) this.#tellAll(rest.takes, fault, sink);
        return null;
      }
    }
    return null;
  }

  async #oneByOne(items: readonly ReadItem[], size: MessageSize, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    for (const [at, item] of items.entries()) {
      const fault = await this.#readMessage(planned([item]), size, sink, context);
      if (fault === null) continue;
      for (const rest of items.slice(at)) this.#tellAll(rest.takes, fault, sink);
      return null;
    }
    return null;
  }

  /** A read may be repeated: once, where a connection was gone. */
  async #ask(service: number, message: Uint8Array, context: CallContext): Promise<Asked> {
    const asked = await this.#reading.target.ask(service, message, context);
    const isGone = asked.ok && (asked.reply.extended === 0x0107 || asked.reply.extended === 0x0203);
    return isGone ? this.#reading.target.ask(service, message, context) : asked;
  }

  /** What came for one item. Returns only what keeps the whole device from answering. */
  async #take(item: ReadItem, reply: CipReply, roundTripMs: number, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const isCut = reply.general === PARTIAL || reply.general === 0x11;
    if (isCut) {
      this.#long.add(item.name);
      this.#plan = null;
      return this.#readFragments(item, sink, context);
    }
    if (reply.general !== SUCCESS) {
      if (item.count === 1) return this.#tellAll(item.takes, refusal(reply), sink) && null;
      this.#apart.add(item.name);
      this.#plan = null;
      return this.#oneByOne(takenApart(item), this.#reading.target.size, sink, context);
    }
    const typed = readTyped(reply.data);
    if (typed.ok) this.#tell(item, typed.value, [], roundTripMs, sink);
    else this.#tellAll(item.takes, malformed(typed.problem.message), sink);
    return null;
  }

  async #readFragments(item: ReadItem, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const parts: Uint8Array[] = [];
    /** Where one fragment ends and another begins. */
    const seams: number[] = [];
    let head: TypedData | null = null;
    let read = 0;
    let roundTripMs = 0;
    for (let isMore = true; isMore && read <= MOST_BYTES;) {
      const message = buildRequest(SERVICE.readFragmented, encodeSteps(item.steps), joined(u16(item.count), u32(read)));
      const came = await this.#ask(SERVICE.readFragmented, message, context);
      if (!came.ok) return this.#faultOf(came);
      const { reply } = came;
      isMore = reply.general === PARTIAL;
      if (!isMore && reply.general !== SUCCESS) {
        if (read > 0 || item.count === 1) return this.#tellAll(item.takes, refusal(reply), sink) && null;
        return this.#take(item, reply, came.roundTripMs, sink, context);
      }
      const typed = readTyped(reply.data);
      if (!typed.ok || (isMore && typed.value.data.length === 0))
        return this.#tellAll(item.takes, malformed(typed.ok ? 'A fragment is empty.' : typed.problem.message), sink) && null;
      if (read > 0) seams.push(read);
      head ??= typed.value;
      parts.push(typed.value.data);
      read += typed.value.data.length;
      roundTripMs += came.roundTripMs;
    }
    if (head) this.#tell(item, { ...head, data: joined(...parts) }, seams, roundTripMs, sink);
    return null;
  }

  #tell(item: ReadItem, typed: TypedData, seams: readonly number[], roundTripMs: number, sink: Sink): void {
    const { places, now } = this.#reading;
    const text = typed.handle === null ? null : { handle: typed.handle, bytes: typed.data.length };
    const known = places.get(placeKey(item.name));
    if (known?.code !== typed.code || known.text?.handle !== text?.handle || known.text?.bytes !== text?.bytes) {
      places.set(placeKey(item.name), { code: typed.code, text });
      if (text) this.#plan = null;
    }
    const at = now();
    for (const take of item.takes) sink(take.key, arrivalOf(typed, take, seams, at, roundTripMs));
  }

  #faultOf(asked: Extract<Asked, { readonly ok: false }>): DriverFault {
    return asked.fault;
  }

  #tellAll(takes: readonly { readonly key: string }[], fault: DriverFault, sink: Sink): DriverFault {
    const at = this.#reading.now();
    for (const { key } of takes) sink(key, { fault, at });
    return fault;
  }
}

function planned(items: readonly ReadItem[]): PlannedMessage {
  const requests = items.map(requestOf);
  const [only] = requests;
  return { items, request: requests.length === 1 && only ? only : buildMultiple(requests) };
}

function requestOf(item: ReadItem): Uint8Array {
  return buildRequest(SERVICE.readTag, encodeSteps(item.steps), u16(item.count));
}

function arrivalOf(typed: TypedData, take: Take, seams: readonly number[], at: number, roundTripMs: number): Arrival {
  const value = valueIn(typed, take, take.type);
  if (!value.ok) return { fault: { kind: 'malformed', problem: value.problem }, at };
  const width = take.type.kind === 'text' ? typed.data.length : (elementary(typed.code)?.bytes ?? 1);
  const from = take.type.kind === 'text' ? 0 : take.at * width;
  return { wire: { kind: 'typed', value: value.value }, torn: seams.some((seam) => seam > from && seam < from + width), at, roundTripMs };
}
