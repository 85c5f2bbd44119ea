/**
 * Who may set what: for a check one tag at a time, within the range that a person gave for it, and where it may move something
 * only while a named person answers for the machine being isolated. People at the bench may hold values beside it.
 */
import { LONGEST_HOLD_MS, SHORTEST_HOLD_MS, type DrivenEntry, type DrivenValue, type Isolation } from '@/core/check/driving/drivenValue.ts';
import { drivingProblem, rangeEntered, type DrivePermission } from '@/core/check/driving/permission.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { EntityKind } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseFor } from '@/core/signal.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import { Turns } from '@/runtime/turns.ts';
import type { DrivePermissionStore } from '@/store/drivePermissionStore.ts';
import { DrivenValues, type DrivingRuntime, type TakenBack } from './drivenValues.ts';
import { Isolations } from './isolations.ts';

export interface DriveRequest {
  /** Made by the sender. */
  readonly id: string;
  readonly tagId: string;
  /** As a person entered it. */
  readonly value: string;
  readonly who: string;
  readonly runId?: string | null | undefined;
}

export interface DrivingNow {
  readonly permissions: readonly DrivePermission[];
  readonly isolated: readonly Isolation[];
}

/** Changes of these may be changes of any signal path. */
const REACH_FAR: ReadonlySet<EntityKind> = new Set<EntityKind>(['group', 'block', 'member', 'structure', 'enumeration', 'sharedScale', 'simulation']);

export class DrivingService {
  readonly #model: ProjectModel;
  readonly #runtime: DrivingRuntime;
  readonly #store: DrivePermissionStore;
  readonly #permissions = new Map<string, DrivePermission>();
  readonly #isolations: Isolations;
  readonly #driven: DrivenValues;
  /** One is begun after the other. */
  readonly #turns = new Turns();
  #isClosing = false;

  constructor(model: ProjectModel, runtime: DrivingRuntime, store: DrivePermissionStore) {
    this.#model = model;
    this.#runtime = runtime;
    this.#store = store;
    this.#isolations = new Isolations(runtime.clock);
    this.#driven = new DrivenValues(model, runtime, ({ deviceId, moves }) =>
      moves ? (this.#isolations.of(deviceId)?.until ?? -Infinity) : Infinity,
    );
  }

