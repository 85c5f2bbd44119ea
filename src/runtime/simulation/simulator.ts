/** The values of simulated tags: each of the moment at which it is asked for, as its behaviour has it. */
import { formulaOf, RunningFormula } from '@/core/panel/formula.ts';
import { wantedAt, type Behaviour, type Wanted } from '@/core/simulation/behaviour.ts';
import { drawnSpan } from '@/core/scaling/scale.ts';
import { parseFor, planWrite, unjudged, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { asNumber, type EngValue } from '@/core/value/engineering.ts';
import { countAt, type TimeMeaning } from '@/core/value/timeText.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { sceneTagOf } from '@/mapping/panels/sceneOf.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { plainValue } from '../calculations.ts';
import type { LiveTable } from '../liveTable.ts';

/** Values move between these where a tag has no range of its own. */
const USUAL = { low: 0, high: 100 };
const DAY_MS = 86_400_000;

interface State {
  /** What it was made for: another behaviour begins anew. */
  readonly behaviour: Behaviour;
  /** As the project says it; null where it does what others do. */
  own: Behaviour | null;
  signal: EffectiveSignal;
  readonly script: Result<RunningFormula> | null;
  /** For how long it has run, as of a time. */
  ranMs: number;
  at: number;
  /** What was written to it last, where it holds. */
  written: RawValue | null;
}

export class Simulator {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #states = new Map<string, State>();

  constructor(model: ProjectModel, live: LiveTable, clock: Clock) {
    this.#model = model;
    this.#live = live;
    this.#clock = clock;
  }

  /** The value of a tag now, as its device would send it. */
  wire(tagId: string, signal: EffectiveSignal): Result<WireValue> {
    const { def } = signal;
    const state = this.#stateOf(tagId, signal);
    this.#pass(tagId, state);
    if (state.written !== null) return ok({ kind: 'typed', value: state.written });
    const { behaviour } = state;
    const wanted = this.#wanted(state, seedOf(tagId));
    if (!wanted.ok) return wanted;
    const eng = engineering(def, wanted.value, this.#clock.now());
    const plan = eng.ok ? planWrite(unjudged(def), eng.value) : eng;
    // Bytes as the device would have them lie, where its values are bytes.
    if (plan.ok) return ok(plan.value.bytes.length > 0 ? { kind: 'bytes', bytes: plan.value.bytes } : { kind: 'typed', value: plan.value.raw });
    return typeof wanted.value === 'string' ? plan : ok({ kind: 'typed', value: rawAt(def, behaviour, wanted.value) });
  }

  /** Something is written to the simulated device. What moves by itself moves on. */
  write(tagId: string, signal: EffectiveSignal, raw: RawValue): void {
    const state = this.#stateOf(tagId, signal);
    if (state.behaviour.kind === 'hold') state.written = raw;
  }

  #stateOf(tagId: string, signal: EffectiveSignal): State {
    const own = this.#model.get('simulation', tagId)?.behaviour ?? null;
    const known = this.#states.get(tagId);
    if (known && known.own === own && known.signal === signal) return known;
    const behaviour = own ?? usualFor(tagId, signal);
    // Where something else of the tag was changed, it goes on from where it is.
    if (known && sameJson(known.behaviour, behaviour)) {
      Object.assign(known, { own, signal });
      return known;
    }
    const script = behaviour.kind === 'script' ? this.#script(behaviour.gives.by) : null;
    const made: State = { behaviour, own, signal, script, ranMs: 0, at: this.#clock.now(), written: null };
    this.#states.set(tagId, made);
    return made;
  }

  #script(by: string): Result<RunningFormula> {
    const project = { tag: (id: string) => this.#model.get('tag', id), effective: (id: string) => this.#model.effective(id) };
    const formula = formulaOf(by, null, (id) => sceneTagOf(project, id));
    return formula.ok ? ok(new RunningFormula(formula.value)) : formula;
  }

  /** Time passes while its bit is on; while that is not known it does not. */
  #pass(tagId: string, state: State): void {
    const now = this.#clock.now();
    const runTagId = this.#model.get('simulation', tagId)?.runTagId ?? null;
    const runs = runTagId === null || this.#number(runTagId) === 1;
    if (runs) state.ranMs += Math.max(0, now - state.at);
    state.at = now;
  }

  #wanted({ behaviour, ranMs, script }: State, seed: number): Result<Wanted> {
    if (behaviour.kind === 'follow') {
      const number = this.#number(behaviour.tagId);
      return number === null ? fail('input-bad', 'The tag that it follows has no good number.') : ok(number * behaviour.factor + behaviour.shift);
    }
    if (script) {
      if (!script.ok) return script;
      const outcome = script.value.next((id) => this.#input(id), ranMs);
      if (outcome.kind !== 'value') return fail('input-bad', 'A value that its expression goes by is bad.');
      return ok(typeof outcome.value === 'string' ? outcome.value : Number(outcome.value));
    }
    return ok(wantedAt(behaviour, ranMs / 1000, seed) ?? 0);
  }

  #number(tagId: string): number | null {
    const sample = this.#live.get(tagId);
    if (!sample || sample.eng === null || sample.quality.level === 'bad') return null;
    return typeof sample.eng === 'boolean' ? Number(sample.eng) : asNumber(sample.eng);
  }

  #input(tagId: string) {
    const sample = this.#live.get(tagId);
    const isGood = sample !== null && sample.eng !== null && sample.quality.level !== 'bad';
    return {
      value: isGood && sample.eng !== null ? plainValue(sample.eng) : null,
      isDoubted: sample?.quality.level === 'uncertain',
      changedAt: sample?.at ?? 0,
    };
  }
}

