/**
 * Proves tags one by one. Agreement of wire and panel is only *consistent*; *proven* needs a witness that does
 * not use our mapping.
 */
import { pathParts } from '@/core/check/digest.ts';
import { mayDiffer, proofProblem } from '@/core/check/enough.ts';
import { GONE_EXPLANATION, likelyTexts, notRuledOut, told } from '@/core/check/explained.ts';
import { provesMapping, type CheckResult, type How, type Outcome, type PageCheck, type Proof, type WitnessKind } from '@/core/check/proof.ts';
import { investigate, type Looked } from '@/core/check/mistakes/investigation.ts';
import { mistakesOf } from '@/core/check/mistakes/mistakeSpace.ts';
import { agreesWith, isWider, type Seen } from '@/core/check/mistakes/observation.ts';
import { otherPointsOf } from '@/core/check/mistakes/otherPoints.ts';
import { sightWith } from '@/core/check/mistakes/tellingValues.ts';
import { wayOf, type Sight } from '@/core/check/mistakes/way.ts';
import type { RunLook } from '@/core/check/run.ts';
import { seenTold, seenTyped } from '@/core/check/seenAs.ts';
import { compareSeen, compareTold, resolutionOf, same, typedStep, type Agreement } from '@/core/check/verdict.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { engineeringText, NO_VALUE_TEXT, parseFor, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { asNumber, toJson, type EngValue } from '@/core/value/engineering.ts';
import { qualityInWords, type Quality } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import { cellsOf } from '@/mapping/cells.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { LiveTable, Sample } from '@/runtime/liveTable.ts';
import { toldBy } from './controlChannel.ts';
import { areConsistent, type DrawnPages } from './drawnPages.ts';
import type { OtherPointReader } from './otherPoints.ts';
import type { Proofs } from './proofs.ts';
import type { Surroundings } from './surroundings.ts';

export type Witness =
  | { readonly kind: 'none' }
  /** What a person read, and where. `tried` is the value that was set before, as it was entered. */
  | {
      readonly kind: 'typed';
      readonly text: string;
      readonly who: string;
      readonly where?: WitnessKind | undefined;
      readonly how?: How | undefined;
      readonly tried?: string | undefined;
      /** In engineering units: how far off the value may be beside the decimals that are shown. */
      readonly tolerance?: number | undefined;
    }
  | { readonly kind: 'control'; readonly who: string; readonly how?: How | undefined; readonly tried?: string | undefined }
  /** The pages of our own panels that are open: they can be consistent, and no more. */
  | { readonly kind: 'pages'; readonly who: string };
type Asked = Extract<Witness, { kind: 'typed' | 'control' }>;

interface CheckLinks {
  readonly around: Surroundings;
  readonly others: OtherPointReader;
  /** What a tag is set to from here, as it is shown; null where it is not. */
  readonly drivenOf: (tagId: string) => string | null;
}

/** In which run it is checked, and what a person wrote to it. */
export interface CheckContext {
  readonly runId?: string | null;
  readonly note?: string;
}

/**
 * A sample that came from the device. Its value is null when its bytes do not decode, and its wire when the device answers and refuses
 * it: that is a failure, not a silence.
 */
type Reading = Sample;
/** The device answers: what it says is that there is no such value, or not of this kind. */
const ANSWERED: ReadonlySet<Quality['reason']> = new Set<Quality['reason']>(['refused', 'malformed', 'not-available']);
interface Compared {
  readonly agreement: Agreement;
  readonly reading: Reading;
  readonly value: EngValue;
  readonly seen: Seen;
  /** Whether the witness told two values around the reading. */
  readonly isMoving: boolean;
}
/** What was seen of a tag by one signal path, the oldest first. */
interface Remembered {
  readonly digest: string;
  readonly looked: readonly Looked[];
}
type Judged = Pick<CheckResult, 'proof' | 'tooLittle' | 'explanations' | 'next' | 'isUnexplained'>;

const TRIES = 3;
/** How long a moving value is given to become another one. */
const MOVE_MS = 150;
/** How long one that another point agrees with is given to differ. */
const DIFFER_MS = 400;
const DIFFER_TRIES = 12;
const MOST_TRIES = 8;
/** Of its value: what moves less in that time stands still. */
const STILL = 0.005;
/** Looks at one tag that are remembered: more would only take time. */
const MOST_LOOKED = 6;
const NOT_JUDGED: Judged = { proof: null, tooLittle: null, explanations: [], next: null, isUnexplained: false };

