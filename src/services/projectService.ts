/** Every change of the project: checked by the model, stored with its log entry, then applied and told to all. */
import { v7 as uuid } from 'uuid';
import type { Command } from '@/core/project/entities.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import { inSlices, nextTurn } from '@/core/inSlices.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';
import type { Statement } from '@/store/protocol.ts';
import { SET_UP, type LogEntry, type ProjectStore } from '@/store/projectStore.ts';

/** Changes of one command above which it is taken over in several turns, so many in each. */
const LARGE = 200;

/** Hears of a change; work that may be done in slices is returned as steps. */
type Listener = (applied: Applied) => Generator<void, void> | void;

export class ProjectService {
  readonly #model: ProjectModel;
  readonly #store: ProjectStore;
  readonly #listeners = new Set<Listener>();
  #revision = 0;
  /** One change at a time. */
  #queue: Promise<unknown> = Promise.resolve();

  constructor(model: ProjectModel, store: ProjectStore) {
    this.#model = model;
    this.#store = store;
  }

  get revision(): number {
    return this.#revision;
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
   * @param more what is stored with it, in the same transaction
   */
  execute(command: Command, origin: string, more: readonly Statement[] = []): Promise<Result<Applied>> {
    return this.#inTurn(async () => {
      if (await this.#store.hasCommand(command.id)) return ok({ revision: this.#revision, label: command.label, changes: [] });
      const planned = await this.#model.planInSlices(command.changes);
      if (!planned.ok) return planned;
      await this.#store.commit({ commandId: command.id, label: command.label, origin, at: new Date().toISOString() }, planned.value, more);
      return ok(await this.#apply(command.label, planned.value));
    });
  }

  /** Undoes the last change that stands, or redoes the last one undone. Writes to devices and proofs are not changes. */
  step(way: 'undo' | 'redo'): Promise<Result<Applied>> {
    return this.#inTurn(async () => {
      const entry = await this.#store.next(way);
      if (!entry) return fail(`nothing-to-${way}`, `There is nothing to ${way}.`);
      const changes = entry.changes.map((c) => (way === 'undo' ? { ...c, before: c.after, after: c.before } : c));
      await this.#store.commitAgain(entry.seq, way, changes);
      return ok(await this.#apply(`${way}: ${entry.label}`, changes));
    });
  }

  history(limit: number): Promise<readonly LogEntry[]> {
    return this.#store.history(limit);
  }

  /** A large change is taken over in several turns of the loop, so that reading goes on between them. */
  async #apply(label: string, changes: readonly PlannedChange[]): Promise<Applied> {
    // Where a link or device changes, what runs and what is open for writing must follow in the same turn.
    const isSafe = changes.every(({ kind }) => kind !== 'link' && kind !== 'device');
    const breathes = changes.length > LARGE && isSafe;
    for (let from = 0; from < changes.length; from += LARGE) {
      if (breathes) await nextTurn();
      this.#model.apply(breathes ? changes.slice(from, from + LARGE) : changes);
      if (!breathes) break;
    }
    const applied: Applied = { revision: ++this.#revision, label, changes: changes.map(({ kind, id, after }) => ({ kind, id, after })) };
    for (const listener of this.#listeners) {
      if (breathes) await nextTurn();
      const steps = listener(applied);
      if (steps && breathes) await inSlices(steps);
      else if (steps) for (const _ of steps) continue;
    }
    if (breathes) await nextTurn();
    return applied;
  }

  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.#queue.then(work);
    this.#queue = turn.catch(() => undefined);
    return turn;
  }
}
