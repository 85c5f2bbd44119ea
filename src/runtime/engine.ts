/**
 * What is online. Follows the model: links and devices whose settings changed are made anew, all others run on
 * undisturbed.
 */
import type { DeviceStatus, LinkStatus } from '@/core/live/status.ts';
import type { Confirming } from '@/core/manifest/driverManifest.ts';
import type { SettingsSchema } from '@/core/manifest/settingsSchema.ts';
import { atOnce, inSlices } from '@/core/inSlices.ts';
import type { Device, Link, Tag } from '@/core/project/entities.ts';
import type { AppliedChange } from '@/core/project/snapshot.ts';
import type { Problem, Result } from '@/core/result.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { qualityOf, type QualityReason } from '@/core/value/quality.ts';
import type { Arrival, Clock, DeviceSession, Driver, DriverSession, LinkState, Settings } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { CALCULATED, Calculations } from './calculations.ts';
import { followedValue } from './calculatedValue.ts';
import { containedSession } from './containedSession.ts';
import { DeviceRunner, type ScannedTag } from './deviceRunner.ts';
import { IndexedTags } from './indexedTags.ts';
import { LiveTable, type Sample } from './liveTable.ts';
import { LOCAL, LocalValues, NOT_KEPT, type KeptLocally } from './localValues.ts';
import { restingLink, simulatedDevice } from './simulation/simulatedLink.ts';
import { SimulatedLocals } from './simulation/simulatedLocals.ts';
import { Simulator } from './simulation/simulator.ts';
import { Trace, type TracedFrame } from './trace.ts';

/** Tags that are handed to their runners at once. */
const HANDED = 100;
/** Tags that turn bad in one turn; more are taken in slices. */
const LOST_AT_ONCE = 10_000;

/** How long a link whose driver failed is left alone, and the most it comes to; one that stood this long was well. */
const FIRST_DELAY_MS = 1000;
const LONGEST_DELAY_MS = 30_000;
const STANDS_MS = 60_000;

interface RunningLink {
  readonly key: string;
  readonly driver: Driver;
  readonly session: DriverSession;
  readonly trace: Trace;
  readonly devices: Map<string, { readonly key: string; readonly runner: DeviceRunner; readonly isSimulated: boolean }>;
  state: LinkState;
}

export interface EngineOptions {
  /** Where values of local tags are kept, and those that are. */
  readonly local?: KeptLocally;
  /** Settings with their secrets, for drivers alone. */
  readonly revealed?: (schema: SettingsSchema, settings: Settings) => Settings;
  /** The folder in which each driver has one of its own, for what outlives the server. */
  readonly driverFolder?: string;
}

export class Engine {
  readonly live: LiveTable;
  readonly clock: Clock;
  readonly #model: ProjectModel;
  readonly #findDriver: (id: string) => Driver | null;
  readonly #local: LocalValues;
  readonly #calculations: Calculations;
  readonly #indexed: IndexedTags;
  readonly #simulator: Simulator;
  readonly #simulatedLocals: SimulatedLocals;
  readonly #driverFolder: string | undefined;
  readonly #revealed: NonNullable<EngineOptions['revealed']>;
  readonly #links = new Map<string, RunningLink>();
  /** Which device each tag was last known to be on, or that it is local. */
  readonly #deviceOf = new Map<string, string>();

  /** Tags that something shows or goes by, and how many do. */
  readonly #wanted = new Map<string, number>();

  /** When the driver of a link failed last, and how long it was left alone then. */
  readonly #failures = new Map<string, { readonly at: number; readonly delayMs: number }>();

