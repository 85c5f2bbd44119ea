/**
 * Keeps what came over the wire from chosen devices, for hours, so that the past can be looked at: what a panel showed, and what it should
 * have shown by the mapping of now. Nothing is asked for beside the scan, and nothing is written to machines.
 */
import { decodeChunk, encodeChunk, type RecordedColumn, type RecordedEntry } from '@/core/check/recording/chunk.ts';
import { mappingIn, mappingText } from '@/core/check/recording/pastMapping.ts';
import { DEFAULT_RECORDER, type PastValue, type RecorderSettings, type RecorderState } from '@/core/check/recording/settings.ts';
import { inSlices } from '@/core/inSlices.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { ok, type Result } from '@/core/result.ts';
import { followWire, NO_VALUE_TEXT, unjudged, type SignalDefinition } from '@/core/signal.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { LiveTable } from '@/runtime/liveTable.ts';
import type { RecorderStore } from '@/store/recorderStore.ts';
import type { RecordingRing } from '@/store/recordingRing.ts';

const STRETCH_MS = 60_000;

interface Column {
  readonly size: number;
  readonly mapping: string;
  readonly place: string;
  readonly signal: EffectiveSignal;
  readonly entries: RecordedEntry[];
}

export class Recorder {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #ring: RecordingRing;
  readonly #store: Pick<RecorderStore, 'load' | 'keep'>;
  #settings = DEFAULT_RECORDER;
  /** By tag. */
  #columns = new Map<string, Column>();
  #devices: ReadonlySet<string> = new Set();
  #from = 0;
  #problem = '';
  #stop: () => void = () => undefined;
  #cancel: () => void = () => undefined;
  /** One stretch after the other. */
  #writing: Promise<void> = Promise.resolve();

  constructor(model: ProjectModel, live: LiveTable, clock: Clock, ring: RecordingRing, store: Pick<RecorderStore, 'load' | 'keep'>) {
    this.#model = model;
    this.#live = live;
    this.#clock = clock;
    this.#ring = ring;
    this.#store = store;
  }

  async start(): Promise<void> {
    this.#settings = (await this.#store.load()) ?? DEFAULT_RECORDER;
    this.#follow();
  }

