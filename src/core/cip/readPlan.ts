/**
 * Which tags are read together: elements of one array that lie beside each other in one service, bits of one word with it; and as
 * many services in one message as its size allows.
 */
import type { DataType } from '../value/dataType.ts';
import { MULTIPLE_REPLY_BYTES, MULTIPLE_REQUEST_BYTES, OFFSET_BYTES } from './message.ts';
import { formatTagPath, stepsLength, type Step, type TagPath } from './tagPath.ts';
import { PACKED_BITS, type Part } from './values.ts';

export interface TagPoint {
  readonly key: string;
  readonly path: TagPath;
  readonly type: DataType;
}

/** What one service of Read Tag asks for. */
export interface ReadItem {
  /** Where the steps lead, as text. */
  readonly name: string;
  readonly steps: readonly Step[];
  readonly count: number;
  readonly takes: readonly Take[];
  /** Bytes of its value, as far as they are known. */
  readonly dataBytes: number;
}
export interface Take extends Part {
  readonly key: string;
  readonly type: DataType;
}

/** Bytes of one message each way. */
export interface MessageSize {
  readonly request: number;
  readonly reply: number;
}

/** Elements that nobody wants are read across where naming the next one again would cost more. */
const GAP_BYTES = 16;
/** Length of a text before its characters, and what rounds it up. */
const TEXT_MORE = 7;
const REPLY_HEAD = 4;
/** Type of a value, with the handle where it is a structure. */
const TYPE_HEAD = { plain: 2, text: 4 };

export function requestBytes({ steps }: Pick<ReadItem, 'steps'>): number {
  return 2 + stepsLength(steps) + 2;
}

export function replyBytes({ takes, dataBytes }: Pick<ReadItem, 'takes' | 'dataBytes'>): number {
  return REPLY_HEAD + (takes[0]?.type.kind === 'text' ? TYPE_HEAD.text : TYPE_HEAD.plain) + dataBytes;
}

/** Bytes of a message that carries these items, as a request and as a reply. */
export function messageBytes(items: readonly ReadItem[]): MessageSize {
  if (items.length === 1 && items[0]) return { request: requestBytes(items[0]), reply: replyBytes(items[0]) };
  let [request, reply] = [MULTIPLE_REQUEST_BYTES, MULTIPLE_REPLY_BYTES];
  for (const item of items) {
    request += OFFSET_BYTES + requestBytes(item);
    reply += OFFSET_BYTES + replyBytes(item);
  }
  return { request, reply };
}

interface Place {
  readonly name: string;
  readonly steps: readonly Step[];
  /** Bytes of one element; null where they are not known before it is read. */
  readonly bytes: number | null;
  readonly takes: Take[];
}

/**
 * @param most     bytes of values that one service may give
 * @param textBytes bytes that the text of a name took when it was read, null where it was not yet
 */
export function planReads(points: readonly TagPoint[], most: number, textBytes: (name: string) => number | null = () => null): readonly ReadItem[] {
  const places = new Map<string, Place>();
  for (const { key, path, type } of points) {
    const last = path.steps.at(-1);
    const isPacked = type.kind === 'boolean' && path.bit === null && typeof last === 'number';
    const steps = isPacked ? [...path.steps.slice(0, -1), Math.floor(last / PACKED_BITS)] : path.steps;
    const bit = isPacked ? last % PACKED_BITS : path.bit;
    const name = formatTagPath({ steps, bit: null });
    const bytes = isPacked ? 4 : type.kind === 'text' || path.bit !== null ? null : type.bytes;
    // Values of two widths at one place: one of them is declared wrongly, and each is told for itself.
    const id = `${name} ${type.kind === 'text' ? 'text' : ''}`;
    const known = places.get(id);
    const take: Take = { key, type, at: 0, bit, isPacked };
    if (known) known.takes.push(take);
    else places.set(id, { name, steps, bytes, takes: [take] });
  }
  const runs = new Map<string, Place[]>();
  const items: ReadItem[] = [];
  for (const place of places.values()) {
    if (place.bytes === null || typeof place.steps.at(-1) !== 'number') {
      items.push(alone(place, textBytes));
      continue;
    }
    const array = `${formatTagPath({ steps: place.steps.slice(0, -1), bit: null })} ${place.bytes}`;
    const run = runs.get(array);
    if (run) run.push(place);
    else runs.set(array, [place]);
  }
  for (const run of runs.values()) items.push(...joinedRun(run, most));
  return items;
}