  async load(): Promise<void> {
    for (const permission of await this.#store.all()) this.#permissions.set(permission.tagId, permission);
  }

  get values(): readonly DrivenValue[] {
    return this.#driven.all;
  }

  get isolated(): readonly Isolation[] {
    return this.#isolations.all();
  }

  /** Permissions that hold: one that was given for another signal path does not, and does again once that is back. */
  get now(): DrivingNow {
    return { permissions: [...this.#permissions.keys()].flatMap((id) => this.permissionOf(id) ?? []), isolated: this.isolated };
  }

  permissionOf(tagId: string): DrivePermission | null {
    const permission = this.#permissions.get(tagId);
    const signal = permission && this.#model.effective(tagId);
    return permission && signal?.ok && signal.value.digest === permission.digest ? permission : null;
  }

  /** What a check finds set, as it is shown; null where nothing is. */
  shownOf(tagId: string): string | null {
    return this.#driven.kept.find((entry) => entry.tagId === tagId)?.ourText ?? null;
  }

  async permit(tagId: string, who: string, low: string, high: string, moves: boolean): Promise<Result<DrivePermission>> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    if (deviceIdOf(tag) === null)
      return fail('no-device', `${tag.name} is no value of a device.`, 'Only what a controller holds is set for a check.');
    if (signal.value.access !== 'readWrite' || !signal.value.writable)
      return fail('read-only', `${tag.name} is only read.`, 'Set it at the controller, and look at it then; or change its access in Map.');
    const range = rangeEntered(signal.value.def, low, high);
    if (!range.ok) return range;
    const permission = { tagId, digest: signal.value.digest, range: range.value, moves, who, at: isoTime(this.#runtime.clock) };
    await this.#store.keep(permission);
    this.#permissions.set(tagId, permission);
    return ok(permission);
  }

  async forbid(tagId: string): Promise<Result<null>> {
    const set = this.#driven.kept.find((entry) => entry.tagId === tagId && entry.writer === 'check');
    if (set) await this.#driven.takeBack(set.id, set.who, 'Put back: it may not be set any more.');
    await this.#store.forget(tagId);
    this.#permissions.delete(tagId);
    return ok(null);
  }

  isolate(deviceId: string, who: string, minutes: number): Result<Isolation> {
    const device = this.#model.get('device', deviceId);
    return device
      ? ok(this.#isolations.declare(deviceId, who, minutes))
      : fail('gone', 'The device is not there (any more).', 'Reload, and try again.', 'deviceId');
  }

  /** The machine is in use again: what was set while it was isolated is taken back first. */
  async endIsolation(deviceId: string): Promise<Result<null>> {
    const all = this.#driven.kept.filter((entry) => entry.deviceId === deviceId && entry.moves);
    await Promise.all(all.map(({ id, who }) => this.#driven.takeBack(id, who, 'Put back: the machine is in use again.')));
    this.#isolations.end(deviceId);
    return ok(null);
  }

  /** Sets a tag for a check. */
  drive({ id, tagId, value, who, runId = null }: DriveRequest): Promise<Result<WriteOutcome>> {
    return this.#turns.run('start', async () => {
      const permission = this.permissionOf(tagId);
      const tag = this.#model.get('tag', tagId);
      if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
      if (!permission)
        return fail('not-permitted', `Nobody has said that ${tag.name} may be set for a check.`, 'Say so first, and between which values.');
      const other = this.#driven.entries.find((entry) => (entry.tagId === tagId ? entry.writer !== 'check' : entry.writer === 'check'));
      if (other)
        return fail(
          'driven',
          other.tagId === tagId ? `${tag.name} is held.` : `${other.tagName} is set for a check: one tag at a time.`,
          other.tagId === tagId ? 'Release it first.' : 'Put that back first, or say that it may stay.',
        );
      const mayStill = (): boolean => !this.#isClosing && (!permission.moves || this.#isolations.of(deviceIdOf(tag) ?? '') !== null);
      if (!mayStill())
        return fail(
          'not-isolated',
          `${tag.name} may move something, and nobody answers for the machine being isolated.`,
          'Declare it first: who, and for how many minutes.',
        );
      const prepared = this.#prepared(tagId, value, 'check');
      if (!prepared.ok) return prepared;
      const problem = drivingProblem(permission, prepared.value.plan.achieved);
      if (problem) return { ok: false, problem };
      return this.#driven.set({ id, writer: 'check', moves: permission.moves, who, everyMs: null, runId, prepared: prepared.value, mayStill });
    });
  }

  /** Writes a value again and again until it is released. It is no force: the controller's program may write between. */
  hold({ id, tagId, value, who }: DriveRequest, everyMs: number): Promise<Result<WriteOutcome>> {
    return this.#turns.run('start', async () => {
      const known = this.#driven.entries.find((entry) => entry.tagId === tagId);
      if (known?.writer === 'check') return fail('driven', `${known.tagName} is set for a check.`, 'Put that back first.');
      if (this.#isClosing) return fail('closing', 'The server is about to end.');
      if (everyMs < SHORTEST_HOLD_MS || everyMs > LONGEST_HOLD_MS)
        return fail('period', 'It is written again every 0.2 to 60 s.', 'Choose a period between.', 'everyMs');
      const prepared = this.#prepared(tagId, value, 'engineer');
      if (!prepared.ok) return prepared;
      if (deviceIdOf(prepared.value.target.tag) === null)
        return fail('no-device', 'A value of Mill Latch itself stays as it was set.', 'Set it once.');
      const mayStill = (): boolean => !this.#isClosing;
      return this.#driven.set({ id, writer: 'engineer', moves: false, who, everyMs, runId: null, prepared: prepared.value, mayStill });
    });
  }

  #prepared(tagId: string, value: string, writer: DrivenEntry['writer']) {
    const signal = this.#model.effective(tagId);
    if (!signal.ok) return signal;
    const wanted = parseFor(signal.value.def, value);
    return wanted.ok ? this.#runtime.writer.prepare(tagId, wanted.value, { writer, rounding: 'nearest' }) : wanted;
  }

  takeBack(id: string, who: string): Promise<Result<TakenBack>> {
    return this.#driven.takeBack(id, who, `Put back by ${who}.`);
  }

  /** All that is kept. @returns what became of each */
  takeAllBack(who: string): Promise<readonly Result<TakenBack>[]> {
    return Promise.all(this.#driven.kept.map(({ id }) => this.takeBack(id, who)));
  }

  letStay(id: string, who: string): Promise<Result<DrivenEntry>> {
    return this.#driven.letStay(id, who);
  }

  /** Before a change is made: takes back what it would lead elsewhere. Refused while that cannot be done. */
  async beforeChange(changes: readonly PlannedChange[]): Promise<Result<null>> {
    const { kept } = this.#driven;
    if (kept.length === 0) return ok(null);
    const reachesFar = changes.some(({ kind }) => REACH_FAR.has(kind));
    const ids = new Set(changes.map(({ id }) => id));
    const meant = kept.filter(({ tagId, deviceId }) => {
      const linkId = this.#model.get('device', deviceId)?.linkId ?? '';
      return reachesFar || ids.has(tagId) || ids.has(deviceId) || ids.has(linkId);
    });
    const done = await Promise.all(meant.map(({ id, who }) => this.#driven.takeBack(id, who, 'Put back by the server: its settings are changed.')));
    const failed = done.find((each) => !each.ok && each.problem.code !== 'gone');
    return failed && !failed.ok
      ? fail(
          'driven',
          `A value that is set could not be put back: ${failed.problem.message}`,
          'Put it back, or say that it may stay; then change it.',
        )
      : ok(null);
  }

  async close(): Promise<void> {
    this.#isClosing = true;
    await this.#driven.close();
  }
}
