/**
 * Reads one device: its scan groups in turn, each by its period. When the device falls silent all its tags turn
 * bad at once, and the next group that is due serves as the probe.
 */
import { atOnce, inSlices } from '@/core/inSlices.ts';
import { freshForMs, slowInWords, type Slow } from '@/core/live/freshness.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import type { ReadingNotes } from '@/core/signal.ts';
import { qualityOf, type QualityReason } from '@/core/value/quality.ts';
import type { Arrival, Clock, DeviceSession, DriverFault, ObservedPoint, PointSpec, ReadGroup, ValueArrival } from '@/drivers/contract.ts';
import { pointOf, type EffectiveSignal } from '@/mapping/effective.ts';
import type { LiveTable } from './liveTable.ts';
import { Observing } from './observing.ts';

export interface ScannedTag {
  readonly tagId: string;
  readonly signal: EffectiveSignal;
}

/** The tag that changes as long as the controller's program runs. */
export interface LifeCounter {
  readonly tagId: string;
  readonly seconds: number;
}

interface ScanGroup {
  readonly periodMs: number;
  /** Its tags are moved by an index: they are in groups of their own, since others need not be planned anew with them. */
  readonly areMoved: boolean;
  /** Its tags as they were when it was made: an answer is taken only by a tag that still reads the same bytes. */
  readonly tags: ReadonlyMap<string, ScannedTag>;
  /** Its requests, planned in a turn of their own before the first reading: for thousands of tags that takes a while. */
  group: ReadGroup | null;
  due: number;
  /** When its last reading began, and how long after the one before. */
  begunAt: number | null;
  everyMs: number;
}

const FAULT_REASONS: Readonly<Record<DriverFault['kind'], QualityReason>> = {
  'link-down': 'link-down',
  silent: 'silent',
  refused: 'refused',
  malformed: 'malformed',
  settings: 'settings',
  aborted: 'offline',
  unknown: 'silent',
};

/** Changes of what is read come in slices: what follows at once is waited for before requests are planned anew. */
const SETTLE_MS = 10;

const NO_NOTES: ReadingNotes = {};

/** Tags that are taken in one step of making groups. */
const STEP = 500;

/** Tags that turn bad in one turn; more are taken in slices. */
const AT_ONCE = 10_000;

/** Reading a group takes what it takes on a slow line: nobody gains when it is thrown away. */
const READ_DEADLINE_MS = Infinity;

/** How often a device without tags is asked whether it answers. */
const ASK_EVERY_MS = 5000;

/** How often the age of values is looked at. */
const AGE_EVERY_MS = 1000;
/** A group whose beat is this much longer than its period is told to be too slow. */
const SLOW = 2;

export class DeviceRunner {
  readonly #session: DeviceSession;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #stop = new AbortController();
  /** Where the values of the device come by themselves; then nothing is read by its period. */
  readonly #observing: Observing | null;
  #tags = new Map<string, ScannedTag>();
  #groups: ScanGroup[] = [];
  /** What is read has changed since the groups were made: that of tags which stay, that of tags which an index moves. */
  #isStale = false;
  #areMovedStale = false;
  readonly #moved = new Set<string>();
  /** More changes of what is read are on their way: groups are made once they are all here. */
  #isChanging = false;
  #isClosed = false;
  #isPaused = false;
  #wake: (() => void) | null = null;
  #cancelAges: () => void = () => undefined;
  #fault: DriverFault | null = null;
  #lastAnswerAt: number | null = null;
  #life: LifeCounter | null = null;
  /** The heartbeat's last other value, and since when it is there. */
  #lifeSeen: { readonly raw: unknown; readonly since: number } | null = null;
  /** Why the controller is taken to have stopped. */
  #stopped: string | undefined;