/** What it does where nobody has said: what can be written holds, what is only read moves over its range. */
function usualFor(tagId: string, { def, access }: EffectiveSignal): Behaviour {
  const { low, high } = def.range ?? USUAL;
  const seed = seedOf(tagId);
  if (def.type.kind === 'text') return { kind: 'hold', value: 'SIM' };
  if (def.type.kind === 'boolean')
    return access === 'readWrite' ? { kind: 'hold', value: '0' } : { kind: 'random', low: 0, high: 1, seconds: 5 + (seed % 7), isSmooth: false };
  if (def.type.kind === 'integer' && def.type.time) return { kind: 'hold', value: '' };
  const third = (high - low) / 10;
  return access === 'readWrite'
    ? { kind: 'hold', value: String((low + high) / 2) }
    : { kind: 'sine', low: low + third, high: high - third, seconds: 20 + (seed % 7) * 6 };
}

/** A whole number for each tag, the same at each start. */
function seedOf(tagId: string): number {
  return parseInt(tagId.slice(-8), 16) || 1;
}

function engineering(def: SignalDefinition, wanted: Wanted, now: number): Result<EngValue> {
  const { type } = def;
  // A moment that nobody has set is now; a time of day or a duration that of today.
  if (wanted === '' && type.kind === 'integer' && type.time) return ok(countOfNow(type.time, now));
  if (typeof wanted === 'string') return parseFor(unjudged(def), wanted);
  if (type.kind === 'boolean') return ok(wanted >= 0.5);
  if (type.kind === 'text') return ok(String(wanted));
  return ok(wanted);
}

function countOfNow(time: TimeMeaning, now: number): bigint {
  const isMoment = time.shows === 'date' || time.shows === 'dateTime';
  return countAt(time, isMoment ? now : time.epochMs + (now % DAY_MS));
}

/** Where no raw value comes to what is wanted: the counts move between the ends of the scale, or of the type, in the same way. */
function rawAt(def: SignalDefinition, behaviour: Behaviour, wanted: number): RawValue {
  const [low, high] = drawnSpan(def.scale) ?? [USUAL.low, USUAL.high];
  const [from, to] = 'low' in behaviour ? [behaviour.low, behaviour.high] : behaviour.kind === 'ramp' ? [behaviour.from, behaviour.to] : [low, high];
  const part = to === from ? 0.5 : Math.max(0, Math.min(1, (wanted - from) / (to - from)));
  const raw = low + (high - low) * part;
  if (def.type.kind !== 'integer') return raw;
  const [least, most] = [Number(def.type.min), Number(def.type.max)];
  return Math.round(Math.max(least, Math.min(most, raw)));
}
