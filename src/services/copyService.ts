/**
 * Runs copy rules: none before a person has armed it, none after anything on its way was changed, and each copy under the
 * write guard, the ranges and the log like any other write. What may not be copied now is not copied later.
 */
import { v7 as uuid } from 'uuid';
import { group } from 'd3-array';
import type { CopyStatus } from '@/core/live/copyStatus.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { CopyRule } from '@/core/project/entities.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { EngValue } from '@/core/value/engineering.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import { copiedValue, copyPairs, copyProblem, type CopyPair, type CopyProject } from '@/mapping/copies/copyPairs.ts';
import { loopProblem } from '@/mapping/copies/copyLoop.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { PreparedWrite, Writer } from '@/runtime/writer.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { WriteService } from './writeService.ts';

interface Armed {
  readonly rule: CopyRule;
  readonly who: string;
  readonly pairs: readonly CopyPair[];
  /** All that it goes by, as it was when it was armed. */
  readonly settings: string;
  /** The last good values of what it copies, and of what starts it. */
  readonly seen: Map<string, EngValue>;
  count: number;
  /** When it last tried, and when it last sent something. */
  triedAt: number;
  lastAt: number | null;
  isBusy: boolean;
  isDue: boolean;
  /** It became due while it was copying. */
  isMissed: boolean;
  /** Copied, for a rule that copies once. */
  isDone: boolean;
  problem: string | null;
  sentence: string;
  cancel: () => void;
}

/** What a rule needs of the rest of the server. */
export interface CopyRuntime {
  readonly engine: Engine;
  readonly writer: Writer;
  readonly guard: WriteGuard;
  readonly writes: WriteService;
  readonly clock: Clock;
}

export class CopyService {
  readonly #model: ProjectModel;
  readonly #runtime: CopyRuntime;
  readonly #armed = new Map<string, Armed>();
  /** Why rules are no longer armed. */
  readonly #ended = new Map<string, string>();
  readonly #byTag = new Map<string, Set<Armed>>();
  readonly #underWay = new Set<Promise<void>>();
  #stopListening: (() => void) | null = null;

  constructor(model: ProjectModel, runtime: CopyRuntime) {
    this.#model = model;
    this.#runtime = runtime;
  }

