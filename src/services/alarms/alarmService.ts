/**
 * Watches the conditions of alarms, keeps how each stands over restarts, and takes what people and controllers do with them. What is not
 * known changes nothing, and is said. Nothing is written to a controller but by a person's acknowledgement.
 */
import { v7 as uuid } from 'uuid';
import { after, isOpen, NORMAL, stateOf, type AlarmEvent, type Standing } from '@/core/alarm/alarmState.ts';
import type { AlarmAct, AlarmLine, AlarmRecord, AlarmsNow } from '@/core/alarm/alarmLine.ts';
import { Delayed, RunningCondition, type SeenTag } from '@/core/alarm/condition.ts';
import { textParts } from '@/core/panel/bound.ts';
import { RunningFormula } from '@/core/panel/formula.ts';
import { placeText } from '@/core/panel/placeValue.ts';
import type { Alarm, EntityKind } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import { sceneTagOf } from '@/mapping/panels/sceneOf.ts';
import { alarmMade, type AlarmMade, type AlarmPlace } from '@/mapping/alarms/alarmMade.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { plainValue } from '@/runtime/calculations.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { AlarmLogFilter, AlarmStore } from '@/store/alarmStore.ts';
import type { WriteService } from '../writeService.ts';

export interface AlarmRuntime {
  readonly engine: Pick<Engine, 'live'>;
  readonly writes: Pick<WriteService, 'write'>;
  readonly clock: Clock;
  readonly store: Pick<AlarmStore, 'standings' | 'keep' | 'forget' | 'records'>;
}

export interface ActRequest {
  readonly alarmId: string;
  /** The coming that the person saw. */
  readonly count: number;
  readonly act: AlarmAct;
  readonly by: string;
  readonly why?: string | undefined;
  readonly minutes?: number | undefined;
}

interface Running {
  readonly alarm: Alarm;
  readonly made: AlarmMade;
  /** What it was made of: alike again it goes on. */
  readonly of: readonly unknown[];
  readonly condition: RunningCondition;
  readonly suppressed: RunningFormula | null;
  readonly delayed: Delayed;
  standing: Standing;
  unknown: string;
  problem: string;
  /** The controller's bit as it was last seen; null before. */
  ackWas: boolean | null;
  stopDelay: () => void;
  stopShelf: () => void;
}

const TICK_MS = 1000;
const MINUTE_MS = 60_000;
export const LONGEST_SHELF_MINUTES = 24 * 60;
const WHO_CONTROLLER = 'the controller';
/** Kinds whose changes may be ones of an alarm or of how its tags are read. */
const GOES_BY: ReadonlySet<EntityKind> = new Set<EntityKind>([
  'alarm',
  'tag',
  'scale',
  'sharedScale',
  'device',
  'link',
  'group',
  'enumeration',
  'member',
  'block',
  'structure',
]);

export class AlarmService {
  readonly #model: ProjectModel;
  readonly #runtime: AlarmRuntime;
  readonly #running = new Map<string, Running>();
  #kept: ReadonlyMap<string, Standing> = new Map();
  #byTag = new Map<string, Set<Running>>();
  readonly #dirty = new Set<Running>();
  #isWaiting = false;
  readonly #listeners = new Set<() => void>();
  #stopListening: () => void = () => undefined;
  #stopTicking: () => void = () => undefined;
  /** What could not be stored; empty where all is. */
  #storeProblem = '';

  constructor(model: ProjectModel, runtime: AlarmRuntime) {
    this.#model = model;
    this.#runtime = runtime;
  }

