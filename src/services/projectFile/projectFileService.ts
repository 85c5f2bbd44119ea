/** Exports the whole project to a file, and imports one as a single change that can be undone. Both in a thread. */
import { inSlices } from '@/core/inSlices.ts';
import type { FiledProof, Proof } from '@/core/check/proof.ts';
import type { Change } from '@/core/project/command.ts';
import type { Applied, Snapshot } from '@/core/project/snapshot.ts';
import type { Difference, FiledProject, PictureData } from '@/core/projectFile/projectFile.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { PictureStore } from '@/store/pictureStore.ts';
import type { StoredProof } from '@/store/trail.ts';
import type { Proofs } from '../checks/proofs.ts';
import type { ProjectService } from '../projectService.ts';
import { WorkThread } from '../threads/workThread.ts';
import type { Compared, FileAsk, FileBytes, FileHead } from './fileMessages.ts';

/** The largest file that is taken, unpacked and read, needs about one gigabyte. */
const LIMITS = { maxOldGenerationSizeMb: 2000 };
/** Files that are written or read at the same time. */
const AT_ONCE = 3;
/** Longest time that one may take, also where nobody fetches what is written. */
const LONGEST_MS = 180_000;
/** Things that are put into one message. */
const PORTION = 100;

export interface ProjectFilePreview {
  readonly name: string;
  readonly exportedAt: string;
  readonly differences: readonly Difference[];
  readonly newProofs: number;
}

type Ask = WorkThread<FileAsk>['ask'];

/** A file that was read, and what it comes down to here. */
interface Incoming extends FileHead, Pick<Compared, 'differences'> {
  readonly changes: readonly Change[];
  readonly news: readonly StoredProof[];
}

export class ProjectFileService {
  readonly #model: ProjectModel;
  readonly #projects: ProjectService;
  readonly #proofs: Proofs;
  readonly #snapshot: () => Snapshot;
  readonly #threadFile: string;
  readonly #backUp: () => Promise<Result<unknown>>;
  readonly #pictures: PictureStore;
  #running = 0;

  /**
   * @param threadFile the built thread of a project file
   * @param backUp makes a backup before everything is replaced
   */
  constructor(
    model: ProjectModel,
    projects: ProjectService,
    proofs: Proofs,
    snapshot: () => Snapshot,
    threadFile: string,
    backUp: () => Promise<Result<unknown>>,
    pictures: PictureStore,
  ) {
    this.#model = model;
    this.#projects = projects;
    this.#proofs = proofs;
    this.#snapshot = snapshot;
    this.#threadFile = threadFile;
    this.#backUp = backUp;
    this.#pictures = pictures;
  }

  /** The file as a stream, made as it is fetched. */
  async exportFile(): Promise<Result<{ readonly name: string; readonly zip: ReadableStream<Uint8Array> }>> {
    const thread = this.#begin();
    if (!thread.ok) return thread;
    const { ask, end } = thread.value;
    try {
      const snapshot = this.#snapshot();
      await this.#tell(ask, snapshot);
      for (const { digest, type } of snapshot.pictures) {
        const bytes = await this.#pictures.bytesOf(digest);
        if (bytes) await ask({ kind: 'picture', picture: { digest, type, bytes } });
      }
      await ask({ kind: 'write', exportedAt: this.#projects.time });
      return ok({ name: snapshot.project.name, zip: fetched(ask, end) });
    } catch (error) {
      end();
      throw error;
    }
  }

  /** What importing the file would do; nothing is changed. */
  preview(zip: Uint8Array): Promise<Result<ProjectFilePreview>> {
    return this.#reading(zip, async ({ name, exportedAt, differences, changes, news }) => {
      const planned = await this.#model.planInSlices(changes);
      return planned.ok ? ok({ name, exportedAt, differences, newProofs: news.length }) : planned;
    });
  }