  constructor(session: DeviceSession, live: LiveTable, clock: Clock) {
    this.#session = session;
    this.#live = live;
    this.#clock = clock;
    const observe = session.observe?.bind(session);
    this.#observing = observe
      ? new Observing({
          observe,
          clock,
          arrive: (key, point, arrival) => {
            if (!this.#isClosed && !this.#isPaused) this.#arriveObserved(key, point, arrival);
          },
          alive: () => {
            this.#fault = null;
            this.#lastAnswerAt = clock.now();
          },
          lost: (fault) => this.lose(fault),
        })
      : null;
    if (this.#observing) this.#observing.start();
    else void this.#run();
    this.#lookAtAges();
  }

  get session(): DeviceSession {
    return this.#session;
  }
  /** Why the device does not answer, or null. */
  get fault(): DriverFault | null {
    return this.#fault;
  }
  /** Why the controller is taken to have stopped while it still answers. */
  get stopped(): string | undefined {
    return this.#stopped;
  }
  get lastAnswerAt(): number | null {
    return this.#lastAnswerAt;
  }
  /** The group that falls behind its period the most, null when all keep theirs. */
  get slow(): Slow | null {
    let slow: Slow | null = null;
    for (const { periodMs, everyMs } of this.#groups)
      if (everyMs > SLOW * periodMs && (slow === null || everyMs / periodMs > slow.everyMs / slow.askedMs)) slow = { askedMs: periodMs, everyMs };
    return slow;
  }
  get requestsPerSecond(): number {
    return this.#groups.reduce((sum, g) => sum + ((g.group?.requestCount ?? 0) * 1000) / g.periodMs, 0);
  }

  /**
   * Takes tags that are new or changed; all others stay as they are. Those that read the same bytes as before keep
   * their value; only the others wait.
   */
  changeTags(changed: readonly ScannedTag[], removed: readonly string[] = []): void {
    const now = this.#clock.now();
    const anew: ScannedTag[] = [];
    for (const tag of changed) {
      const old = this.#tags.get(tag.tagId);
      this.#tags.set(tag.tagId, tag);
      if (!old || !readsTheSame(old, tag)) this.#live.reset(tag.tagId, tag.signal, now);
      else if (old.signal !== tag.signal) this.#live.reinterpret(tag.tagId, tag.signal);
      if (!old || !readsTheSame(old, tag) || old.signal.periodMs !== tag.signal.periodMs) {
        if (old) this.#groupsWithout(old);
        if (tag.signal.index) this.#moved.add(tag.tagId);
        this.#outdateGroupsOf(tag);
        anew.push(tag);
      }
    }
    for (const tagId of removed) {
      const tag = this.#tags.get(tagId);
      if (!tag) continue;
      this.#tags.delete(tagId);
      this.#groupsWithout(tag);
    }
    if (this.#observing) {
      this.#observing.change(anew.map(observedPoint), removed);
      return;
    }
    if (this.#needsGroups) this.#wake?.();
  }

  #groupsWithout(tag: ScannedTag): void {
    this.#outdateGroupsOf(tag);
    this.#moved.delete(tag.tagId);
  }

  #outdateGroupsOf({ tagId }: ScannedTag): void {
    if (this.#moved.has(tagId)) this.#areMovedStale = true;
    else this.#isStale = true;
  }

  /** Groups have to be made anew, now that all that changes together is here. */
  get #needsGroups(): boolean {
    return (this.#isStale || this.#areMovedStale) && !this.#isChanging;
  }

  /** Thousands of tags come in slices: until the last one is here, what was read before is read on. */
  changing(isChanging: boolean): void {
    this.#isChanging = isChanging;
    if (this.#needsGroups) this.#wake?.();
  }

  /** @param life null when no tag tells that the controller's program runs */
  setLife(life: LifeCounter | null): void {
    if (life?.tagId === this.#life?.tagId && life?.seconds === this.#life?.seconds) return;
    this.#life = life;
    this.#lifeSeen = null;
    this.#setStopped(undefined);
  }

  /** Reads everything as soon as it can: the link has come up. */
  kick(): void {
    if (this.#observing && !this.#isPaused) return this.#observing.start();
    const now = this.#clock.now();
    for (const group of this.#groups) group.due = now;
    this.#wake?.();
  }

  /** Reads one tag out of turn. False when it is not among the tags (any more). */
  async readNow(tagId: string): Promise<boolean> {
    const tag = this.#tags.get(tagId);
    if (!tag) return false;
    await this.#read(this.#session.prepare([pointOf(tag.tagId, tag.signal)]), new Map([[tagId, tag]]));
    const now = this.#tags.get(tagId);
    return now !== undefined && readsTheSame(now, tag);
  }

  /** A value that was read beside the scan, the way the tag was read when it was asked for. */
  take(asked: Pick<ScannedTag, 'tagId' | 'signal'>, arrival: Arrival): void {
    if (!this.#isClosed) this.#arrive(asked.tagId, asked, arrival);
  }

  /** Leaves the line to somebody else, until it is told to go on. @param why null to go on */
  pause(why: string | null): void {
    this.#isPaused = why !== null;
    if (why === null) return this.kick();
    this.#observing?.stop();
    this.lose({ kind: 'aborted', problem: { code: 'paused', message: why } });
  }

  /** All tags turn bad now. */
  lose(fault: DriverFault): void {
    // Nothing comes over a link that is down; it is observed again once that is up.
    if (fault.kind === 'link-down') this.#observing?.stop();
    this.#fault = fault;
    this.#lifeSeen = null;
    this.#stopped = undefined;
    const losing = this.#losing(fault, this.#clock.now());
    if (this.#tags.size <= AT_ONCE) atOnce(losing);
    else void inSlices(losing);
  }

  /** Of tens of thousands the last ones turn bad some tenths of a second later, and only while nothing newer came. */
  *#losing(fault: DriverFault, at: number): Generator<void, void> {
    const quality = qualityOf(FAULT_REASONS[fault.kind], fault.problem.message);
    let done = 0;
    for (const tagId of [...this.#tags.keys()]) {
      const tag = this.#tags.get(tagId);
      if (tag && !(this.#live.arrivedAt(tagId) > at)) this.#live.lose(tagId, quality, fault.problem, at, tag.signal);
      if (++done % STEP === 0) yield;
    }
  }

  close(): void {
    this.#isClosed = true;
    this.#observing?.stop();
    this.#stop.abort();
    this.#cancelAges();
    this.#wake?.();
  }

  async #run(): Promise<void> {
    while (!this.#stop.signal.aborted) {
      if (this.#needsGroups) {
        await new Promise<void>((resolve) => this.#clock.after(SETTLE_MS, resolve));
        await inSlices(this.#makingGroups());
      }
      const next = this.#groups.reduce<ScanGroup | null>((soonest, g) => (soonest === null || g.due < soonest.due ? g : soonest), null);
      const wait = next === null || this.#isPaused ? Infinity : next.due - this.#clock.now();
      if (next === null && !this.#isPaused && this.#session.isThere) {
        await this.#askWhetherThere();
        // Tags that come in slices are taken over by the last of them, which wakes this up.
        if (!this.#needsGroups && !this.#isClosed) await this.#sleep(ASK_EVERY_MS);
        continue;
      }
      if (next === null || wait > 0) {
        await this.#sleep(wait);
        continue;
      }
      if (next.group === null) {
        await new Promise<void>((resolve) => this.#clock.after(0, resolve));
        if (!this.#needsGroups) next.group = await inSlices(this.#preparing(next.tags));
        continue;
      }
      const now = this.#clock.now();
      if (next.begunAt !== null) next.everyMs = Math.max(next.periodMs, now - next.begunAt);
      next.begunAt = now;
      await this.#read(next.group, next.tags);
      // The beat is kept; what was missed is not made up for.
      next.due = Math.max(next.due + next.periodMs, this.#clock.now());
    }
  }

  /** A device of which nothing is read is asked now and then whether it answers. */
  async #askWhetherThere(): Promise<void> {
    const context = { signal: this.#stop.signal, deadline: Infinity };
    const fault = (await this.#session.isThere?.(context)) ?? null;
    if (this.#isClosed || this.#isPaused) return;
    this.#fault = fault;
    if (fault === null) this.#lastAnswerAt = this.#clock.now();
  }

  /** Tags that change meanwhile are seen: groups are stale again then. */
  *#makingGroups(): Generator<void, void> {
    const stay = this.#isStale ? yield* this.#groupsOf(this.#tags.keys(), false) : this.#groups.filter(({ areMoved }) => !areMoved);
    this.#groups = [...stay, ...(yield* this.#groupsOf(this.#moved, true))];
  }

  *#groupsOf(tagIds: Iterable<string>, areMoved: boolean): Generator<void, readonly ScanGroup[]> {
    if (areMoved) this.#areMovedStale = false;
    else this.#isStale = false;
    const byPeriod = new Map<number, Map<string, ScannedTag>>();
    let made = 0;
    for (const tagId of tagIds) {
      if (++made % STEP === 0) yield;
      const tag = this.#tags.get(tagId);
      if (!tag || this.#moved.has(tagId) !== areMoved) continue;
      const tags = byPeriod.get(tag.signal.periodMs) ?? new Map<string, ScannedTag>();
      byPeriod.set(tag.signal.periodMs, tags.set(tagId, tag));
    }
    const due = this.#clock.now();
    return [...byPeriod].map(([periodMs, tags]) => ({ periodMs, areMoved, tags, group: null, due, begunAt: null, everyMs: periodMs }));
  }

  *#preparing(tags: ReadonlyMap<string, ScannedTag>): Generator<void, ReadGroup> {
    const points: PointSpec[] = [];
    for (const tag of tags.values()) if (points.push(pointOf(tag.tagId, tag.signal)) % STEP === 0) yield;
    return this.#session.preparing ? yield* this.#session.preparing(points) : this.#session.prepare(points);
  }

  async #read(group: ReadGroup, asked: ReadonlyMap<string, ScannedTag>): Promise<void> {
    const fault = await group.read(
      (key, arrival) => {
        const before = asked.get(key);
        if (before && !this.#isClosed && !this.#isPaused) this.#arrive(key, before, arrival);
      },
      { signal: this.#stop.signal, deadline: this.#clock.now() + READ_DEADLINE_MS },
    );
    if (this.#stop.signal.aborted || this.#isPaused) return;
    if (fault) this.lose(fault);
    else this.#fault = null;
  }

  /** Values whose next reading is late are not good any more; they keep their time, so that their age is seen. */
  #lookAtAges(): void {
    const now = this.#clock.now();
    for (const { periodMs, begunAt, everyMs, tags } of this.#groups) {
      if (begunAt === null || this.#isPaused) continue;
      const everyNow = Math.max(everyMs, now - begunAt);
      if (everyNow <= freshForMs(periodMs)) continue;
      const outdating = this.#outdating(tags, now, slowInWords({ askedMs: periodMs, everyMs: everyNow }));
      if (tags.size <= AT_ONCE) atOnce(outdating);
      else void inSlices(outdating);
    }
    this.#cancelAges = this.#clock.after(AGE_EVERY_MS, () => this.#lookAtAges());
  }

  /** As of a moment: what arrives meanwhile is younger. */
  *#outdating(tags: ReadonlyMap<string, ScannedTag>, now: number, why: string): Generator<void, void> {
    let done = 0;
    for (const tagId of tags.keys()) {
      if (!this.#isClosed && this.#tags.has(tagId)) this.#live.outdate(tagId, now, why);
      if (++done % STEP === 0) yield;
    }
  }

  /** It stays good until another comes or the observation is lost: nothing of it ages. */
  #arriveObserved(tagId: string, point: ObservedPoint, arrival: Arrival): void {
    const tag = this.#tags.get(tagId);
    if (tag && tag.signal.canonical === point.canonical) this.#arrive(tagId, tag, arrival, Infinity);
  }

  /** @param asked the tag as it was when its value was asked for */
  #arrive(tagId: string, asked: Pick<ScannedTag, 'signal'>, arrival: Arrival, goodForMs?: number): void {
    const tag = this.#tags.get(tagId);
    if (!tag || !readsTheSame(tag, asked)) return;
    if ('fault' in arrival) {
      const { fault: why } = arrival;
      this.#live.lose(tagId, qualityOf(FAULT_REASONS[why.kind], why.problem.message), why.problem, arrival.at, tag.signal);
      return;
    }
    this.#lastAnswerAt = arrival.at;
    const notes = notesOf(arrival, this.#stopped);
    this.#live.arrive(tagId, tag.signal, arrival.wire, notes, arrival.at, arrival.roundTripMs, goodForMs ?? freshForMs(tag.signal.periodMs));
    if (tagId === this.#life?.tagId) this.#watchLife(tag, arrival.at);
  }

  /** A heartbeat that stands still for too long makes every value of the device uncertain. */
  #watchLife(tag: ScannedTag, at: number): void {
    const raw = this.#live.get(tag.tagId)?.raw ?? null;
    if (raw === null || !this.#life) return;
    if (this.#lifeSeen?.raw !== raw) {
      this.#lifeSeen = { raw, since: at };
      this.#setStopped(undefined);
      return;
    }
    // A counter that is read seldom is given the readings it needs to be seen moving.
    const allowed = Math.max(this.#life.seconds * 1000, 2.5 * tag.signal.periodMs);
    if (at - this.#lifeSeen.since > allowed) this.#setStopped(`its heartbeat stands still for more than ${Math.round(allowed / 1000)} s`);
  }

  #setStopped(stopped: string | undefined): void {
    if (stopped === this.#stopped) return;
    this.#stopped = stopped;
    for (const tag of this.#tags.values()) this.#live.reinterpret(tag.tagId, tag.signal, { stopped });
  }

  #sleep(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const cancel = ms === Infinity ? () => undefined : this.#clock.after(ms, () => this.#wake?.());
      this.#wake = () => {
        this.#wake = null;
        cancel();
        resolve();
      };
    });
  }
}

/** What is known of a reading beside its wire value; most have nothing, and thousands come in a second. */
function notesOf({ torn, sourceAt, doubted }: ValueArrival, stopped: string | undefined): ReadingNotes {
  return torn || stopped !== undefined || sourceAt !== undefined || doubted !== undefined ? { torn, stopped, sourceAt, doubted } : NO_NOTES;
}

/** What is asked of the device for a tag whose changes come by themselves. */
function observedPoint({ tagId, signal }: ScannedTag): ObservedPoint {
  return { ...pointOf(tagId, signal), everyMs: signal.periodMs };
}

/** The same place, whatever is made of its bytes. */
function readsTheSame(a: Pick<ScannedTag, 'signal'>, b: Pick<ScannedTag, 'signal'>): boolean {
  if (a === b) return true;
  const [one, other] = [a.signal.def.type, b.signal.def.type];
  const same = a.signal.canonical === b.signal.canonical && sameJson(a.signal.settings, b.signal.settings);
  return same && one.bytes === other.bytes && (one.kind === 'boolean') === (other.kind === 'boolean');
}
