/** The newest sample of every tag, with its quality and time. No value is here without them. */
import type { WireValue } from '@/core/signal.ts';
import { followToValue, NO_VALUE_TEXT, textOf, type ReadingNotes, type ValueStages } from '@/core/signal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { asNumber, type EngValue } from '@/core/value/engineering.ts';
import { isWatched, PlausibilityWatch } from '@/core/value/plausible.ts';
import { qualityOf, type Quality, type QualityLevel } from '@/core/value/quality.ts';
import { LimitWatch, type LimitKey } from '@/core/ranges/limits.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';

export interface Sample {
  readonly tagId: string;
  /** Grows by one with every sample of any tag. */
  readonly n: number;
  /** Clock time of the arrival; of a bad sample, when it turned bad. */
  readonly at: number;
  readonly roundTripMs: number;
  /** When its source took it, by its own clock; null where it does not say. */
  readonly sourceAt: number | null;
  /** How long after its arrival it is good. */
  readonly freshForMs: number;
  readonly wire: WireValue | null;
  readonly raw: RawValue | null;
  readonly eng: EngValue | null;
  readonly text: string;
  readonly quality: Quality;
  /** The limit that it has been beyond for as long as its delay; null for none, and where there is no value. */
  readonly limit: LimitKey | null;
  readonly broken: { readonly stage: 'wire' | 'decoded' | 'engineering'; readonly problem: Problem } | null;
  /** The signal path that made it; null when its settings do not fit together. */
  readonly signal: EffectiveSignal | null;
}

/** Told which tag has a new sample; {@link LiveTable.get} gives it. */
type Listener = (tagId: string) => void;

interface Kept {
  readonly samples: Sample[];
  users: number;
}

/** What a moment less a time may be off by: the clock counts in hundredths. */
const CLOCK_STEP_MS = 0.02;

/** How many samples of a watched tag are kept to compare a drawn text with the sample it was drawn from. */
const KEPT = 64;

type Followed = Pick<Sample, keyof ValueStages>;

/**
 * What is newest of one tag, written over by each arrival: with thousands a second, an object for each would keep the
 * collector busy. What goes out is a {@link Sample} of its own, made when somebody looks.
 */
class Newest {
  readonly tagId: string;
  n = 0;
  at = 0;
  roundTripMs = 0;
  freshForMs = Infinity;
  /** The bytes of the wire value in a buffer of its own, or the wire value of another kind. */
  #bytes: Uint8Array | null = null;
  #other: WireValue | null = null;
  raw: RawValue | null = null;
  eng: EngValue | null = null;
  quality: Quality = qualityOf('waiting');
  broken: Sample['broken'] = null;
  signal: EffectiveSignal | null = null;
  /** What is known of the reading beside its bytes. */
  notes: ReadingNotes = {};
  kept: Kept | null = null;
  /** Of a value whose way from reading to reading tells something. */
  watch: PlausibilityWatch | null = null;
  /** Of a value that has limits, and of which it is. */
  limits: LimitWatch | null = null;
  limit: LimitKey | null = null;
  /** Takes back the look at a limit whose delay runs. */
  forgetDelay: (() => void) | null = null;
  /** It was good at some time. */
  wasGood = false;
  #sample: Sample | null = null;

  constructor(tagId: string) {
    this.tagId = tagId;
  }

  get wire(): WireValue | null {
    return this.#bytes ? { kind: 'bytes', bytes: this.#bytes } : this.#other;
  }

