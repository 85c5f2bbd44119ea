/** The live channel of the bench: the whole project, and each change of it. */
import type { ServerChange, ServerHello, ServerPart, ServerProof } from '@/core/live/messages.ts';
import type { Applied, FirstSnapshot, Snapshot } from '@/core/project/snapshot.ts';
import { inSlices } from '@/core/inSlices.ts';
import type { Result } from '@/core/result.ts';
import { call } from './api.ts';
import { LiveClient, RECONNECT_MS } from './liveClient.ts';
import { ProjectView, type ComingProject } from './project.ts';

/** Changes, or tags of a project, above which a page works in slices. */
const LARGE = 2000;

export class ProjectClient extends LiveClient {
  project: ProjectView | null = null;
  /** Why the project could not be loaded, while it could not. */
  loadProblem: string | null = null;
  lastChangeAt: Date | null = null;
  /** The project after a large change, while what is asked of all its tags is worked out. */
  #coming: ProjectView | null = null;
  /** What has come of a large change. */
  #parts: { readonly revision: number; count: number; readonly coming: ComingProject } | null = null;
  #loading = false;
  /** Something changed while the project was being loaded, so what comes may be older than that. */
  #loadAgain = false;

  protected override greeted(hello: ServerHello, isAnother: boolean): void {
    if (isAnother || hello.revision !== (this.#coming ?? this.project)?.revision) void this.#load();
  }

  protected override told(message: ServerChange | ServerPart | ServerProof): void {
    if (message.kind === 'change') return this.#takeChange(message);
    if (message.kind === 'part') return this.#takePart(message);
    if (this.#loading) this.#loadAgain = true;
    if (this.#coming) this.#coming = this.#coming.withProof(message.proof);
    this.project = this.project?.withProof(message.proof) ?? null;
    this.tell();
  }

  /** Taken into tables of its own at once: all of them together would hold the page up. */
  #takePart({ revision, changes }: ServerPart): void {
    if (this.#parts?.revision !== revision) {
      const base = this.#coming ?? this.project;
      this.#parts = base?.revision === revision - 1 ? { revision, count: 0, coming: base.coming() } : null;
    }
    if (!this.#parts) return;
    this.#parts.count++;
    this.#parts.coming.take(changes);
  }

  /** A change whose parts did not all come would leave the page with less than there is. */
  #takeChange(message: ServerChange): void {
    const parts = this.#parts;
    this.#parts = null;
    if (message.parts === 0) return this.applyChanges(message);
    const known = this.#coming ?? this.project;
    if (known && message.revision <= known.revision) return;
    if (this.#loading) this.#loadAgain = true;
    if (!known || parts?.revision !== message.revision || parts.count !== message.parts || known.revision !== message.revision - 1)
      return void this.#load();
    parts.coming.take(message.changes);
    this.#follow(known.followedBy(message.revision, parts.coming), true);
  }

  /** Takes changes that the server confirmed; a gap means that something was missed. */
  applyChanges({ revision, changes, isShortened }: Applied): void {
    // Told by the live channel, part by part.
    if (isShortened) return;
    if (this.#loading) this.#loadAgain = true;
    const known = this.#coming ?? this.project;
    if (!known || revision <= known.revision) return;
    if (revision > known.revision + 1) {
      void this.#load();
      return;
    }
    this.#follow(known.withChanges(revision, changes), changes.length > LARGE);
  }

  #follow(next: ProjectView, isLarge: boolean): void {
    this.lastChangeAt = new Date();
    if (this.#coming) this.#coming = next;
    else if (isLarge) void this.#showSlowly(next);
    else this.#show(next);
  }

  #show(project: ProjectView): void {
    this.project = project;
    this.tell();
  }

  /** What is asked of all tags is worked out before the views ask it; what changes meanwhile comes along. */
  async #showSlowly(project: ProjectView): Promise<void> {
    for (let next = (this.#coming = project); ; next = this.#coming) {
      await inSlices(next.tallying());
      // The project was loaded anew meanwhile.
      if (this.#coming === null) return;
      if (this.#coming !== next) continue;
      this.#coming = null;
      return this.#show(next);
    }
  }

  async #load(): Promise<void> {
    if (this.#loading) {
      this.#loadAgain = true;
      return;
    }
    this.#loading = true;
    let loaded: Result<Snapshot>;
    if (!this.project) {
      const first = await call<FirstSnapshot>('GET', '/project?first=1');
      if (first.ok) {
        this.loadProblem = null;
        this.#show(ProjectView.of(first.value));
        if (!first.value.coming && !this.#loadAgain) {
          this.#loading = false;
          return;
        }
      }
    }
    do {
      this.#loadAgain = false;
      loaded = await call<Snapshot>('GET', '/project');
    } while (this.#loadAgain);
    this.#loading = false;
    this.#coming = null;
    if (loaded.ok) {
      const project = ProjectView.of(loaded.value);
      this.loadProblem = null;
      if (project.tagCount > LARGE) {
        void this.#showSlowly(project);
        return;
      }
      this.project = project;
    } else this.loadProblem = loaded.problem.message;
    this.tell();
    if (!loaded.ok) setTimeout(() => void this.#load(), RECONNECT_MS * 2);
  }
}