export class CheckService {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #readNow: (tagId: string) => Promise<Sample | null>;
  readonly #pages: DrawnPages;
  readonly #around: Surroundings;
  readonly #others: OtherPointReader;
  readonly #drivenOf: CheckLinks['drivenOf'];
  /** By the side that was looked at, and the tag. */
  readonly #looked = new Map<string, Remembered>();
  readonly proofs: Proofs;

  constructor(model: ProjectModel, engine: Engine, proofs: Proofs, pages: DrawnPages, { around, others, drivenOf }: CheckLinks) {
    this.#model = model;
    this.#live = engine.live;
    this.#clock = engine.clock;
    this.#readNow = (tagId) => engine.readNow(tagId);
    this.proofs = proofs;
    this.#pages = pages;
    this.#around = around;
    this.#others = others;
    this.#drivenOf = drivenOf;
  }

  /** Checks one tag now. The proof is recorded when a witness was given and the value says enough, agreeing or not. */
  async check(tagId: string, witness: Witness, context: CheckContext = {}): Promise<Result<CheckResult>> {
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
      if (before.value.wire === null && (witness.kind === 'none' || witness.kind === 'pages')) return noValue(tag.name, before.value.quality);
      const pages = await this.#pages.check(tagId);
      const base = {
        tagId,
        quality: qualityInWords(before.value.quality),
        text: before.value.text,
        pages,
        consistent: areConsistent(pages),
      };
      if (witness.kind === 'none') return ok({ ...base, ...NOT_JUDGED });
      if (witness.kind === 'pages')
        return ok({ ...base, ...NOT_JUDGED, proof: await this.#proofOfPages(tagId, signal.value, pages, witness.who, context) });
      const seen = await this.#witness(tagId, tag.name, signal.value, before.value, this.#asDriven(tagId, witness), context);
      return seen.ok ? ok({ ...base, ...seen.value }) : seen;
    } finally {
      forget();
    }
  }

  /** What we have set ourselves was driven, whatever was said of it. */
  #asDriven(tagId: string, witness: Asked): Asked {
    const driven = this.#drivenOf(tagId);
    return driven === null ? witness : { ...witness, how: 'driven', tried: driven };
  }