  set wire(wire: WireValue | null) {
    if (wire?.kind !== 'bytes') {
      this.#bytes = null;
      this.#other = wire;
    } else if (this.#bytes?.length === wire.bytes.length) this.#bytes.set(wire.bytes);
    else this.#bytes = new Uint8Array(wire.bytes);
  }

  follow({ raw, eng, quality, broken }: Followed): void {
    this.raw = raw;
    this.eng = eng;
    this.quality = quality;
    this.broken = broken;
    if (quality.level === 'good') this.wasGood = true;
  }

  /** It was written over: the next look makes a new sample. */
  changed(n: number): void {
    this.n = n;
    this.#sample = null;
  }

  get sample(): Sample {
    if (this.#sample) return this.#sample;
    const { tagId, n, at, roundTripMs, freshForMs, raw, eng, quality, limit, broken, signal } = this;
    const text = signal ? textOf(signal.def, eng) : NO_VALUE_TEXT;
    const wire: WireValue | null = this.#bytes ? { kind: 'bytes', bytes: new Uint8Array(this.#bytes) } : this.#other;
    const { sourceAt = null } = this.notes;
    this.#sample = { tagId, n, at, roundTripMs, sourceAt, freshForMs, wire, raw, eng, text, quality, limit, broken, signal };
    return this.#sample;
  }
}

/** What came before makes it doubtful. A range that somebody has set is asked instead. */
function oddityOf(newest: Newest, { def }: EffectiveSignal, { raw, quality }: Followed): string | null {
  if (def.range || quality.level !== 'good' || raw === null || !isWatched(def.type)) return null;
  // Another signal path: what it showed before is no measure of it.
  if (newest.signal?.def !== def) newest.watch = null;
  newest.watch ??= new PlausibilityWatch();
  return newest.watch.next(def.type, raw);
}

export class LiveTable {
  readonly #newest = new Map<string, Newest>();
  readonly #listeners = new Set<Listener>();
  readonly #counts: Record<QualityLevel, number> = { good: 0, uncertain: 0, bad: 0 };
  #n = 0;

  /** @param clock  for limits that a value is beyond for a while, without another arrival */
  constructor(private readonly clock: Clock | null = null) {}

  get(tagId: string): Sample | null {
    const newest = this.#newest.get(tagId);
    return newest && newest.n > 0 ? newest.sample : null;
  }

  /** What is newest of a tag, without making a sample of it; it is written over by the next arrival. */
  value(tagId: string): Pick<Sample, 'n' | 'eng' | 'quality' | 'limit'> | null {
    const newest = this.#newest.get(tagId);
    return newest && newest.n > 0 ? newest : null;
  }

  /** What came last over the wire of a tag; its bytes are written over by the next arrival. Null before there is anything. */
  wireOf(
    tagId: string,
  ): { readonly at: number; readonly bytes: Uint8Array | null; readonly reason: string; readonly signal: EffectiveSignal | null } | null {
    const newest = this.#newest.get(tagId);
    if (!newest || newest.n === 0) return null;
    const { at, wire, quality, signal } = newest;
    const bytes = wire?.kind === 'bytes' ? wire.bytes : null;
    return { at, bytes, reason: bytes ? '' : (quality.reason ?? ''), signal };
  }

  /** Clock time of the newest sample of a tag, 0 before there is one. */
  arrivedAt(tagId: string): number {
    return this.#newest.get(tagId)?.at ?? 0;
  }

  /** Whether a tag was good at some time since the start. */
  wasGood(tagId: string): boolean {
    return this.#newest.get(tagId)?.wasGood ?? false;
  }

  /** How many tags have a value of each quality. */
  get counts(): Readonly<Record<QualityLevel, number>> {
    return { ...this.#counts };
  }

  onSample(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** A wire value came. The answer to an older question never replaces that to a newer one: a write was read back meanwhile. */
  arrive(tagId: string, signal: EffectiveSignal, wire: WireValue, notes: ReadingNotes, at: number, roundTripMs: number, freshForMs = Infinity): void {
    const newest = this.#of(tagId);
    if (newest.wire && at - roundTripMs < newest.at - newest.roundTripMs - CLOCK_STEP_MS) return;
    newest.freshForMs = freshForMs;
    const stages = followToValue(signal.def, wire, notes);
    const odd = oddityOf(newest, signal, stages);
    if (odd === null) this.#put(newest, signal, stages, wire, notes, at, roundTripMs);
    else {
      const told = { ...notes, implausible: odd };
      this.#put(newest, signal, followToValue(signal.def, wire, told), wire, told, at, roundTripMs);
    }
  }

  /** There is no value, and why. The same news is not told twice. */
  lose(tagId: string, quality: Quality, problem: Problem | null, at: number, signal: EffectiveSignal | null): void {
    const newest = this.#of(tagId);
    const { quality: last } = newest;
    if (newest.n > 0 && newest.eng === null && last.reason === quality.reason && last.detail === quality.detail && newest.signal === signal) return;
    const broken = problem ? ({ stage: 'wire', problem } as const) : null;
    this.#put(newest, signal, { raw: null, eng: null, quality, broken }, null, {}, at, 0);
  }

  /** A setting changed, or something else became known of the reading: the bytes that are there are followed anew. */
  reinterpret(tagId: string, signal: EffectiveSignal, news: ReadingNotes = {}): void {
    const newest = this.#newest.get(tagId);
    const wire = newest?.wire;
    if (!newest || !wire) return;
    const notes = { ...newest.notes, ...news };
    this.#put(newest, signal, followToValue(signal.def, wire, notes), wire, notes, newest.at, newest.roundTripMs);
  }

  /** Where a value has grown too old it is no longer good; the same news is not told twice. */
  outdate(tagId: string, now: number, why: string): void {
    const newest = this.#newest.get(tagId);
    if (newest && now - newest.at > newest.freshForMs && newest.signal && newest.notes.overdue === undefined && newest.wire)
      this.reinterpret(tagId, newest.signal, { overdue: why });
  }

  /** A tag that is new, or reads something else from now on. */
  reset(tagId: string, signal: EffectiveSignal, at: number): void {
    this.lose(tagId, qualityOf('waiting'), null, at, signal);
  }

  remove(tagId: string): void {
    const last = this.#newest.get(tagId);
    if (last && last.n > 0) this.#counts[last.quality.level]--;
    last?.forgetDelay?.();
    this.#newest.delete(tagId);
  }

  /** Keeps the last samples of a tag, for a check, until what it returns is called. */
  keep(tagId: string): () => void {
    const newest = this.#of(tagId);
    const kept = (newest.kept ??= { samples: newest.n > 0 ? [newest.sample] : [], users: 0 });
    kept.users++;
    return () => {
      if (--kept.users === 0 && newest.kept === kept) newest.kept = null;
    };
  }

  kept(tagId: string, n: number): Sample | null {
    return this.#newest.get(tagId)?.kept?.samples.find((s) => s.n === n) ?? null;
  }

  #of(tagId: string): Newest {
    let newest = this.#newest.get(tagId);
    if (!newest) this.#newest.set(tagId, (newest = new Newest(tagId)));
    return newest;
  }

  #limit(newest: Newest, signal: EffectiveSignal | null, { eng, quality }: Followed, at: number): void {
    const limits = signal?.def.limits;
    newest.forgetDelay?.();
    newest.forgetDelay = null;
    if (!limits) {
      newest.limits = null;
      newest.limit = null;
      return;
    }
    if (newest.limits?.limits !== limits) newest.limits = new LimitWatch(limits);
    const watch = newest.limits;
    const told = watch.next(eng === null ? null : asNumber(eng), at);
    newest.limit = quality.level === 'bad' ? null : told;
    if (!this.clock || !watch.isWaiting(at)) return;
    // Beyond a limit whose delay runs: it is told when that is over, though nothing else arrives.
    newest.forgetDelay = this.clock.after(limits.delayMs - (this.clock.now() - at), () => {
      newest.forgetDelay = null;
      const late = newest.quality.level === 'bad' ? null : watch.told(at + limits.delayMs);
      if (late === newest.limit || this.#newest.get(newest.tagId) !== newest) return;
      newest.limit = late;
      newest.changed(++this.#n);
      for (const listener of this.#listeners) listener(newest.tagId);
    });
  }

  #put(
    newest: Newest,
    signal: EffectiveSignal | null,
    stages: Followed,
    wire: WireValue | null,
    notes: ReadingNotes,
    at: number,
    roundTripMs: number,
  ): void {
    if (newest.n > 0) this.#counts[newest.quality.level]--;
    this.#limit(newest, signal, stages, at);
    newest.follow(stages);
    newest.wire = wire;
    newest.notes = notes;
    newest.signal = signal;
    newest.at = at;
    newest.roundTripMs = roundTripMs;
    newest.changed(++this.#n);
    this.#counts[newest.quality.level]++;
    const samples = newest.kept?.samples;
    if (samples) {
      samples.push(newest.sample);
      if (samples.length > KEPT) samples.shift();
    }
    for (const listener of this.#listeners) listener(newest.tagId);
  }
}