  /** In a person's name, until the server ends, it is disarmed, or something on its way is changed. */
  arm(ruleId: string, who: string): Result<CopyStatus> {
    const rule = this.#model.get('copyRule', ruleId);
    if (!rule) return fail('gone', 'The copy rule is not there (any more).', 'Reload, and try again.');
    if (!rule.isOn) return fail('copy-off', `${rule.name} is not in use.`, 'Take it into use first.');
    const project = this.#model.copies;
    const problem = copyProblem(rule, project) ?? loopProblem(rule, project);
    if (problem) return { ok: false, problem };
    this.#end(ruleId, '');
    const armed: Armed = {
      rule,
      who,
      pairs: copyPairs(rule, project),
      settings: settingsOf(rule, project),
      seen: new Map(),
      count: 0,
      triedAt: -Infinity,
      lastAt: null,
      isBusy: false,
      isDue: false,
      isMissed: false,
      isDone: false,
      problem: null,
      sentence: 'Nothing was copied yet.',
      cancel: () => undefined,
    };
    this.#armed.set(ruleId, armed);
    for (const id of tagsOf(armed)) {
      const users = this.#byTag.get(id) ?? new Set();
      this.#byTag.set(id, users.add(armed));
      const value = this.#goodValue(id);
      if (value !== null) armed.seen.set(id, value);
    }
    this.#stopListening ??= this.#runtime.engine.live.onSample((tagId) => this.#changed(tagId));
    if (rule.when === 'armed' || rule.when === 'every') this.#due(armed);
    return ok(this.#statusOf(rule));
  }

  disarm(ruleId: string): Result<CopyStatus> {
    const rule = this.#model.get('copyRule', ruleId);
    if (!rule) return fail('gone', 'The copy rule is not there (any more).', 'Reload, and try again.');
    this.#end(ruleId, '');
    return ok(this.#statusOf(rule));
  }

  all(): readonly CopyStatus[] {
    return this.#model.all('copyRule').map((rule) => this.#statusOf(rule));
  }

  /** Disarms what is no longer what it was when it was armed. Called after every change of the project. @returns their names */
  disarmChanged(): readonly string[] {
    if (this.#armed.size === 0) return [];
    const project = this.#model.copies;
    const changed = [...this.#armed.values()].filter(({ rule, settings }) => {
      const now = this.#model.get('copyRule', rule.id);
      return !now || settingsOf(now, project) !== settings || loopProblem(now, project) !== null;
    });
    for (const { rule } of changed) this.#end(rule.id, 'It was changed, or something on its way: look at it, and arm it again.');
    return changed.map(({ rule }) => rule.name);
  }

  async close(): Promise<void> {
    for (const id of [...this.#armed.keys()]) this.#end(id, '');
    await Promise.allSettled(this.#underWay);
  }

  #end(ruleId: string, why: string): void {
    this.#ended.set(ruleId, why);
    const armed = this.#armed.get(ruleId);
    if (!armed) return;
    armed.cancel();
    this.#armed.delete(ruleId);
    for (const id of tagsOf(armed)) {
      const users = this.#byTag.get(id);
      users?.delete(armed);
      if (users?.size === 0) this.#byTag.delete(id);
    }
    if (this.#armed.size > 0) return;
    this.#stopListening?.();
    this.#stopListening = null;
  }

  #isArmed(armed: Armed): boolean {
    return this.#armed.get(armed.rule.id) === armed;
  }

  #goodValue(tagId: string): EngValue | null {
    const newest = this.#runtime.engine.live.value(tagId);
    return newest?.quality.level === 'good' ? newest.eng : null;
  }

  #changed(tagId: string): void {
    for (const armed of this.#byTag.get(tagId) ?? []) {
      const value = this.#goodValue(tagId);
      if (value === null) continue;
      const before = armed.seen.get(tagId);
      armed.seen.set(tagId, value);
      const { when, triggerTagId } = armed.rule;
      const isChanged = before !== undefined && !isSame(before, value);
      if (when === 'change' && isChanged && tagId !== triggerTagId) this.#due(armed);
      else if (when === 'rising' && tagId === triggerTagId && before === false && value === true) this.#due(armed);
      else if (when === 'armed' && !armed.isDone) this.#due(armed);
    }
  }

  /** Now, or as soon as its pause is over; what comes meanwhile is one copy of what there is then. */
  #due(armed: Armed): void {
    if (armed.isDue) return;
    armed.isDue = true;
    const wait = Math.max(0, armed.triedAt + armed.rule.pauseMs - this.#runtime.clock.now());
    armed.cancel = this.#runtime.clock.after(wait, () => {
      armed.isDue = false;
      if (armed.isBusy) armed.isMissed = true;
      else this.#follow(armed);
    });
  }

  #follow(armed: Armed): void {
    const work = this.#copy(armed)
      .catch((error: unknown) => {
        armed.problem = error instanceof Error ? error.message : String(error);
      })
      .finally(() => {
        armed.isBusy = false;
        this.#underWay.delete(work);
        const { when } = armed.rule;
        const goesOn = armed.isMissed || when === 'every' || (when === 'armed' && !armed.isDone);
        armed.isMissed = false;
        if (goesOn && this.#isArmed(armed)) this.#due(armed);
      });
    this.#underWay.add(work);
  }