  /** All or nothing. Proofs that come with it are added to the records, which are never undone. */
  importFile(zip: Uint8Array, commandId: string): Promise<Result<Applied>> {
    return this.#reading(zip, async ({ name, changes, news }, pictures) => {
      if (changes.length === 0 && news.length === 0) return fail('nothing-new', 'The project is the same as the file already.');
      // Everything may be replaced: undo takes it back, and a backup does where undo no longer reaches.
      const safe = changes.length > 0 ? await this.#backUp() : ok(null);
      if (!safe.ok) return safe;
      for await (const { digest, type, bytes } of pictures()) await this.#pictures.keep(digest, type, bytes);
      const label = `project ${name} imported`.slice(0, 200);
      const command = { id: commandId, label, changes };
      // Proofs alone are no change that could be undone.
      return changes.length > 0
        ? this.#proofs.addWith(news, (statements) => this.#projects.execute(command, 'engineer', statements))
        : this.#proofs.addAlone(news, { revision: this.#projects.revision, label, changes: [] });
    });
  }

  async #reading<T>(
    zip: Uint8Array,
    then: (incoming: Incoming, pictures: () => AsyncIterable<PictureData>) => Promise<Result<T>>,
  ): Promise<Result<T>> {
    const thread = this.#begin();
    if (!thread.ok) return thread;
    const { ask, end, isLate } = thread.value;
    try {
      const head = await ask<Result<FileHead>>({ kind: 'read', zip }, isWhole(zip) ? [zip.buffer] : []);
      if (!head.ok) return head;
      await this.#tell(ask, this.#snapshot());
      const { differences, changeCount } = await ask<Compared>({ kind: 'compare' });
      const changes = await gathered((from) => ask<readonly Change[]>({ kind: 'changes', from }), changeCount);
      const filed = await gathered((from) => ask<readonly FiledProof[]>({ kind: 'proofs', from }), head.value.proofCount);
      const { pictureCount } = head.value;
      async function* pictures(): AsyncGenerator<PictureData> {
        for (let at = 0; at < pictureCount; at++) yield await ask<PictureData>({ kind: 'pictureAt', at });
      }
      return await then({ ...head.value, differences, changes, news: await inSlices(this.#proofs.newsIn(filed)) }, pictures);
    } catch (error) {
      if (isLate())
        return fail('too-slow', `Reading the file took longer than ${LONGEST_MS / 60_000} minutes.`, 'Nothing was changed. Is it a project file?');
      throw error;
    } finally {
      end();
    }
  }

  /** Starts a thread that ends by itself where its work takes too long. */
  #begin(): Result<{ readonly ask: Ask; readonly end: () => void; readonly isLate: () => boolean }> {
    if (this.#running >= AT_ONCE)
      return fail('too-many', `${AT_ONCE} project files are written or read at the moment.`, 'Try again when one is done.');
    this.#running++;
    const thread = new WorkThread<FileAsk>(this.#threadFile, LIMITS);
    let isOver = false;
    const end = (): void => {
      if (isOver) return;
      isOver = true;
      this.#running--;
      clearTimeout(late);
      thread.end();
    };
    let isLate = false;
    const late = setTimeout(() => {
      isLate = true;
      end();
    }, LONGEST_MS);
    late.unref();
    return ok({ ask: <T>(what: FileAsk, give?: readonly ArrayBuffer[]) => thread.ask<T>(what, give), end, isLate: () => isLate });
  }

  /** Tells the thread the project as it stands, a portion at a time. */
  async #tell(ask: Ask, { project, revision: _revision, drivers: _drivers, proofs, ...lists }: Snapshot): Promise<void> {
    const all: FiledProject = { project, ...lists, proofs: [] };
    for (const [place, list] of Object.entries({ ...all, project: [project], proofs }) as [keyof FiledProject, readonly unknown[]][])
      for (let from = 0; from < list.length; from += PORTION) {
        const portion = list.slice(from, from + PORTION);
        const json = JSON.stringify(place === 'proofs' ? (portion as readonly Proof[]).map((proof) => this.#proofs.filed(proof)) : portion);
        await ask({ kind: 'things', place, json });
      }
  }
}

/** What is asked for in portions. */
async function gathered<T>(next: (from: number) => Promise<readonly T[]>, count: number): Promise<readonly T[]> {
  const all: T[] = [];
  while (all.length < count) for (const each of await next(all.length)) all.push(each);
  return all;
}

/** Bytes that the thread has ready when they are fetched; it ends with the last, or when nobody wants more. */
function fetched(ask: Ask, end: () => void): ReadableStream<Uint8Array> {
  return new ReadableStream({
    async pull(controller) {
      const { bytes, isLast } = await ask<FileBytes>({ kind: 'bytes' });
      controller.enqueue(bytes);
      if (!isLast) return;
      controller.close();
      end();
    },
    cancel: end,
  });
}

/** Whether nothing else lies in the memory of these bytes, so that it may be handed over. */
function isWhole(bytes: Uint8Array): bytes is Uint8Array<ArrayBuffer> {
  return bytes.buffer instanceof ArrayBuffer && bytes.byteLength === bytes.buffer.byteLength;
}