  constructor(
    model: ProjectModel,
    findDriver: (id: string) => Driver | null,
    clock: Clock,
    { local = NOT_KEPT, revealed, driverFolder }: EngineOptions = {},
  ) {
    this.#model = model;
    this.#findDriver = findDriver;
    this.clock = clock;
    this.live = new LiveTable(clock);
    this.#driverFolder = driverFolder;
    this.#revealed = revealed ?? ((_schema, settings) => settings);
    this.#local = new LocalValues(this.live, clock, local.keeper, local.written);
    this.#calculations = new Calculations(this.live, clock, (tagId) => {
      const tag = model.get('tag', tagId);
      return tag ? model.pathOf(tag) : 'a tag that is gone';
    });
    this.#simulator = new Simulator(model, this.live, clock);
    this.#simulatedLocals = new SimulatedLocals(model, this.live, clock, this.#simulator);
    this.#indexed = new IndexedTags(this.#calculations, {
      read: (tagId, signal) => this.#hand([{ deviceId: this.#deviceOf.get(tagId) ?? '', tag: { tagId, signal } }]),
      lose: (tagId, problem) => this.#lose(tagId, 'input-bad', problem),
    });
  }

  /** Makes what runs equal to what the model says. */
  reconcile(): void {
    this.#simulatedLocals.follow();
    this.#reconcileLinks();
    const tagIds = new Set([...this.#deviceOf.keys(), ...this.#model.all('tag').map((t) => t.id)]);
    for (const _ of this.#followTags(tagIds)) continue;
  }

  /** Takes links offline before a change of them that comes in slices; following it brings them back. */
  takeOff(linkIds: Iterable<string>): void {
    for (const id of linkIds) {
      const running = this.#links.get(id);
      if (running) this.#closeLink(id, running);
    }
  }

  /** Follows a change. Steps that may be taken in slices: an import changes thousands of tags. */
  *following(changes: readonly AppliedChange[]): Generator<void, void> {
    this.#simulatedLocals.follow();
    const before = new Set(this.#runners());
    if (changes.some(({ kind }) => kind === 'link' || kind === 'device')) this.#reconcileLinks();
    const tagIds = new Set<string>();
    for (const { kind, id } of changes) {
      // A change of a scale is one of its tag.
      if (kind === 'tag' || kind === 'scale') tagIds.add(id);
      if (kind === 'device') yield* this.#addingTags(this.#model.tagIdsOf(id), tagIds);
      if (kind === 'group') yield* this.#addingTags(this.#model.tagIdsIn(id), tagIds);
      if (tagIds.size % HANDED === 0) yield;
    }
    for (const [deviceId, runner] of this.#runnerByDevice()) {
      if (!before.has(runner)) yield* this.#addingTags(this.#model.tagIdsOf(deviceId), tagIds);
    }
    // What is calculated from them is read otherwise as well.
    for (const id of this.#model.usersOf(tagIds)) tagIds.add(id);
    const runners = this.#runners();
    for (const runner of runners) runner.changing(true);
    try {
      yield* this.#followTags(tagIds);
    } finally {
      for (const runner of runners) runner.changing(false);
    }
  }

  /** Has tags read as long as they are wanted, also those that are read only then. @returns what ends it */
  want(tagIds: Iterable<string>): () => void {
    const ids = [...new Set(tagIds)];
    const fresh = ids.filter((id) => !this.#wanted.has(id));
    for (const id of ids) this.#wanted.set(id, (this.#wanted.get(id) ?? 0) + 1);
    this.#readOrRest(fresh);
    let isOver = false;
    return () => {
      if (isOver) return;
      isOver = true;
      for (const id of ids) {
        const others = (this.#wanted.get(id) ?? 1) - 1;
        if (others > 0) this.#wanted.set(id, others);
        else this.#wanted.delete(id);
      }
      this.#readOrRest(ids.filter((id) => !this.#wanted.has(id)));
    };
  }

  /** Whether a tag is read now. */
  isRead(tagId: string, { isReadWhenShown }: Pick<EffectiveSignal, 'isReadWhenShown'>): boolean {
    return !isReadWhenShown || this.#wanted.has(tagId);
  }

  /** Those of them that are read only while they are wanted. */
  #readOrRest(tagIds: readonly string[]): void {
    const changed: { readonly deviceId: string; readonly tag: ScannedTag }[] = [];
    for (const tagId of tagIds) {
      const deviceId = this.#deviceOf.get(tagId);
      const signal = deviceId === undefined ? null : this.#model.effective(tagId);
      if (deviceId === undefined || signal?.ok !== true || !signal.value.isReadWhenShown) continue;
      if (this.isRead(tagId, signal.value)) changed.push({ deviceId, tag: { tagId, signal: signal.value } });
      else this.#rest(deviceId, tagId);
    }
    this.#hand(changed);
  }

  /** Nobody wants it: it is not read, and has no value that could grow old. */
  #rest(deviceId: string, tagId: string): void {
    this.#leave(deviceId, tagId);
    this.live.remove(tagId);
  }

  close(): void {
    this.#calculations.close();
    this.#simulatedLocals.close();
    for (const [id, running] of this.#links) this.#closeLink(id, running);
  }

  /** The live session of a device, for writes and tests on the connection that is there. */
  session(deviceId: string): DeviceSession | null {
    return this.#runner(deviceId)?.session ?? null;
  }

  /** The session that reads and writes a tag, whatever its source is; null where it is not online. */
  sessionOf(tag: Tag): DeviceSession | null {
    const deviceId = deviceIdOf(tag);
    if (tag.source.kind === 'calculated') return null;
    return deviceId === null ? this.#local.session : this.session(deviceId);
  }

  /** The signal of a tag at the place where it is read and written now: an index may have moved it. */
  signalOf(tagId: string): Result<EffectiveSignal> {
    return this.#indexed.now(tagId) ?? this.#model.effective(tagId);
  }

  /** How it is learnt what a tag's device holds after a write; a local value is there at once. */
  confirmingOf(tag: Tag): Confirming {
    const device = this.#model.get('device', deviceIdOf(tag) ?? '');
    return (device && this.#links.get(device.linkId)?.driver.description.capabilities.confirms) ?? { by: 'asking' };
  }

  /** The live session of a link, for trials on the connection that is there. */
  linkSession(linkId: string): DriverSession | null {
    return this.#links.get(linkId)?.session ?? null;
  }

  /** Stops reading over a link, so that somebody else has its line alone. @param why null to go on */
  pause(linkId: string, why: string | null): void {
    for (const { runner } of this.#links.get(linkId)?.devices.values() ?? []) runner.pause(why);
  }

  /** Closes a link for a while, so that its port is free. @param isClosed false to open it again */
  suspend(linkId: string, isClosed: boolean): void {
    const running = this.#links.get(linkId);
    if (isClosed) running?.session.close();
    else running?.session.start();
  }

  /** Asks the device for one tag now; null when it is not online or was changed meanwhile. */
  async readNow(tagId: string): Promise<Sample | null> {
    const tag = this.#model.get('tag', tagId);
    const deviceId = tag && deviceIdOf(tag);
    // What is no point of a device is always as it is now.
    if (tag && deviceId === null) return this.live.get(tagId);
    const runner = this.#runner(deviceId ?? '');
    const release = this.want([tagId]);
    try {
      return runner && (await runner.readNow(tagId)) ? this.live.get(tagId) : null;
    } finally {
      release();
    }
  }

  /** A value that was read beside the scan; it counts while the tag is still read the same way over the same session. */
  take(tag: Tag, session: DeviceSession, asked: Pick<ScannedTag, 'tagId' | 'signal'>, arrival: Arrival): void {
    const runner = this.#runner(deviceIdOf(tag) ?? '');
    if (runner?.session === session) runner.take(asked, arrival);
  }

  /** @param after number of the last frame that is known */
  frames(linkId: string, limit: number, after = 0): readonly TracedFrame[] {
    return this.#links.get(linkId)?.trace.last(limit, after) ?? [];
  }

  linkStatus(): readonly LinkStatus[] {
    return [...this.#links].map(([linkId, r]) => ({
      linkId,
      phase: r.state.phase,
      problem: r.state.problem,
      retryAt: r.state.retryAt,
      requestsPerSecond: r.state.phase === 'connected' ? [...r.devices.values()].reduce((sum, d) => sum + d.runner.requestsPerSecond, 0) : 0,
    }));
  }

  deviceStatus(): readonly DeviceStatus[] {
    return this.#model.all('device').map((device) => {
      const link = this.#links.get(device.linkId);
      const runner = link?.devices.get(device.id)?.runner;
      const base = { deviceId: device.id, linkId: device.linkId, slow: runner?.slow ?? null, lastAnswerAt: runner?.lastAnswerAt ?? null };
      if (!link || !runner) return { ...base, state: 'offline', detail: 'not online' };
      if (link.state.phase !== 'connected' && !device.isSimulated)
        return { ...base, state: link.state.problem ? 'silent' : 'connecting', detail: link.state.problem?.message ?? 'connecting' };
      if (runner.fault) return { ...base, state: 'silent', detail: runner.fault.problem.message };
      if (runner.stopped !== undefined) return { ...base, state: 'stopped', detail: runner.stopped };
      return {
        ...base,
        state: runner.lastAnswerAt === null ? 'connecting' : 'answering',
        detail: runner.lastAnswerAt === null ? 'nothing read yet' : '',
      };
    });
  }

  *#addingTags(ids: Iterable<string>, tagIds: Set<string>): Generator<void, void> {
    let added = 0;
    for (const id of ids) {
      tagIds.add(id);
      if (++added % HANDED === 0) yield;
    }
  }

  #runnerByDevice(): readonly (readonly [string, DeviceRunner])[] {
    return [...this.#links.values()].flatMap(({ devices }) => [...devices].map(([id, { runner }]) => [id, runner] as const));
  }

  #runners(): readonly DeviceRunner[] {
    return this.#runnerByDevice().map(([, runner]) => runner);
  }

  #runner(deviceId: string): DeviceRunner | null {
    for (const running of this.#links.values()) {
      const device = running.devices.get(deviceId);
      if (device) return device.runner;
    }
    return null;
  }

  #openLink(link: Link): void {
    const driver = this.#findDriver(link.driver);
    if (!driver) return;
    const trace = new Trace();
    let session: DriverSession | null = null;
    const failed = (problem: Problem): void => queueMicrotask(() => this.#driverFailed(link.id, session, problem));
    const rests = this.#isSimulated(link.id);
    if (rests) session = restingLink(this.clock);
    else
      session = containedSession(
        driver,
        {
          settings: this.#revealed(driver.description.link, link.settings),
          ...(this.#driverFolder === undefined ? {} : { folder: `${this.#driverFolder}/${link.driver}` }),
          clock: this.clock,
          onFrame: (frame) => trace.add(frame),
          onState: (state) => this.#linkChanged(link.id, session, state),
        },
        failed,
      );
    this.#links.set(link.id, { key: keyOf(link, rests), driver, session, trace, devices: new Map(), state: session.state });
    session.start();
  }

  /** The link is made anew after a while, longer each time that its driver fails again soon. */
  #driverFailed(linkId: string, session: DriverSession | null, problem: Problem): void {
    const running = this.#links.get(linkId);
    if (!running || running.session !== session) return;
    const now = this.clock.now();
    const before = this.#failures.get(linkId);
    const delayMs = before && now - before.at < STANDS_MS + before.delayMs ? Math.min(2 * before.delayMs, LONGEST_DELAY_MS) : FIRST_DELAY_MS;
    this.#failures.set(linkId, { at: now, delayMs });
    running.session.close();
    this.#linkChanged(linkId, session, { phase: 'waiting', problem, retryAt: now + delayMs });
    this.clock.after(delayMs, () => {
      if (this.#links.get(linkId) !== running) return;
      this.#closeLink(linkId, running);
      void inSlices(this.following([{ kind: 'link', id: linkId, after: null }]));
    });
  }

  #closeLink(id: string, running: RunningLink): void {
    this.#links.delete(id);
    for (const [deviceId, { runner }] of running.devices) this.#closeDevice(deviceId, runner);
    running.session.close();
  }

  #closeDevice(deviceId: string, runner: DeviceRunner): void {
    runner.close();
    const tagIds = this.#model.tagIdsOf(deviceId);
    const losing = this.#losing(tagIds, this.clock.now());
    if (tagIds.length <= LOST_AT_ONCE) atOnce(losing);
    else void inSlices(losing);
  }

  /** Of tens of thousands the last ones turn bad some tenths of a second later, and only while nothing newer came. */
  *#losing(tagIds: readonly string[], at: number): Generator<void, void> {
    let done = 0;
    for (const id of tagIds) {
      if (!(this.live.arrivedAt(id) > at)) this.live.lose(id, qualityOf('waiting'), null, at, null);
      if (++done % HANDED === 0) yield;
    }
  }

  #reconcileLinks(): void {
    const links = new Map(this.#model.all('link').map((l) => [l.id, l]));
    for (const [id, running] of this.#links) {
      const link = links.get(id);
      if (!link || keyOf(link, this.#isSimulated(id)) !== running.key) this.#closeLink(id, running);
    }
    for (const link of links.values()) if (!this.#links.has(link.id)) this.#openLink(link);
    for (const [linkId, running] of this.#links) this.#reconcileDevices(linkId, running);
  }

  #reconcileDevices(linkId: string, running: RunningLink): void {
    const devices = this.#model.all('device').filter((d) => d.linkId === linkId);
    const keys = new Map(devices.map((d) => [d.id, sortedJson([d.settings, d.dialect, d.isSimulated]) ?? '']));
    for (const [id, device] of running.devices)
      if (keys.get(id) !== device.key) {
        running.devices.delete(id);
        this.#closeDevice(id, device.runner);
      }
    for (const [id, key] of keys) {
      const device = devices.find((d) => d.id === id);
      if (!device || running.devices.has(id)) continue;
      running.devices.set(id, {
        key,
        runner: new DeviceRunner(this.#sessionFor(running, device), this.live, this.clock),
        isSimulated: device.isSimulated,
      });
    }
  }

  /** All its devices are: while the machine is not there, nothing knocks at its door. */
  #isSimulated(linkId: string): boolean {
    const devices = this.#model.all('device').filter((device) => device.linkId === linkId);
    return devices.length > 0 && devices.every(({ isSimulated }) => isSimulated);
  }

  #sessionFor(running: RunningLink, device: Device): DeviceSession {
    if (device.isSimulated) return simulatedDevice(this.#simulator, (tagId) => this.signalOf(tagId), this.clock);
    return running.session.device(this.#revealed(running.driver.description.device, device.settings), device.dialect);
  }

  /** Hands changed tags to the runners of their devices. */
  *#followTags(tagIds: ReadonlySet<string>): Generator<void, void> {
    for (const device of this.#model.all('device'))
      this.#runner(device.id)?.setLife(device.lifeTagId === null ? null : { tagId: device.lifeTagId, seconds: device.lifeSeconds });
    let changed: { readonly deviceId: string; readonly tag: ScannedTag }[] = [];
    let followed = 0;
    for (const tagId of tagIds) {
      if (++followed % HANDED === 0) yield;
      const before = this.#deviceOf.get(tagId);
      const tag = this.#model.get('tag', tagId);
      const deviceId = tag && placeOf(tag);
      if (before !== undefined && before !== deviceId) this.#leave(before, tagId);
      if (!tag || deviceId === null) {
        this.#deviceOf.delete(tagId);
        this.live.remove(tagId);
        continue;
      }
      this.#deviceOf.set(tagId, deviceId);
      const signal = this.#model.effective(tagId);
      if (signal.ok && deviceId === LOCAL) this.#local.take(tagId, signal.value, tag.initial);
      else if (signal.ok && deviceId === CALCULATED) this.#calculate(tagId, signal.value);
      else if (signal.ok && signal.value.index) this.#indexed.take(tagId, signal.value, this.#model.get('device', deviceId)?.dialect ?? {});
      else if (signal.ok && !this.isRead(tagId, signal.value)) this.#rest(deviceId, tagId);
      else if (signal.ok) {
        this.#indexed.remove(tagId);
        changed.push({ deviceId, tag: { tagId, signal: signal.value } });
      } else this.#lose(tagId, 'settings', signal.problem);
      if (changed.length < HANDED) continue;
      this.#hand(changed);
      changed = [];
    }
    this.#hand(changed);
  }

  #calculate(tagId: string, signal: EffectiveSignal): void {
    const followed = followedValue(this.live, tagId, signal);
    if (followed) this.#calculations.take(tagId, followed);
  }

  /** It is read no more, as far as it was. */
  #leave(deviceId: string, tagId: string): void {
    if (deviceId === LOCAL) this.#local.remove(tagId);
    else if (deviceId === CALCULATED) this.#calculations.remove(tagId);
    else {
      this.#indexed.remove(tagId);
      this.#runner(deviceId)?.changeTags([], [tagId]);
    }
  }

  /** There is nothing to read, and why. */
  #lose(tagId: string, reason: QualityReason, problem: Problem): void {
    const deviceId = this.#deviceOf.get(tagId) ?? '';
    if (reason === 'settings') this.#leave(deviceId, tagId);
    else this.#runner(deviceId)?.changeTags([], [tagId]);
    this.live.lose(tagId, qualityOf(reason, problem.message), problem, this.clock.now(), null);
  }

  #hand(changed: readonly { readonly deviceId: string; readonly tag: ScannedTag }[]): void {
    for (const deviceId of new Set(changed.map((c) => c.deviceId)))
      this.#runner(deviceId)?.changeTags(changed.flatMap((c) => (c.deviceId === deviceId ? c.tag : [])));
  }

  #linkChanged(linkId: string, session: DriverSession | null, state: LinkState): void {
    const running = this.#links.get(linkId);
    if (!running || running.session !== session) return;
    const was = running.state.phase;
    running.state = state;
    for (const { runner, isSimulated } of running.devices.values()) {
      // Nothing of it goes over the link.
      if (isSimulated) continue;
      if (state.phase === 'connected') runner.kick();
      else if (state.problem && (was === 'connected' || runner.fault === null)) runner.lose({ kind: 'link-down', problem: state.problem });
    }
  }
}

/** The device that a tag is read from, or what stands for one. */
function placeOf(tag: Tag): string {
  return tag.source.kind === 'calculated' ? CALCULATED : (deviceIdOf(tag) ?? LOCAL);
}

/** @param rests nothing goes over it */
function keyOf(link: Link, rests: boolean): string {
  return `${link.driver} ${rests ? 'rests' : ''} ${sortedJson(link.settings)}`;
}