  async #copy(armed: Armed): Promise<void> {
    armed.isBusy = true;
    armed.triedAt = this.#runtime.clock.now();
    const prepared = this.#prepared(armed);
    armed.problem = prepared.ok ? null : `${prepared.problem.message} ${prepared.problem.remedy ?? ''}`.trim();
    if (!prepared.ok) return;
    armed.isDone = true;
    if (prepared.value.length === 0) {
      armed.sentence = 'It holds the same already.';
      return;
    }
    const devices = [...group(prepared.value, ({ target }) => deviceIdOf(target.tag))];
    const outcomes = await Promise.all(devices.map(([deviceId, all]) => this.#send(armed, deviceId, all)));
    armed.count++;
    armed.lastAt = this.#runtime.clock.now();
    const failed = outcomes.flat().find((outcome) => !outcome.ok || outcome.value.state !== 'done');
    const [first = failed] = outcomes.flat();
    if (failed) armed.problem = failed.ok ? failed.value.sentence : failed.problem.message;
    else if (first?.ok) armed.sentence = outcomes.flat().length === 1 ? first.value.sentence : `${outcomes.flat().length} values were copied.`;
  }

  #send(armed: Armed, deviceId: string | null, all: readonly PreparedWrite[]): Promise<readonly Result<WriteOutcome>[]> {
    const { guard, writes } = this.#runtime;
    return writes.sendAll(
      all.map((prepared) => ({ id: uuid(), prepared })),
      {
        origin: 'rule',
        note: `Copy rule ${armed.rule.name}, armed by ${armed.who}.`,
        mayStill: () => this.#isArmed(armed) && guard.permits(deviceId, 'rule') !== null,
      },
    );
  }

  /** All that is to be written; none where one of them cannot be. What its target holds already is left out. */
  #prepared({ pairs }: Armed): Result<readonly PreparedWrite[]> {
    const { engine, writer } = this.#runtime;
    const all: PreparedWrite[] = [];
    for (const { fromId, toId } of pairs) {
      const from = engine.live.get(fromId);
      const name = this.#model.get('tag', fromId)?.name ?? 'What is copied';
      if (from?.quality.level !== 'good' || from.eng === null)
        return fail('copy-quality', `${name} is not good: ${from ? qualityInWords(from.quality) : 'it was not read yet'}.`);
      const target = this.#model.effective(toId);
      if (!target.ok) return target;
      const value = copiedValue(from.eng, from.text, target.value.def);
      if (!value.ok) return value;
      const prepared = writer.prepare(toId, value.value, { writer: 'rule', rounding: 'nearest' });
      if (!prepared.ok) return prepared;
      const held = this.#goodValue(toId);
      if (held === null || !isSame(held, prepared.value.plan.achieved)) all.push(prepared.value);
    }
    return ok(all);
  }

  #statusOf({ id, isOn }: CopyRule): CopyStatus {
    const armed = this.#armed.get(id);
    if (!armed) return { ruleId: id, state: isOn ? 'unarmed' : 'off', armedBy: '', count: 0, lastAt: null, sentence: this.#ended.get(id) ?? '' };
    const { who, count, lastAt, isBusy, problem, sentence } = armed;
    const state = isBusy ? 'copying' : problem === null ? 'ready' : 'held-back';
    return { ruleId: id, state, armedBy: who, count, lastAt, sentence: problem ?? sentence };
  }
}

function tagsOf({ rule, pairs }: Pick<Armed, 'rule' | 'pairs'>): readonly string[] {
  const ids = pairs.map(({ fromId }) => fromId);
  return rule.triggerTagId === null ? ids : [...ids, rule.triggerTagId];
}

/** The rule with the signal paths of all its tags. */
function settingsOf(rule: CopyRule, project: CopyProject): string {
  const pairs = copyPairs(rule, project);
  const ids = [...tagsOf({ rule, pairs }), ...pairs.map(({ toId }) => toId)];
  const digests = ids.map((id) => {
    const signal = project.effective(id);
    return signal.ok ? signal.value.digest : null;
  });
  return sortedJson([{ ...rule, name: '' }, pairs, digests]) ?? '';
}

function isSame(a: EngValue, b: EngValue): boolean {
  return typeof a === 'object' && typeof b === 'object' ? a.digits === b.digits && a.exponent === b.exponent : a === b;
}