function alone({ name, steps, bytes, takes }: Place, textBytes: (name: string) => number | null): ReadItem {
  const type = takes[0]?.type;
  const dataBytes = type?.kind === 'text' ? (textBytes(name) ?? type.bytes + TEXT_MORE) : (bytes ?? 4);
  return { name, steps, count: 1, takes, dataBytes };
}

function joinedRun(places: readonly Place[], most: number): readonly ReadItem[] {
  const sorted = [...places].sort((a, b) => indexOf(a) - indexOf(b));
  const items: ReadItem[] = [];
  let run: Place[] = [];
  const end = (): void => {
    const [first, last] = [run[0], run.at(-1)];
    if (!first || !last) return;
    const start = indexOf(first);
    const count = indexOf(last) - start + 1;
    const takes = run.flatMap((place) => place.takes.map((take) => ({ ...take, at: indexOf(place) - start })));
    items.push({ name: first.name, steps: first.steps, count, takes, dataBytes: count * (first.bytes ?? 0) });
    run = [];
  };
  for (const place of sorted) {
    const [first, last] = [run[0], run.at(-1)];
    const width = place.bytes ?? 0;
    if (first && last) {
      const isFar = (indexOf(place) - indexOf(last) - 1) * width > GAP_BYTES;
      const isTooLong = (indexOf(place) - indexOf(first) + 1) * width > most;
      if (isFar || isTooLong) end();
    }
    run.push(place);
  }
  end();
  return items;
}

function indexOf({ steps }: Place): number {
  const last = steps.at(-1);
  return typeof last === 'number' ? last : 0;
}

/** Each value of an item asked for by itself: where one of them is refused, the others still come. */
export function takenApart({ steps, takes, dataBytes, count }: ReadItem): readonly ReadItem[] {
  const last = steps.at(-1);
  if (typeof last !== 'number') return [];
  const byElement = new Map<number, Take[]>();
  for (const take of takes) byElement.set(take.at, [...(byElement.get(take.at) ?? []), take]);
  return [...byElement].map(([at, own]) => {
    const moved = [...steps.slice(0, -1), last + at];
    return {
      name: formatTagPath({ steps: moved, bit: null }),
      steps: moved,
      count: 1,
      takes: own.map((take) => ({ ...take, at: 0 })),
      dataBytes: dataBytes / count,
    };
  });
}

/** Messages that stay open while items are put into them. */
const OPEN = 8;

/** Items by messages. One that fits into none stands alone, and is read in fragments. */
export function packItems(items: readonly ReadItem[], size: MessageSize): readonly (readonly ReadItem[])[] {
  // Large ones first: small ones fill what they leave.
  const sorted = [...items].sort((a, b) => replyBytes(b) + requestBytes(b) - replyBytes(a) - requestBytes(a));
  const packed: ReadItem[][] = [];
  let open: { readonly items: ReadItem[]; request: number; reply: number }[] = [];
  for (const item of sorted) {
    const request = OFFSET_BYTES + requestBytes(item);
    const reply = OFFSET_BYTES + replyBytes(item);
    const found = open.find((message) => message.request + request <= size.request && message.reply + reply <= size.reply);
    if (found) {
      found.items.push(item);
      found.request += request;
      found.reply += reply;
      continue;
    }
    const begun = { items: [item], request: MULTIPLE_REQUEST_BYTES + request, reply: MULTIPLE_REPLY_BYTES + reply };
    packed.push(begun.items);
    if (begun.request <= size.request && begun.reply <= size.reply) open = [...open.slice(-OPEN + 1), begun];
  }
  return packed;
}

/** Whether the answer to an item does not fit into one message, or may not. */
export function needsFragments(item: ReadItem, { reply }: MessageSize): boolean {
  return replyBytes(item) > reply;
}
