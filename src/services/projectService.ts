/** Every change of the project: checked by the model, stored with its log entry, then applied and told to all. */
import { v7 as uuid } from 'uuid';
import type { Command } from '@/core/project/command.ts';
import type { Device } from '@/core/project/entities.ts';
import type { Applied, AppliedChange } from '@/core/project/snapshot.ts';
import { atOnce, inSlices, nextTurn } from '@/core/inSlices.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Statement } from '@/store/protocol.ts';
import type { NewPack, PackedEntity } from '@/store/packs.ts';
import type { Kept } from '@/store/pruning.ts';
import { SET_UP, type LogEntry, type NextChange, type ProjectStore } from '@/store/projectStore.ts';

/** Changes of one command above which it is taken over in several turns. */
const LARGE = 200;
/** Changes that are taken over in one step. */
const STEP = 50;
/** Changes that are looked at in one step. */
const SLICE = 100;
/** Changes between two looks for what is no longer kept. */
const PRUNE_EVERY = 100;

/** Is waited for before a change is made, may refuse it, and is told when it is made or was not. */
type BeforeChange = (changes: readonly PlannedChange[]) => Promise<Result<() => void>>;
/** Hears of a change; work that may be done in slices is returned as steps. */
type Listener = (applied: Applied) => Generator<void, void> | void;

export class ProjectService {
  readonly #model: ProjectModel;
  readonly #store: ProjectStore;
  readonly #clock: Clock;
  readonly #listeners = new Set<Listener>();
  #beforeChange: BeforeChange = async () => ok(() => undefined);
  #refusal: () => Problem | null = () => null;
  #takeOff: (linkIds: ReadonlySet<string>) => void = () => undefined;
  #revision = 0;
  /** What still follows from the last change. */
  #following: Promise<void> = Promise.resolve();
  /** One change at a time. */
  #queue: Promise<unknown> = Promise.resolve();

  constructor(model: ProjectModel, store: ProjectStore, clock: Clock) {
    this.#model = model;
    this.#store = store;
    this.#clock = clock;
  }

  /** What a change would take away may have to be ended first. */
  set beforeChange(before: BeforeChange) {
    this.#beforeChange = before;
  }

  /** Why nothing can be changed now, where that is so. */
  set refusal(refusal: () => Problem | null) {
    this.#refusal = refusal;
  }

  /** Takes links offline that a large change is about to change, until it is followed. */
  set takeOff(takeOff: (linkIds: ReadonlySet<string>) => void) {
    this.#takeOff = takeOff;
  }

  get revision(): number {
    return this.#revision;
  }