  async start(): Promise<void> {
    this.#kept = await this.#runtime.store.standings();
    this.#stopListening = this.#runtime.engine.live.onSample((tagId) => {
      for (const running of this.#byTag.get(tagId) ?? []) this.#mark(running);
    });
    this.#reconcile();
    this.#kept = new Map();
    this.#tick();
  }

  close(): void {
    this.#stopListening();
    this.#stopTicking();
    for (const running of this.#running.values()) rest(running);
    this.#running.clear();
    this.#byTag.clear();
  }

  /** Hears that something is another than before. */
  onChange(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  follow(changes: readonly { readonly kind: EntityKind }[]): void {
    if (changes.some(({ kind }) => GOES_BY.has(kind))) this.#reconcile();
  }

  /** @param isShown which of them; all where nobody says */
  now(isShown: (alarm: Alarm) => boolean = () => true): AlarmsNow {
    const all = [...this.#running.values()].filter(({ alarm }) => isShown(alarm));
    return {
      lines: all.filter(({ standing }) => isOpen(stateOf(standing))).map(lineOf),
      unknown: all.flatMap(({ alarm: { priority, group, settings }, standing, unknown: why }) =>
        why !== '' && stateOf(standing) === 'normal' ? [{ priority, group, template: settings.template, why }] : [],
      ),
      problem: this.#storeProblem,
    };
  }

  records(filter: AlarmLogFilter): Promise<readonly AlarmRecord[]> {
    return this.#runtime.store.records(filter);
  }

  /** What a person does with an alarm. */
  async act({ alarmId, count, act, by, why = '', minutes = 0 }: ActRequest): Promise<Result<AlarmLine>> {
    const running = this.#running.get(alarmId);
    if (!running) return fail('gone', 'This alarm is not there (any more).', 'Look at the list again.');
    if (act === 'ack' && running.standing.count !== count)
      return fail('changed', 'The alarm has come again since.', 'Look at it, and acknowledge it again.');
    if (act === 'shelve') {
      if (why.trim() === '') return fail('why', 'Why is it shelved?', 'Say the reason: others have to know it.', 'why');
      if (!(minutes >= 1 && minutes <= LONGEST_SHELF_MINUTES))
        return fail('minutes', `It is shelved for 1 to ${LONGEST_SHELF_MINUTES} minutes.`, undefined, 'minutes');
    }
    const at = this.#runtime.clock.now();
    const kind = ({ ack: 'acked', reset: 'reset', shelve: 'shelved', unshelve: 'unshelved' } as const)[act];
    const done = await this.#apply(running, { kind, at, by, why: why.trim(), until: at + minutes * MINUTE_MS });
    if (done === null) return fail('state', NOT_NOW[act], 'Look at the list again.');
    if (!done) return fail('store', 'It could not be stored.', 'Look at the disk of this computer, and try again.');
    if (act === 'ack') await this.#tellController(running, by);
    return ok(lineOf(running));
  }

  #see(tagId: string): SeenTag {
    const newest = this.#runtime.engine.live.value(tagId);
    if (!newest) return { value: null, isDoubted: false, level: 'bad', isWaiting: true, limit: null, why: 'It was not read yet.' };
    const { quality, eng, limit } = newest;
    const isBad = quality.level === 'bad' || eng === null;
    return {
      value: isBad ? null : plainValue(eng),
      isDoubted: quality.level === 'uncertain',
      level: quality.level,
      isWaiting: quality.reason === 'waiting',
      limit,
      why: isBad ? `${this.#model.get('tag', tagId)?.name ?? 'A tag'}: ${qualityInWords(quality)}` : '',
    };
  }

  #reconcile(): void {
    const project = { tag: (id: string) => this.#model.get('tag', id), effective: (id: string) => this.#model.effective(id) };
    const seen = new Set<string>();
    let isChanged = false;
    for (const alarm of this.#model.all('alarm')) {
      seen.add(alarm.id);
      const before = this.#running.get(alarm.id);
      const made = before?.alarm === alarm ? before.made : alarmMade(alarm, (id) => sceneTagOf(project, id));
      const of = [alarm, ...[...made.tagIds].map((id) => sceneTagOf(project, id))];
      if (before && before.of.length === of.length && before.of.every((one, i) => one === of[i])) continue;
      isChanged = true;
      if (before) rest(before);
      // Also what its tags are may be another by now.
      const fresh = before?.alarm === alarm ? alarmMade(alarm, (id) => sceneTagOf(project, id)) : made;
      this.#take(alarm, fresh, of, before);
    }
    for (const [id, running] of this.#running)
      if (!seen.has(id)) {
        rest(running);
        this.#running.delete(id);
        this.#runtime.store.forget(id);
        isChanged = true;
      }
    if (!isChanged) return;
    this.#byTag = new Map();
    for (const running of this.#running.values())
      for (const id of running.made.tagIds) this.#byTag.set(id, (this.#byTag.get(id) ?? new Set()).add(running));
    this.#tell();
  }

  #take(alarm: Alarm, made: AlarmMade, of: readonly unknown[], before: Running | undefined): void {
    const standing = before?.standing ?? this.#kept.get(alarm.id) ?? NORMAL;
    const { condition } = alarm.settings;
    const running: Running = {
      alarm,
      made,
      of,
      condition: new RunningCondition(condition, alarm.tagId, { formula: made.condition, isBeyond: standing.isActive }),
      suppressed: made.suppressed && new RunningFormula(made.suppressed),
      delayed: new Delayed(alarm.onDelayMs, alarm.offDelayMs, standing.isActive),
      standing,
      unknown: '',
      problem: before?.problem ?? '',
      ackWas: null,
      stopDelay: () => undefined,
      stopShelf: () => undefined,
    };
    this.#running.set(alarm.id, running);
    this.#watchShelf(running);
    this.#mark(running);
  }

  #mark(running: Running): void {
    this.#dirty.add(running);
    if (this.#isWaiting) return;
    this.#isWaiting = true;
    // After all that comes in the same turn.
    queueMicrotask(() => {
      this.#isWaiting = false;
      const due = [...this.#dirty];
      this.#dirty.clear();
      for (const one of due) if (this.#running.get(one.alarm.id) === one) this.#look(one);
    });
  }

  #look(running: Running): void {
    const { alarm, made, condition, delayed, suppressed } = running;
    const at = this.#runtime.clock.now();
    const see = (id: string): SeenTag => this.#see(id);
    const found = made.problem === '' ? condition.next(see, at) : { holds: null, why: made.problem };
    if (found.why !== running.unknown) {
      running.unknown = found.why;
      this.#tell();
    }
    void this.#apply(running, { kind: alarm.isOn ? 'in' : 'out', at });
    const held = suppressed?.next(see, at);
    // What is not known suppresses nothing.
    void this.#apply(running, { kind: held?.kind === 'value' && held.value === true ? 'suppressed' : 'unsuppressed', at });
    const { isActive, againAt } = delayed.next(found.holds, at);
    running.stopDelay();
    running.stopDelay = againAt === null ? () => undefined : this.#runtime.clock.after(againAt - at, () => this.#mark(running));
    if (isActive && !running.standing.isActive) void this.#apply(running, { kind: 'came', at, values: this.#valuesOf(made.places, at) });
    else if (!isActive) void this.#apply(running, { kind: 'gone', at });
    this.#hear(running, at);
  }

  /** The controller acknowledges where its bit turns on. How it is first seen is no news. */
  #hear(running: Running, at: number): void {
    const { ackTagId } = running.alarm;
    if (ackTagId === null) return;
    const { value, level } = this.#see(ackTagId);
    if (level !== 'good' || typeof value !== 'boolean') return;
    const was = running.ackWas;
    running.ackWas = value;
    if (was === false && value) void this.#apply(running, { kind: 'acked', at, by: WHO_CONTROLLER });
  }

  async #tellController(running: Running, by: string): Promise<void> {
    const { ackTagId } = running.alarm;
    if (ackTagId === null) return;
    const done = await this.#runtime.writes.write({ id: uuid(), tagId: ackTagId, value: 'on', writer: 'panel', by });
    const why = !done.ok ? `${done.problem.message} ${done.problem.remedy ?? ''}`.trim() : done.value.state === 'done' ? '' : done.value.sentence;
    running.problem = why === '' ? '' : `The controller was not told: ${why}`;
    this.#tell();
  }

  #valuesOf(places: readonly AlarmPlace[], at: number): Standing['values'] {
    return Object.fromEntries(places.map(({ by, tagId, formula }) => [by, tagId === null ? this.#came(formula, at) : this.#shown(tagId)]));
  }

  #shown(tagId: string): string {
    const sample = this.#runtime.engine.live.get(tagId);
    const signal = this.#model.effective(tagId);
    const unit = signal.ok ? signal.value.def.unit : '';
    if (!sample || sample.quality.level === 'bad') return NO_VALUE_TEXT;
    return unit === '' ? sample.text : `${sample.text} ${unit}`;
  }

  #came(formula: RunningFormula | null, at: number): string {
    const came = formula?.next((id) => this.#see(id), at);
    if (came?.kind !== 'value') return NO_VALUE_TEXT;
    const unit = formula?.formula.unit ?? '';
    return unit === '' ? placeText(came.value) : `${placeText(came.value)} ${unit}`;
  }

  /** @returns whether it was stored; null where it says nothing new, or may not be now */
  #apply(running: Running, event: AlarmEvent): Promise<boolean> | null {
    const next = after(running.standing, event, running.alarm);
    if (next === null) return null;
    running.standing = next;
    if (event.kind === 'came') running.problem = '';
    if (event.kind === 'shelved' || event.kind === 'unshelved') this.#watchShelf(running);
    this.#tell();
    const { alarm } = running;
    return this.#runtime.store
      .keep(alarm.id, next, {
        at: new Date(event.at).toISOString(),
        kind: event.kind,
        text: saidOf(alarm, next.values),
        priority: alarm.priority,
        group: alarm.group,
        by: event.by ?? '',
        note: event.kind === 'shelved' ? (event.why ?? '') : '',
      })
      .then(
        () => {
          if (this.#storeProblem === '') return true;
          this.#storeProblem = '';
          this.#tell();
          return true;
        },
        (error: unknown) => {
          this.#storeProblem = `What becomes of alarms cannot be stored: ${error instanceof Error ? error.message : String(error)}`;
          this.#tell();
          return false;
        },
      );
  }

  #watchShelf(running: Running): void {
    running.stopShelf();
    const { shelved } = running.standing;
    const { clock } = this.#runtime;
    running.stopShelf = shelved
      ? clock.after(Math.max(0, shelved.until - clock.now()), () => void this.#apply(running, { kind: 'unshelved', at: clock.now() }))
      : () => undefined;
  }

  /** Expressions that change with time alone are looked at again and again. */
  #tick(): void {
    this.#stopTicking = this.#runtime.clock.after(TICK_MS, () => {
      for (const running of this.#running.values()) if (running.made.usesTime) this.#mark(running);
      this.#tick();
    });
  }

  #tell(): void {
    for (const listener of this.#listeners) listener();
  }
}

const NOT_NOW: Readonly<Record<AlarmAct, string>> = {
  ack: 'There is nothing to acknowledge.',
  reset: 'It is not held: it is active, or nobody has acknowledged it.',
  shelve: 'What is out of service or suppressed is not shelved.',
  unshelve: 'It is not shelved.',
};

function rest(running: Running): void {
  running.stopDelay();
  running.stopShelf();
}

function lineOf({ alarm, standing, unknown, problem }: Running): AlarmLine {
  const { id, priority, group, advice, settings } = alarm;
  const { cameAt, goneAt, ackedAt, ackedBy, count, values, shelved } = standing;
  return {
    id,
    priority,
    group,
    advice,
    template: settings.template,
    state: stateOf(standing),
    cameAt,
    goneAt,
    ackedAt,
    ackedBy,
    count,
    values,
    shelved,
    unknown,
    problem,
  };
}

function saidOf({ settings }: Alarm, values: Standing['values']): string {
  return textParts(settings.template)
    .map(({ text, by }) => (by === null ? text : (values[by] ?? NO_VALUE_TEXT)))
    .join('');
}
