/**
 * Proves tags one by one. Agreement of wire and panel is only *consistent*; *proven* needs a witness that does
 * not use our mapping.
 */
import { elementText, shownOf, type Texts } from '@/core/panel/elementText.ts';
import { compareSeen, compareTold, resolutionOf, same, saysTooLittle, typedStep, type Agreement } from '@/core/check/verdict.ts';
import type { CheckResult, FiledProof, PageCheck, Proof, Seal } from '@/core/check/checkResult.ts';
import { explain } from '@/core/check/explain.ts';
import { FactorEvidence } from '@/core/check/factorEvidence.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { sceneInLanguage } from '@/core/panel/sceneWording.ts';
import type { Element } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { engineeringText, NO_VALUE_TEXT, parseFor, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import { asNumber, toJson, type EngValue } from '@/core/value/engineering.ts';
import { isDecimal, parseDecimal } from '@/core/value/decimal.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { DataType } from '@/core/value/dataType.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { Clock } from '@/drivers/contract.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { LiveTable, Sample } from '@/runtime/liveTable.ts';
import type { ProofBook, StoredProof } from '@/store/proofBook.ts';
import type { Statement } from '@/store/protocol.ts';
import type { RecordStore } from '@/store/recordStore.ts';

/** What an open panel page says that it really drew: the text in the page, not what was meant for it. */
export interface DrawnText {
  readonly elementId: string;
  readonly text: string;
  /** Number of the sample it was drawn from. */
  readonly sample: number;
  readonly visibility: 'visible' | 'hidden';
  /** The code of the language that it was drawn in; null for that in which it was written. */
  readonly language: string | null;
}
/** Asks the open panel pages what they have drawn for a tag. */
export type AskPages = (tagId: string) => Promise<readonly DrawnText[]>;

/** What was drawn, and from what it should have been. */
export interface AskDrawn {
  readonly pages: AskPages;
  readonly sceneOf: (panelId: string) => Scene | null;
}

export type Witness =
  | { readonly kind: 'none' }
  | { readonly kind: 'typed'; readonly text: string; readonly who: string }
  | { readonly kind: 'control'; readonly who: string };

/** A sample that came from the device. Its value is null when its bytes do not decode: that is a failure, not a silence. */
type Reading = Sample & { readonly wire: WireValue };
interface Compared {
  readonly agreement: Agreement;
  readonly reading: Reading;
  readonly seen: EngValue;
  /** Whether the witness told two values around the reading. */
  readonly isMoving: boolean;
}

const WITNESS_TIMEOUT_MS = 2000;
const TRIES = 3;
/** How long a moving value is given to become another one. */
const MOVE_MS = 150;

export class CheckService {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #records: RecordStore;
  readonly #book: ProofBook;
  readonly #readNow: (tagId: string) => Promise<Sample | null>;
  readonly #askPages: AskPages;
  readonly #sceneOf: AskDrawn['sceneOf'];
  readonly #proofs = new Map<string, Map<string, Proof>>();
  readonly #listeners = new Set<(proof: Proof) => void>();
  readonly #factors = new FactorEvidence();
  /** Seals of what is known, by tag and digest, for project files. */
  readonly #seals = new Map<string, Seal>();
  #installation = '';
  #doubt = { altered: 0, gaps: 0 };

  constructor(model: ProjectModel, engine: Engine, records: RecordStore, book: ProofBook, ask: AskDrawn) {
    this.#model = model;
    this.#live = engine.live;
    this.#clock = engine.clock;
    this.#readNow = (tagId) => engine.readNow(tagId);
    this.#records = records;
    this.#book = book;
    this.#askPages = ask.pages;
    this.#sceneOf = ask.sceneOf;
  }

  async load(): Promise<void> {
    this.#installation = await this.#records.installation();
    const { proofs, altered, gaps } = await this.#book.load();
    this.#doubt = { altered, gaps };
    for (const { seal, ...proof } of proofs) this.#remember(this.#placed(proof), seal);
  }

  onProof(listener: (proof: Proof) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Whether the path of a tag, as it is now, has a proof that agrees. */
  isProven(tagId: string): boolean {
    const byDigest = this.#proofs.get(tagId);
    const signal = byDigest ? this.#model.effective(tagId) : null;
    const proof = signal?.ok ? byDigest?.get(signal.value.digest) : undefined;
    return proof?.agrees === true && !proof.isElsewhere;
  }

  /** All proofs that are known, the newest of each tag and signal path. */
  proofs(): readonly Proof[] {
    return [...this.#proofs.values()].flatMap((byDigest) => [...byDigest.values()]);
  }

  /** Records that are not what was signed here, and places where some are missing. */
  get doubt(): { readonly altered: number; readonly gaps: number } {
    return this.#doubt;
  }

  /** A proof as a project file has it. */
  filed({ isElsewhere: _, ...proof }: Proof): FiledProof {
    return { ...proof, seal: this.#seals.get(proof.tagId + proof.digest) ?? null };
  }

  /** Records a proof that was made here. */
  async addProof(proof: Omit<StoredProof, 'madeIn'>): Promise<Proof> {
    const own = { ...proof, madeIn: null };
    await this.addAlone([own], null);
    return this.#placed(own);
  }

  /** Proofs of a file that are news here. Only one that was signed here was made here, whatever it says. */
  *newsIn(filed: readonly FiledProof[]): Generator<void, readonly StoredProof[]> {
    const news: StoredProof[] = [];
    for (const { seal, ...proof } of filed) {
      yield;
      const isOurs = this.#book.isOurs(proof, seal);
      const placed = { ...proof, madeIn: isOurs ? null : proof.madeIn === this.#installation ? 'unknown' : proof.madeIn };
      if (!this.#knows(placed)) news.push(placed);
    }
    return news;
  }

  /** Records proofs that come with a change. @param store stores the statements with it, or nothing where it refuses */
  async addWith<T>(proofs: readonly StoredProof[], store: (statements: readonly Statement[]) => Promise<Result<T>>): Promise<Result<T>> {
    const { seals, done } = await this.#book.add(proofs, store);
    if (done.ok) for (const [i, proof] of proofs.entries()) this.#tell(proof, seals[i]);
    return done;
  }

  /** Records proofs that come with no change. @returns the value, once they are recorded */
  addAlone<T>(proofs: readonly StoredProof[], value: T): Promise<Result<T>> {
    return this.addWith(proofs, async (statements) => {
      await this.#records.store(statements);
      return ok(value);
    });
  }

  #tell(proof: StoredProof, seal: Seal | undefined): void {
    const placed = this.#placed(proof);
    if (seal) this.#remember(placed, seal);
    for (const listener of this.#listeners) listener(this.#proofs.get(proof.tagId)?.get(proof.digest) ?? placed);
  }

  /** Whether a proof, or a newer one of the same signal path, is in the records. */
  #knows(proof: StoredProof): boolean {
    const known = this.#proofs.get(proof.tagId)?.get(proof.digest);
    return known !== undefined && (known.at >= proof.at || (!known.isElsewhere && this.#placed(proof).isElsewhere));
  }

  #placed(proof: StoredProof): Proof {
    const madeIn = proof.madeIn ?? this.#installation;
    return { ...proof, madeIn, isElsewhere: madeIn !== this.#installation };
  }

  /** Checks one tag now. The proof is recorded when a witness was given and the value says enough, agreeing or not. */
  async check(tagId: string, witness: Witness): Promise<Result<CheckResult>> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    if (this.#model.get('device', deviceIdOf(tag) ?? '')?.isSimulated)
      return fail('simulated', 'The device is simulated: nothing of the machine can be seen.', 'Lead it to the machine in Links, and check then.');
    const forget = this.#live.keep(tagId);
    try {
      const before = await this.#read(tagId, tag.name);
      if (!before.ok) return before;
      const pages = await this.#checkPages(tagId);
      const judged = pages.filter((p) => p.verdict === 'consistent' || p.verdict === 'differs');
      const base = {
        tagId,
        quality: qualityInWords(before.value.quality),
        text: before.value.text,
        pages,
        consistent: judged.length === 0 ? null : judged.every((p) => p.verdict === 'consistent'),
      };
      if (witness.kind === 'none') return ok({ ...base, proof: null, tooLittle: null, suggestions: [] });
      const seen = await this.#witness(tagId, tag.name, signal.value, before.value, witness);
      return seen.ok ? ok({ ...base, ...seen.value }) : seen;
    } finally {
      forget();
    }
  }

  /** A reading of this moment, asked for after the call. */
  async #read(tagId: string, tagName: string): Promise<Result<Reading>> {
    const sample = await this.#readNow(tagId);
    if (sample && sample.wire !== null) return ok({ ...sample, wire: sample.wire });
    const why = sample ?? this.#live.get(tagId);
    return fail(
      'no-value',
      `There is no good value of ${tagName} to check: ${why ? qualityInWords(why.quality) : 'not read yet'}.`,
      'Bring the device back first.',
    );
  }

  /** Compares what pages drew with the very samples they drew it from. */
  async #checkPages(tagId: string): Promise<readonly PageCheck[]> {
    const drawn = await this.#askPages(tagId);
    return drawn.flatMap((text): readonly PageCheck[] => {
      const element = this.#model.get('element', text.elementId);
      if (!element || element.tagId !== tagId) return [];
      const base = {
        elementId: element.id,
        pageName: this.#model.get('page', element.pageId)?.name ?? '',
        label: element.label,
        drawn: text.text,
        sample: text.sample,
      };
      if (text.visibility === 'hidden') return [{ ...base, expected: null, verdict: 'hidden' }];
      const sample = this.#live.kept(tagId, text.sample);
      if (!sample) return [{ ...base, expected: null, verdict: 'sample-gone' }];
      const written = this.#sceneOf(this.#model.get('page', element.pageId)?.panelId ?? '');
      const scene = written && sceneInLanguage(written, text.language);
      const worded = scene?.elementsOn(element.pageId).find(({ id }) => id === element.id);
      if (!scene || !worded) return [];
      const { word, statesIn } = scene;
      const expected = expectedText(worded, sample, { units: scene.panel.units, statesIn, word });
      return [{ ...base, expected, verdict: expected === text.text ? 'consistent' : 'differs' }];
    });
  }

  /** A moving value is given a few tries: between two readings it may have turned round. */
  async #witness(
    tagId: string,
    tagName: string,
    signal: EffectiveSignal,
    before: Reading,
    witness: Exclude<Witness, { kind: 'none' }>,
  ): Promise<Result<Pick<CheckResult, 'proof' | 'tooLittle' | 'suggestions'>>> {
    for (let tries = 1; ; tries++) {
      const compared =
        witness.kind === 'typed'
          ? await this.#compareTyped(tagId, tagName, signal.def, before, witness.text)
          : await this.#compareControl(tagId, tagName, signal.def);
      if (!compared.ok) return compared;
      const { agreement, reading, seen, isMoving } = compared.value;
      const now = this.#model.effective(tagId);
      if (reading.signal?.digest !== signal.digest || !now.ok || now.value.digest !== signal.digest)
        return fail('changed', `The signal path of ${tagName} was changed while it was checked.`, 'Check again.');
      if (witness.kind === 'control' && isMoving && tries < TRIES && !agreement.agrees) continue;
      // A state or text that the witness told in two ways around the reading agrees with anything.
      if (isMoving && typeof seen !== 'number' && typeof seen !== 'bigint' && !isDecimal(seen)) {
        if (tries < TRIES) continue;
        return fail('moving', `${tagName} changes too fast to be compared.`, 'Hold it still at the machine, and check again.');
      }
      const tooLittle = agreement.agrees ? saysTooLittle(signal.def, reading.wire) : null;
      // A value that moves will soon be another one.
      if (tooLittle !== null && isMoving && tries < 2 * TRIES) {
        await new Promise((resolve) => setTimeout(resolve, MOVE_MS));
        continue;
      }
      if (tooLittle !== null) return ok({ proof: null, tooLittle: `${agreement.sentence} ${tooLittle}`, suggestions: [] });
      const proof = await this.addProof({
        tagId,
        digest: signal.digest,
        agrees: agreement.agrees,
        witness: witness.kind === 'typed' ? 'seen by a person' : 'control channel',
        who: witness.who,
        at: isoTime(this.#clock),
        seen: { sentence: agreement.sentence, value: toJson(reading.eng ?? NO_VALUE_TEXT), witness: toJson(seen) },
      });
      const wanted = asNumber(seen);
      const near = wanted === null ? 0 : Math.max(resolutionOf(signal.def, seen), Math.abs(wanted) * 0.02, 1e-6);
      if (agreement.agrees || wanted === null) {
        this.#factors.forget(tagId);
        return ok({ proof, tooLittle: null, suggestions: [] });
      }
      const found = explain(signal.def, reading.wire, { low: wanted - near, high: wanted + near });
      const { suggestions, unproven } = this.#factors.weigh(tagId, signal.digest, wanted, near, found);
      return ok({ proof, tooLittle: unproven, suggestions });
    }
  }

  async #compareTyped(tagId: string, tagName: string, def: SignalDefinition, before: Reading, text: string): Promise<Result<Compared>> {
    const seen = parseFor(def, text);
    if (!seen.ok) return { ok: false, problem: { ...seen.problem, place: 'witness' } };
    const after = await this.#read(tagId, tagName);
    if (!after.ok) return after;
    const reading = after.value;
    const earlier = before.signal?.digest === reading.signal?.digest ? before.eng : null;
    const agreement =
      reading.eng === null ? undecoded(def, seen.value, reading) : compareSeen(def, earlier ?? reading.eng, reading.eng, seen.value, typedStep(text));
    return ok({ agreement, reading, seen: seen.value, isMoving: false });
  }

  async #compareControl(tagId: string, tagName: string, def: SignalDefinition): Promise<Result<Compared>> {
    const first = await this.#control(tagId, tagName, def.type);
    if (!first.ok) return first;
    const reading = await this.#read(tagId, tagName);
    if (!reading.ok) return reading;
    const last = await this.#control(tagId, tagName, def.type);
    if (!last.ok) return last;
    return ok({
      agreement:
        reading.value.eng === null ? undecoded(def, last.value, reading.value) : compareTold(def, [first.value, last.value], reading.value.eng),
      reading: reading.value,
      seen: last.value,
      isMoving: !same(first.value, last.value),
    });
  }

  /** Asks the control channel of the device, which tells engineering values without our mapping. */
  async #control(tagId: string, tagName: string, type: DataType): Promise<Result<EngValue>> {
    const tag = this.#model.get('tag', tagId);
    const device = this.#model.get('device', (tag && deviceIdOf(tag)) ?? '');
    const witnessUrl = (tag && this.#model.inheritedBy(tag).witnessUrl) ?? device?.witnessUrl ?? '';
    if (witnessUrl === '')
      return fail(
        'no-witness',
        'The device has no control channel.',
        'Enter what you see at the controller instead, or give the device a control channel in Links.',
        'witness',
      );
    try {
      const response = await fetch(`${witnessUrl}/values/${encodeURIComponent(tagName)}`, {
        signal: AbortSignal.timeout(WITNESS_TIMEOUT_MS),
        redirect: 'error',
      });
      if (response.status === 404)
        return fail('no-witness', `The control channel knows no ${tagName}.`, 'Enter what you see at the controller instead.', 'witness');
      const told: unknown = await response.json();
      const value = typeof told === 'object' && told !== null && 'value' in told ? told.value : null;
      return witnessValue(type, value);
    } catch (error) {
      return fail(
        'witness-silent',
        `The control channel at ${witnessUrl} does not answer (${error instanceof Error ? error.message : 'no reason given'}).`,
        'Check that the simulated device runs.',
        'witness',
      );
    }
  }

  #remember(proof: Proof, seal: Seal): void {
    const byDigest = this.#proofs.get(proof.tagId) ?? new Map<string, Proof>();
    this.#proofs.set(proof.tagId, byDigest);
    const known = byDigest.get(proof.digest);
    // What was seen at this machine counts, whatever was seen at another one.
    if (known && !known.isElsewhere && proof.isElsewhere) return;
    byDigest.set(proof.digest, proof);
    this.#seals.set(proof.tagId + proof.digest, seal);
  }
}

function undecoded(def: SignalDefinition, seen: EngValue, reading: Reading): Agreement {
  const unit = def.unit ? ` ${def.unit}` : '';
  return {
    agrees: false,
    sentence: `The witness says ${engineeringText(def, seen)}${unit}, the mapping gives nothing: ${reading.broken?.problem.message ?? qualityInWords(reading.quality)}`,
  };
}

function expectedText(element: Element, sample: Sample, texts: Texts): string {
  const { raw, text, quality, signal } = sample;
  return elementText(element, signal && shownOf(element, signal.def, { raw, text, level: quality.level }, texts), texts);
}

function witnessValue(type: DataType, value: unknown): Result<EngValue> {
  if (type.kind === 'text' && typeof value === 'string') return ok(value);
  if (type.kind === 'boolean' && typeof value === 'boolean') return ok(value);
  if (type.kind !== 'text' && type.kind !== 'boolean') {
    if (typeof value === 'number' && Number.isFinite(value)) return ok(value);
    const decimal = typeof value === 'string' ? parseDecimal(value) : null;
    if (decimal) return ok(decimal);
  }
  return fail(
    'witness-form',
    'The control channel told something else than a value of this type.',
    'Enter what you see at the controller instead.',
    'witness',
  );
}