  async set(settings: RecorderSettings): Promise<Result<RecorderState>> {
    const known = settings.deviceIds.filter((id) => this.#model.get('device', id));
    const next = { ...settings, deviceIds: [...new Set(known)] };
    await this.#store.keep(next);
    await this.flush();
    this.#settings = next;
    await this.#ring.prune(next.megabytes * 1e6, this.#clock.now() - next.hours * 3_600_000);
    this.#follow();
    return ok(this.state);
  }

  get state(): RecorderState {
    const [oldest] = this.#ring.stretches;
    const from = oldest?.from ?? (this.#columns.size > 0 ? this.#from : null);
    return { settings: this.#settings, tags: this.#columns.size, from, bytes: this.#ring.bytes, problem: this.#problem };
  }

  /** Writes what is in hand. */
  flush(): Promise<void> {
    const columns = this.#turned();
    if (columns) this.#writing = this.#writing.then(() => this.#write(columns.from, columns.to, columns.columns));
    return this.#writing;
  }

  async close(): Promise<void> {
    this.#stop();
    this.#cancel();
    await this.flush();
  }

  /** What some tags were at a moment; tags of which nothing is known then are left out. */
  async at(moment: number, tagIds: readonly string[]): Promise<readonly PastValue[]> {
    const wanted = new Set(tagIds);
    const found = new Map<string, { readonly column: RecordedColumn; readonly entry: RecordedEntry }>();
    for (const columns of await this.#columnsWithin(moment, moment, wanted))
      for (const column of columns) {
        const entry = column.entries.findLast(({ at }) => at <= moment);
        const known = found.get(column.tagId);
        if (entry && (!known || known.entry.at <= entry.at)) found.set(column.tagId, { column, entry });
      }
    return tagIds.flatMap((tagId) => {
      const one = found.get(tagId);
      return one ? [this.#past(tagId, one.column, one.entry)] : [];
    });
  }

  /** What came of a tag between two moments, the oldest first; at most so many of the newest. */
  async history(tagId: string, from: number, to: number, most: number): Promise<readonly PastValue[]> {
    const values: PastValue[] = [];
    for (const columns of await this.#columnsWithin(from, to, new Set([tagId])))
      for (const column of columns)
        for (const entry of column.entries) {
          const last = values.at(-1);
          // A stretch begins with what the one before ended with.
          if (entry.at >= from && entry.at <= to && (!last || entry.at > last.at)) values.push(this.#past(tagId, column, entry));
        }
    return values.slice(-most);
  }

  async #columnsWithin(from: number, to: number, wanted: ReadonlySet<string>): Promise<readonly (readonly RecordedColumn[])[]> {
    await this.#writing;
    const found: (readonly RecordedColumn[])[] = [];
    for (const stretch of this.#ring.within(from, to)) {
      const bytes = await this.#ring.read(stretch);
      const columns = bytes && decodeChunk(bytes, wanted);
      if (columns) found.push(columns);
    }
    // What is still in hand.
    if (this.#columns.size > 0 && to >= this.#from)
      found.push(
        [...wanted].flatMap((tagId) => {
          const column = this.#columns.get(tagId);
          return column ? [{ tagId, ...column }] : [];
        }),
      );
    return found;
  }

  #past(tagId: string, { mapping }: RecordedColumn, { at, bytes, reason }: RecordedEntry): PastValue {
    const signal = this.#model.effective(tagId);
    const then = mappingIn(mapping);
    return {
      tagId,
      at,
      raw: bytes ? Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('') : '',
      shown: shownBy(then, bytes),
      byNow: signal.ok ? shownBy(signal.value.def, bytes) : NO_VALUE_TEXT,
      reason,
      isChanged: signal.ok && mappingText(signal.value.def) !== mapping,
    };
  }

  /** Whole milliseconds: the clock has parts of them. */
  #now(): number {
    return Math.floor(this.#clock.now());
  }

  #follow(): void {
    this.#stop();
    this.#cancel();
    this.#devices = new Set(this.#settings.deviceIds);
    this.#columns = new Map();
    if (this.#devices.size === 0) return;
    this.#from = this.#now();
    for (const tag of this.#model.all('tag')) this.#take(tag.id);
    this.#stop = this.#live.onSample((tagId) => this.#take(tagId));
    this.#next();
  }

  #next(): void {
    this.#cancel = this.#clock.after(STRETCH_MS, () => {
      void this.flush();
      this.#next();
    });
  }

  /** What came, if it is another thing than came before. */
  #take(tagId: string): void {
    const newest = this.#live.wireOf(tagId);
    const tag = this.#model.get('tag', tagId);
    if (!newest || !tag || !this.#devices.has(deviceIdOf(tag) ?? '')) return;
    const { at, bytes, reason, signal } = newest;
    let column = this.#columns.get(tagId);
    if (!column || (bytes && bytes.length !== column.size) || (signal && signal !== column.signal)) {
      // The mapping has changed, or the length: what came before is a column of its own, in a stretch of its own.
      if (column && column.entries.length > 0) void this.flush();
      if (!signal) return;
      column = columnOf(signal, bytes?.length ?? 0);
      this.#columns.set(tagId, column);
    }
    const last = column.entries.at(-1);
    if (last && (bytes && last.bytes ? sameBytes(last.bytes, bytes) : last.bytes === null && bytes === null && last.reason === reason)) return;
    column.entries.push({ at: Math.max(Math.floor(at), this.#from), bytes: bytes && new Uint8Array(bytes), reason });
  }

  /** The columns in hand, with new ones in their place that begin with what was known last. */
  #turned(): { readonly from: number; readonly to: number; readonly columns: readonly RecordedColumn[] } | null {
    const from = this.#from;
    const to = Math.max(this.#now(), from + 1);
    const filled = [...this.#columns].filter(([, { entries }]) => entries.length > 0);
    if (filled.length === 0) return null;
    this.#from = to;
    this.#columns = new Map(
      filled.map(([tagId, column]) => {
        const last = column.entries.at(-1);
        return [tagId, { ...column, entries: last ? [{ ...last, at: to }] : [] }];
      }),
    );
    return { from, to, columns: filled.map(([tagId, { size, mapping, place, entries }]) => ({ tagId, size, mapping, place, entries })) };
  }

  async #write(from: number, to: number, columns: readonly RecordedColumn[]): Promise<void> {
    const { hours, megabytes } = this.#settings;
    try {
      await this.#ring.add(from, to, await inSlices(encodeChunk(from, to, columns)), megabytes * 1e6);
      await this.#ring.prune(megabytes * 1e6, to - hours * 3_600_000);
      this.#problem = '';
    } catch (error) {
      this.#problem = `A stretch could not be kept: ${error instanceof Error ? error.message : String(error)}`;
    }
  }
}

function columnOf(signal: EffectiveSignal, size: number): Column {
  const place = signal.span ? `${signal.span.area} ${signal.span.from}` : '';
  return { size, mapping: mappingText(signal.def), place, signal, entries: [] };
}

function shownBy(def: SignalDefinition | null, bytes: Uint8Array | null): string {
  return def && bytes ? followWire(unjudged(def), { kind: 'bytes', bytes }).text : NO_VALUE_TEXT;
}

function sameBytes(one: Uint8Array, other: Uint8Array): boolean {
  return one.length === other.length && one.every((byte, i) => byte === other[i]);
}
