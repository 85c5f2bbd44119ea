/** The newest sample of every tag, with its quality and time. No value is here without them. */
import type { WireValue } from '@/core/signal.ts';
import { followWire, NO_VALUE_TEXT, type ReadingNotes } from '@/core/signal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { EngValue } from '@/core/value/engineering.ts';
import { qualityOf, type Quality, type QualityLevel } from '@/core/value/quality.ts';
import type { Problem } from '@/core/result.ts';
import type { EffectiveSignal } from '@/drivers/effective.ts';

export interface Sample {
  readonly tagId: string;
  /** Grows by one with every sample of any tag. */
  readonly n: number;
  /** Clock time of the arrival; of a bad sample, when it turned bad. */
  readonly at: number;
  readonly roundTripMs: number;
  readonly wire: WireValue | null;
  readonly raw: RawValue | null;
  readonly eng: EngValue | null;
  readonly text: string;
  readonly quality: Quality;
  readonly broken: { readonly stage: 'wire' | 'decoded' | 'engineering'; readonly problem: Problem } | null;
  /** The signal path that made it; null when its settings do not fit together. */
  readonly signal: EffectiveSignal | null;
}

type Listener = (sample: Sample) => void;

/** How many samples of a watched tag are kept to compare a drawn text with the sample it was drawn from. */
const KEPT = 64;

export class LiveTable {
  /** With what is known of the reading beside its bytes. One look-up serves an arrival: there are thousands a second. */
  readonly #newest = new Map<string, { sample: Sample; notes: ReadingNotes }>();
  readonly #kept = new Map<string, { readonly samples: Sample[]; users: number }>();
  readonly #listeners = new Set<Listener>();
  readonly #counts: Record<QualityLevel, number> = { good: 0, uncertain: 0, bad: 0 };
  #n = 0;

  get(tagId: string): Sample | null {
    return this.#newest.get(tagId)?.sample ?? null;
  }

  /** How many tags have a value of each quality. */
  get counts(): Readonly<Record<QualityLevel, number>> {
    return { ...this.#counts };
  }

  onSample(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** A wire value came. */
  arrive(tagId: string, signal: EffectiveSignal, wire: WireValue, notes: ReadingNotes, at: number, roundTripMs: number): void {
    const { raw, eng, text, quality, broken } = followWire(signal.def, wire, notes);
    this.#take({ tagId, n: ++this.#n, at, roundTripMs, wire, raw, eng, text, quality, broken, signal }, notes);
  }

  /** There is no value, and why. The same news is not told twice. */
  lose(tagId: string, quality: Quality, problem: Problem | null, at: number, signal: EffectiveSignal | null): void {
    const last = this.get(tagId);
    if (last && last.eng === null && last.quality.reason === quality.reason && last.quality.detail === quality.detail && last.signal === signal)
      return;
    this.#take({
      tagId,
      n: ++this.#n,
      at,
      roundTripMs: 0,
      wire: null,
      raw: null,
      eng: null,
      text: NO_VALUE_TEXT,
      quality,
      broken: problem ? { stage: 'wire', problem } : null,
      signal,
    });
  }

  /** A setting changed, or something else became known of the reading: the bytes that are there are followed anew. */
  reinterpret(tagId: string, signal: EffectiveSignal, news: ReadingNotes = {}): void {
    const newest = this.#newest.get(tagId);
    if (!newest?.sample.wire) return;
    const notes = { ...newest.notes, ...news };
    this.#take({ ...newest.sample, n: ++this.#n, ...followWire(signal.def, newest.sample.wire, notes), signal }, notes);
  }

  /** A tag that is new, or reads something else from now on. */
  reset(tagId: string, signal: EffectiveSignal, at: number): void {
    this.lose(tagId, qualityOf('waiting'), null, at, signal);
  }

  remove(tagId: string): void {
    const last = this.get(tagId);
    if (last) this.#counts[last.quality.level]--;
    this.#newest.delete(tagId);
    this.#kept.delete(tagId);
  }

  /** Keeps the last samples of a tag, for a check, until what it returns is called. */
  keep(tagId: string): () => void {
    const kept = this.#kept.get(tagId) ?? { samples: [this.get(tagId)].flatMap((s) => s ?? []), users: 0 };
    kept.users++;
    this.#kept.set(tagId, kept);
    return () => {
      if (--kept.users === 0 && this.#kept.get(tagId) === kept) this.#kept.delete(tagId);
    };
  }

  kept(tagId: string, n: number): Sample | null {
    return this.#kept.get(tagId)?.samples.find((s) => s.n === n) ?? null;
  }

  #take(sample: Sample, notes: ReadingNotes = {}): void {
    const newest = this.#newest.get(sample.tagId);
    this.#counts[sample.quality.level]++;
    if (newest) {
      this.#counts[newest.sample.quality.level]--;
      newest.sample = sample;
      newest.notes = notes;
    } else this.#newest.set(sample.tagId, { sample, notes });
    const kept = this.#kept.get(sample.tagId)?.samples;
    if (kept) {
      kept.push(sample);
      if (kept.length > KEPT) kept.shift();
    }
    for (const listener of this.#listeners) listener(sample);
  }
}
