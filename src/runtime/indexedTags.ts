/**
 * Tags whose address is moved by others: where each is read and written now. While nobody knows where that is, there is no
 * value: that of the place before would be a wrong one.
 */
import { fail, type Problem, type Result } from '@/core/result.ts';
import type { Settings } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { movedSignal } from '@/mapping/movedSignal.ts';
import type { Calculations, Told } from './calculations.ts';

/** What becomes of a tag when its place is another one. */
export interface PlaceChanges {
  /** It is read there from now on; what it showed before is gone. */
  readonly read: (tagId: string, signal: EffectiveSignal) => void;
  /** It is read nowhere. */
  readonly lose: (tagId: string, problem: Problem) => void;
}

interface Indexed {
  readonly of: EffectiveSignal;
  readonly dialect: Settings;
  place: Result<EffectiveSignal>;
}

const NOT_YET: Result<never> = fail('index', 'Its index was not read yet.', 'Wait for it, or look at the tag that it goes by.', 'source.index');

export class IndexedTags {
  readonly #calculations: Calculations;
  readonly #changes: PlaceChanges;
  readonly #tags = new Map<string, Indexed>();

  constructor(calculations: Calculations, changes: PlaceChanges) {
    this.#calculations = calculations;
    this.#changes = changes;
  }

  /** Takes a tag that is new or changed, or whose device is asked anew. */
  take(tagId: string, signal: EffectiveSignal, dialect: Settings): void {
    if (!signal.index) return this.remove(tagId);
    const before = this.#tags.get(tagId);
    if (before?.of === signal && before.dialect === dialect) return this.#tell(tagId, before);
    const indexed: Indexed = { of: signal, dialect, place: NOT_YET };
    this.#tags.set(tagId, indexed);
    if (!before) this.#tell(tagId, indexed);
    this.#calculations.take(tagId, {
      of: signal,
      program: signal.index.program,
      periodMs: signal.periodMs,
      tell: (told) => this.#follow(tagId, indexed, told),
    });
  }

  remove(tagId: string): void {
    if (this.#tags.delete(tagId)) this.#calculations.remove(tagId);
  }

  /** The signal at the place of now; null for a tag without an index. */
  now(tagId: string): Result<EffectiveSignal> | null {
    return this.#tags.get(tagId)?.place ?? null;
  }

  #follow(tagId: string, indexed: Indexed, told: Told): void {
    const { of, dialect, place: before } = indexed;
    const place = placeBy(told, of, dialect);
    indexed.place = place.ok && before.ok && before.value.canonical === place.value.canonical ? before : place;
    if (indexed.place !== before) this.#tell(tagId, indexed);
  }

  #tell(tagId: string, { place }: Indexed): void {
    if (place.ok) this.#changes.read(tagId, place.value);
    else this.#changes.lose(tagId, place.problem);
  }
}

/** An index that is in doubt leads nowhere: a value of the wrong place is a wrong number. */
function placeBy(told: Told, signal: EffectiveSignal, dialect: Settings): Result<EffectiveSignal> {
  const doubt = told.kind === 'value' ? told.doubted : told.why;
  if (told.kind === 'value' && doubt === undefined) return movedSignal(signal, told.value, dialect);
  return fail('index', `Its index has no good value: ${doubt ?? ''}.`, 'Look at the tag that it goes by.', 'source.index');
}