  /** The moment as it stands in records. */
  get time(): string {
    return isoTime(this.#clock);
  }

  onApplied(listener: Listener): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Reads the stored project; a new folder gets an empty one. */
  async load(): Promise<void> {
    const stored = await this.#store.load();
    this.#model.apply(stored.map(({ kind, entity }) => ({ kind, id: entity.id, before: null, after: entity })));
    if (this.#model.all('project').length === 0) {
      const id = uuid();
      const made = await this.execute(
        { id: uuid(), label: 'project begun', changes: [{ kind: 'project', id, set: { name: 'New machine' } }] },
        SET_UP,
      );
      if (!made.ok) throw new Error(made.problem.message);
    }
  }

  /**
   * Carries a command out, or says why not and changes nothing. A command that was carried out before is not done again.
   * @param more what is stored with it, in the same transaction; waited for once nothing stands against the command
   * @param brought new tags and scales by the thousand, which their maker has checked one by one
   */
  execute(
    command: Command,
    origin: string,
    more: readonly Statement[] | Promise<readonly Statement[]> = [],
    brought: NewPack | null = null,
  ): Promise<Result<Applied>> {
    return this.#inTurn(async () => {
      const refused = this.#refusal();
      if (refused) return { ok: false, problem: refused };
      if (await this.#store.hasCommand(command.id)) return ok({ revision: this.#revision, label: command.label, changes: [] });
      const planned = await this.#model.planInSlices(command.changes);
      if (!planned.ok) return planned;
      const problem = brought ? await inSlices(this.#model.refusing(brought.entities, planned.value)) : null;
      if (problem) return { ok: false, problem };
      const changes = brought ? await inSlices(withAll(planned.value, brought.entities, true)) : planned.value;
      const stored = await more;
      const made = await this.#beforeChange(planned.value);
      if (!made.ok) return made;
      try {
        const entry = { commandId: command.id, label: command.label, origin, at: this.time };
        const seq = await this.#store.commit(entry, planned.value, stored, brought);
        // Nobody waits for it, and what cannot be removed now is removed another time.
        if (seq % PRUNE_EVERY === 0) this.prune().catch((error: unknown) => console.error('What is no longer kept could not be removed:', error));
        return ok(await this.#apply(command.label, changes));
      } finally {
        made.value();
      }
    });
  }

  /** Undoes the last change that stands, or redoes the last one undone. Writes to devices and proofs are not changes. */
  step(direction: 'undo' | 'redo'): Promise<Result<Applied>> {
    return this.#inTurn(async () => {
      const refused = this.#refusal();
      if (refused) return { ok: false, problem: refused };
      const entry = await this.#store.next(direction);
      if (!entry) return fail(`nothing-to-${direction}`, `There is nothing to ${direction}.`);
      const logged = direction === 'undo' ? await inSlices(reversing(entry.changes)) : entry.changes;
      const changes = this.#model.withOwnNames([...logged, ...this.#model.groupsLeftBy(logged)]);
      const all = await inSlices(
        withAll(changes, direction === 'redo' ? (entry.pack?.entities ?? []) : this.#those(entry.members), direction === 'redo'),
      );
      const made = await this.#beforeChange(all);
      if (!made.ok) return made;
      try {
        await this.#store.commitAgain(entry, direction, changes);
        return ok(await this.#apply(`${direction}: ${entry.label}`, all));
      } finally {
        made.value();
      }
    });
  }

  /** What was brought packed, as it stands now: all that changed it since has been undone. */
  *#those(members: NextChange['members']): Generator<PackedEntity> {
    for (const { kind, id } of members) {
      const entity = this.#model.get(kind, id);
      if (entity) yield { kind, entity } as PackedEntity;
    }
  }

  history(limit: number): Promise<readonly LogEntry[]> {
    return this.#store.history(limit);
  }

  /** Removes what is no longer kept of the past, once the change before it is done. */
  prune(kept?: Kept): Promise<void> {
    return this.#inTurn(() => this.#store.prune(kept));
  }

  /** A large change is taken over in several turns of the loop, so that reading goes on between them. */
  async #apply(label: string, changes: readonly PlannedChange[]): Promise<Applied> {
    const breathes = changes.length > LARGE;
    // Between two slices a link or device must not run by the old settings while its tags have the new ones.
    if (breathes) this.#takeOff(linksIn(changes));
    const told: AppliedChange[] = [];
    const taking = this.#taking(changes, told);
    if (breathes) await inSlices(taking);
    else atOnce(taking);
    const applied: Applied = { revision: ++this.#revision, label, changes: told };
    const steps = [...this.#listeners].flatMap((listener) => listener(applied) ?? []);
    // The change stands: what follows from thousands of tags need not be waited for, only come before the next change.
    if (breathes) this.#following = this.#followSlowly(steps);
    else for (const each of steps) for (const _ of each) continue;
    return applied;
  }

  *#taking(changes: readonly PlannedChange[], told: AppliedChange[]): Generator<void, void> {
    for (let from = 0; from < changes.length; from += STEP) {
      const portion = changes.slice(from, from + STEP);
      this.#model.apply(portion);
      for (const { kind, id, after } of portion) told.push({ kind, id, after });
      yield;
    }
  }

  /** What goes wrong here is a bug that nobody waits for: it ends the process, as it would have ended the change. */
  async #followSlowly(steps: readonly Generator<void, void>[]): Promise<void> {
    try {
      for (const each of steps) {
        await nextTurn();
        await inSlices(each);
      }
    } catch (error) {
      setImmediate(() => {
        throw error;
      });
    }
  }

  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.#queue.then(work);
    this.#queue = turn.catch(() => undefined).then(() => this.#following);
    return turn;
  }
}

function* reversing(changes: readonly PlannedChange[]): Generator<void, readonly PlannedChange[]> {
  const reversed: PlannedChange[] = [];
  for (const { kind, id, before, after } of changes) {
    reversed.push({ kind, id, before: after, after: before });
    yield;
  }
  return reversed;
}

/** Links that are there and change, or whose devices do. */
function linksIn(changes: readonly PlannedChange[]): ReadonlySet<string> {
  const links = new Set<string>();
  for (const { kind, id, before, after } of changes) {
    if (kind === 'link' && before) links.add(id);
    if (kind === 'device') for (const device of [before, after] as readonly (Device | null)[]) if (device) links.add(device.linkId);
  }
  return links;
}

/** The changes with what was brought packed: it came, or is gone again. */
function* withAll(changes: readonly PlannedChange[], entities: Iterable<PackedEntity>, came: boolean): Generator<void, readonly PlannedChange[]> {
  const all = [...changes];
  for (const { kind, entity } of entities) {
    all.push({ kind, id: entity.id, before: came ? null : entity, after: came ? entity : null });
    if (all.length % SLICE === 0) yield;
  }
  return all;
}