  /** What a tag shows now, and what a panel would show that makes one of the likely mistakes. */
  async look(tagId: string): Promise<Result<RunLook>> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    const read = await this.#read(tagId, tag.name);
    const driven = this.#drivenOf(tagId);
    if (!read.ok || read.value.wire === null) {
      const why = read.ok ? qualityInWords(read.value.quality) : read.problem.message;
      return ok({ text: NO_VALUE_TEXT, quality: why, isGood: false, driven, choices: [] });
    }
    const { text, quality, wire } = read.value;
    const sight = await this.#around.around(tagId, signal.value, wire);
    return ok({
      text,
      quality: qualityInWords(quality),
      isGood: quality.level !== 'bad',
      driven,
      choices: likelyTexts(signal.value.def, cellsOf(signal.value), sight),
    });
  }

  /** A person says why a tag is not looked at. */
  async waive(tagId: string, who: string, reason: string, runId: string | null = null): Promise<Result<Proof>> {
    const signal = this.#model.effective(tagId);
    if (!signal.ok) return signal;
    const nothing = toJson(NO_VALUE_TEXT);
    const seen = { sentence: `Waived: ${reason}`, value: nothing, witness: nothing };
    return ok(await this.#add(tagId, signal.value, 'waived', 'display', who, seen, { note: reason, runId }));
  }

  /** What was seen of a tag counts no more: somebody misread it. */
  forget(tagId: string): void {
    this.#looked.delete(`mapping${tagId}`);
    this.#looked.delete(`controller${tagId}`);
  }

  /** A reading of this moment, asked for after the call. */
  async #read(tagId: string, tagName: string): Promise<Result<Reading>> {
    const sample = await this.#readNow(tagId);
    if (sample && (sample.wire !== null || ANSWERED.has(sample.quality.reason))) {
      const { wire } = sample;
      // The bytes of a sample are those of its tag, which the next read writes over.
      return ok({ ...sample, wire: wire?.kind === 'bytes' ? { kind: 'bytes', bytes: new Uint8Array(wire.bytes) } : wire });
    }
    return noValue(tagName, (sample ?? this.#live.get(tagId))?.quality ?? null);
  }

  /** Pages that agree make a tag consistent, ones that differ make it fail; none that is seen says nothing. */
  async #proofOfPages(
    tagId: string,
    signal: EffectiveSignal,
    pages: readonly PageCheck[],
    who: string,
    { runId = null, note = '' }: CheckContext,
  ): Promise<Proof | null> {
    const isConsistent = areConsistent(pages);
    if (isConsistent === null) return null;
    const at = pages.find(({ verdict }) => verdict === (isConsistent ? 'consistent' : 'differs'));
    const sentence = isConsistent
      ? `${at?.pageName ?? ''} drew ${at?.drawn ?? ''}, as its sample says.`
      : `${at?.pageName ?? ''} drew ${at?.drawn ?? ''}, and its sample says ${at?.expected ?? ''}.`;
    const seen = { sentence, value: toJson(at?.expected ?? ''), witness: toJson(at?.drawn ?? '') };
    return this.#add(tagId, signal, isConsistent ? 'consistent' : 'failed', 'page', who, seen, { runId, note });
  }

  /** A moving value is given a few tries: between two readings it may have turned round. */
  async #witness(
    tagId: string,
    tagName: string,
    signal: EffectiveSignal,
    before: Reading,
    witness: Asked,
    context: CheckContext,
  ): Promise<Result<Judged>> {
    for (let tries = 1; ; tries++) {
      const compared =
        witness.kind === 'typed'
          ? await this.#compareTyped(tagId, tagName, signal.def, before, witness)
          : await this.#compareControl(tagId, tagName, signal.def);
      if (!compared.ok) return compared;
      const { agreement, reading, value, isMoving } = compared.value;
      const now = this.#model.effective(tagId);
      if (reading.signal?.digest !== signal.digest || !now.ok || now.value.digest !== signal.digest)
        return fail('changed', `The signal path of ${tagName} was changed while it was checked.`, 'Check again.');
      if (witness.kind === 'control' && isMoving && tries < TRIES && !agreement.agrees) continue;
      // A state or text that the witness told in two ways around the reading agrees with anything.
      if (isMoving && typeof value !== 'number' && typeof value !== 'bigint' && !isDecimal(value)) {
        if (tries < TRIES) continue;
        return fail('moving', `${tagName} changes too fast to be compared.`, 'Hold it still at the machine, and check again.');
      }
      const agreeing = agreement.agrees ? await this.#sight(tagId, signal, reading.wire, true) : null;
      const tooLittle = agreeing && proofProblem(signal.def, agreeing);
      // A value that moves will soon be another one, and what was measured may move.
      const pause = isMoving ? MOVE_MS : agreeing && witness.kind === 'control' && mayDiffer(signal.access, signal.def, agreeing) ? DIFFER_MS : null;
      if (tooLittle !== null && pause !== null && tries < (pause === MOVE_MS ? 2 * TRIES : DIFFER_TRIES)) {
        await new Promise((resolve) => setTimeout(resolve, pause));
        continue;
      }
      if (tooLittle !== null) return ok({ ...NOT_JUDGED, tooLittle: `${agreement.sentence} ${tooLittle}` });
      // A difference is looked into at rest: between two moments a process that moves explains a lot.
      const isStill = agreement.agrees || witness.kind !== 'control' || (await this.#standsStill(tagId, tagName, signal.def, value));
      if (!isStill && tries < MOST_TRIES) continue;
      if (agreeing) return ok(await this.#judged(tagId, signal, compared.value, witness, { ...context, isStill, sight: agreeing }));
      const sight = await this.#sight(tagId, signal, reading.wire, false);
      const seen =
        witness.kind === 'control' && sight.others ? await this.#seenUntilNow(tagId, tagName, signal.def, compared.value) : compared.value.seen;
      // While the other points were read, the witness came to tell something else: they are compared with nothing.
      if (isWider(seen, compared.value.seen) && tries < MOST_TRIES) continue;
      return ok(await this.#judged(tagId, signal, { ...compared.value, seen }, witness, { ...context, isStill, sight }));
    }
  }

  /** Other points were read after the value: what the witness tells now counts for them too. */
  async #seenUntilNow(tagId: string, tagName: string, def: SignalDefinition, { seen, value }: Compared): Promise<Seen> {
    const later = await toldBy(this.#channelOf(tagId), tagName, def.type);
    const now = later.ok ? seenTold(value, later.value) : seen;
    if (seen.kind !== 'number' || now.kind !== 'number') return seen;
    return { ...seen, low: Math.min(seen.low, now.low), high: Math.max(seen.high, now.high) };
  }

  /** Whether a control channel tells nearly the same a moment later. */
  async #standsStill(tagId: string, tagName: string, def: SignalDefinition, value: EngValue): Promise<boolean> {
    await new Promise((resolve) => setTimeout(resolve, MOVE_MS));
    const later = await toldBy(this.#channelOf(tagId), tagName, def.type);
    const [was, is] = [asNumber(value), later.ok ? asNumber(later.value) : null];
    return was === null || is === null || Math.abs(is - was) <= STILL * Math.abs(was) + resolutionOf(def, value);
  }

  /** The value with what lies around it and, where something differs, with all that could have been taken for it. */
  async #sight(tagId: string, signal: EffectiveSignal, wire: WireValue | null, agrees: boolean): Promise<Sight> {
    const tag = this.#model.get('tag', tagId);
    const around = await this.#around.around(tagId, signal, wire, agrees ? 'briefly' : 'patiently');
    return { ...around, others: tag && (await this.#others.around(tag, signal, agrees ? 'likely' : 'all')) };
  }

  /** Records what came of it, and looks for what explains a difference. */
  async #judged(
    tagId: string,
    signal: EffectiveSignal,
    { agreement, reading, value, seen }: Compared,
    witness: Asked,
    context: CheckContext & { readonly isStill: boolean; readonly sight: Sight },
  ): Promise<Judged> {
    const where: WitnessKind = witness.kind === 'control' ? 'channel' : (witness.where ?? 'display');
    const cells = cellsOf(signal);
    const { sight } = context;
    const side = where === 'panel' ? 'mapping' : 'controller';
    const known = this.#looked.get(side + tagId);
    const looked = [...(context.isStill && known?.digest === signal.digest ? known.looked : []), { sight, seen, tried: witness.tried ?? null }].slice(
      -MOST_LOOKED,
    );
    if (context.isStill) this.#looked.set(side + tagId, { digest: signal.digest, looked });
    const singles = [...mistakesOf(wayOf(signal.def), cells).flat(), ...otherPointsOf(wayOf(signal.def), [sight])].map(({ mistake, way }) => ({
      mistakes: [mistake],
      way,
      cost: mistake.cost,
    }));
    const outcome: Outcome = !agreement.agrees ? 'failed' : provesMapping(where) ? 'proven' : 'consistent';
    const proof = await this.#add(
      tagId,
      signal,
      outcome,
      where,
      witness.who,
      {
        sentence: context.isStill ? agreement.sentence : `${agreement.sentence} It never stood still.`,
        value: toJson(reading.eng ?? NO_VALUE_TEXT),
        witness: toJson(value),
      },
      {
        ...context,
        how: witness.how ?? 'observed',
        open: agreement.agrees ? notRuledOut(signal.def, singles, looked, witness.kind === 'typed' && (witness.tolerance ?? 0) > 0) : [],
      },
    );
    if (agreement.agrees) return { ...NOT_JUDGED, proof };
    const all = investigate(signal.def, cells, signal.def.range, looked, side);
    // What agreed before may have been before somebody changed something there.
    const differing = looked.filter((each) => !agreesWith(wayOf(signal.def), each));
    const found =
      all.explanations.length > 0 || differing.length === looked.length ? all : investigate(signal.def, cells, signal.def.range, differing, side);
    const next = found.next && { value: found.next, sight: sightWith(found.explanations[0]?.way ?? wayOf(signal.def), found.next, cells, sight) };
    const { others } = sight;
    const isGone = reading.wire === null && reading.quality.reason === 'refused' && others?.listsOwn === false;
    const explanations = found.explanations.map((each) => told(signal.def, each, sight, next, cells?.bytes ?? 1));
    if (isGone) explanations.push(GONE_EXPLANATION);
    return { proof, tooLittle: null, explanations, next: found.next?.shown ?? null, isUnexplained: explanations.length === 0 };
  }

  #add(
    tagId: string,
    signal: EffectiveSignal,
    outcome: Outcome,
    witness: WitnessKind,
    who: string,
    seen: Proof['seen'],
    { how = 'observed', open = [], note = '', runId = null }: CheckContext & { readonly how?: How; readonly open?: readonly string[] },
  ): Promise<Proof> {
    const more = { how, path: pathParts(signal.origin, signal.def), open, note, runId };
    return this.proofs.add({ tagId, digest: signal.digest, outcome, witness, who, at: isoTime(this.#clock), seen, more });
  }

  async #compareTyped(
    tagId: string,
    tagName: string,
    def: SignalDefinition,
    before: Reading,
    { text, where, tolerance = 0 }: Extract<Witness, { kind: 'typed' }>,
  ): Promise<Result<Compared>> {
    const isNothing = seenTyped(def, text)?.kind === 'nothing';
    const value: Result<EngValue> = isNothing ? ok(text.trim()) : parseFor(def, text);
    if (!value.ok) return { ok: false, problem: { ...value.problem, place: 'witness' } };
    const after = await this.#read(tagId, tagName);
    if (!after.ok) return after;
    const reading = after.value;
    const earlier = before.signal?.digest === reading.signal?.digest ? before.eng : null;
    const seen = seenTyped(def, text, earlier !== null && reading.eng !== null && !same(earlier, reading.eng), tolerance);
    if (!seen) return fail('unfit-value', `“${text.slice(0, 40)}” is no value of ${tagName}.`, undefined, 'witness');
    // A panel shows a number to the last place that it has; a whole one may have been rounded too.
    const step = where === 'panel' && seen.kind === 'number' && seen.text !== null ? (seen.high - seen.low) / 2 : typedStep(text) + tolerance;
    const agreement =
      reading.eng === null
        ? isNothing
          ? { agrees: true, sentence: `The witness shows no value, and there is none: ${qualityInWords(reading.quality)}.` }
          : undecoded(def, value.value, reading)
        : isNothing
          ? { agrees: false, sentence: `The witness shows no value (${text.trim()}), the mapping gives ${reading.text}.` }
          : compareSeen(def, earlier ?? reading.eng, reading.eng, value.value, step, seen.kind === 'number' && seen.text !== null ? text.trim() : '');
    const allowed = tolerance > 0 && agreement.agrees ? ` Within ± ${tolerance}${def.unit === '' ? '' : ` ${def.unit}`}.` : '';
    return ok({ agreement: { ...agreement, sentence: `${agreement.sentence}${allowed}` }, reading, value: value.value, seen, isMoving: false });
  }

  /** A device that answers that it has no such value has said all: no witness is needed for it. */
  async #refused(tagId: string, tagName: string): Promise<Result<Compared> | null> {
    const reading = await this.#read(tagId, tagName);
    if (!reading.ok || reading.value.wire !== null || reading.value.quality.reason !== 'refused') return null;
    const agreement = { agrees: false, sentence: `There is nothing to compare: ${qualityInWords(reading.value.quality)}` };
    return ok({ agreement, reading: reading.value, value: NO_VALUE_TEXT, seen: { kind: 'nothing' }, isMoving: false });
  }

  #channelOf(tagId: string): string {
    const tag = this.#model.get('tag', tagId);
    const device = this.#model.get('device', (tag && deviceIdOf(tag)) ?? '');
    return (tag && this.#model.inheritedBy(tag).witnessUrl) ?? device?.witnessUrl ?? '';
  }

  async #compareControl(tagId: string, tagName: string, def: SignalDefinition): Promise<Result<Compared>> {
    const url = this.#channelOf(tagId);
    const first = await toldBy(url, tagName, def.type);
    if (!first.ok) return (await this.#refused(tagId, tagName)) ?? first;
    const reading = await this.#read(tagId, tagName);
    if (!reading.ok) return reading;
    const last = await toldBy(url, tagName, def.type);
    if (!last.ok) return last;
    return ok({
      agreement:
        reading.value.eng === null ? undecoded(def, last.value, reading.value) : compareTold(def, [first.value, last.value], reading.value.eng),
      reading: reading.value,
      value: last.value,
      seen: seenTold(first.value, last.value),
      isMoving: !same(first.value, last.value),
    });
  }
}

function noValue(tagName: string, quality: Quality | null): Result<never> {
  return fail(
    'no-value',
    `There is no good value of ${tagName} to check: ${quality ? qualityInWords(quality) : 'not read yet'}.`,
    'Bring the device back first.',
  );
}

function undecoded(def: SignalDefinition, seen: EngValue, reading: Reading): Agreement {
  const unit = def.unit ? ` ${def.unit}` : '';
  return {
    agrees: false,
    sentence: `The witness says ${engineeringText(def, seen)}${unit}, the mapping gives nothing: ${reading.broken?.problem.message ?? qualityInWords(reading.quality)}`,
  };
}
