/**
 * What a panel host keeps of what it was sent: whole project files, and one small file that says which of them runs. A new project is
 * on the disk before that file names it, and the one before stays until the new one has run for a while, so that after a kill or a
 * power cut at any moment one of the two runs whole.
 */
import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Hosted, RolledBack } from '@/core/hosting/messages.ts';
import { isObject, JsonFile } from '@/store/files/jsonFile.ts';
import { writeWhole } from '@/store/writeWhole.ts';

export interface PairedBench {
  readonly id: string;
  readonly name: string;
  /** In base64. */
  readonly key: string;
  readonly pairedAt: string;
}

interface Identity {
  readonly id: string;
  readonly name: string;
  readonly benches: readonly PairedBench[];
}

interface Current {
  readonly now: Hosted | null;
  /** What ran before, as long as it may come back. */
  readonly before: Hosted | null;
  /** How often the new one was started since it came; null once it has shown that it runs. */
  readonly tries: number | null;
  readonly rolledBack: RolledBack | null;
}

const NOTHING: Current = { now: null, before: null, tries: null, rolledBack: null };

export class HostFolder {
  readonly path: string;
  readonly #identity: JsonFile<Identity>;
  readonly #current: JsonFile<Current>;

  private constructor(path: string, identity: JsonFile<Identity>, current: JsonFile<Current>) {
    this.path = path;
    this.#identity = identity;
    this.#current = current;
  }

  /** @param name of a host that has none yet */
  static async open(path: string, name: string): Promise<HostFolder> {
    await mkdir(join(path, 'projects'), { recursive: true });
    const isIdentity = (value: unknown): boolean => isObject(value) && typeof value.id === 'string' && Array.isArray(value.benches);
    const identity = await JsonFile.open<Identity>(join(path, 'host.json'), { id: '', name: '', benches: [] }, isIdentity);
    if (identity.value.id === '') await identity.change(() => ({ id: randomUUID(), name, benches: [] }));
    const isCurrent = (value: unknown): boolean => isObject(value) && 'now' in value && 'before' in value;
    return new HostFolder(path, identity, await JsonFile.open<Current>(join(path, 'current.json'), NOTHING, isCurrent));
  }

  get identity(): Identity {
    return this.#identity.value;
  }

  get current(): Current {
    return this.#current.value;
  }

  rename(name: string): Promise<void> {
    return this.#identity.change((all) => ({ ...all, name }));
  }

  /** A bench that is paired again takes the place that it had. */
  pair(bench: PairedBench): Promise<void> {
    return this.#identity.change((all) => ({ ...all, benches: [...all.benches.filter(({ id }) => id !== bench.id), bench] }));
  }

  unpair(benchId: string): Promise<void> {
    return this.#identity.change((all) => ({ ...all, benches: all.benches.filter(({ id }) => id !== benchId) }));
  }

  projectFile(digest: string): Promise<Uint8Array> {
    return readFile(this.#fileOf(digest));
  }

  /** From here on it is the one that runs, until it is seen not to. @throws Error when the disk is full: nothing has changed then */
  async take(hosted: Hosted, zip: Uint8Array): Promise<void> {
    await writeWhole(this.#fileOf(hosted.digest), zip, 0o600);
    await this.#current.change(({ now }) => ({ now: hosted, before: now, tries: 0, rolledBack: null }));
  }

  /** A start of one that has not shown yet that it runs. */
  async tried(): Promise<void> {
    await this.#current.change((all) => ({ ...all, tries: (all.tries ?? 0) + 1 }));
  }

  /** It was ended in order: that was no start that failed. */
  async untried(): Promise<void> {
    await this.#current.change((all) => ({ ...all, tries: all.tries === null ? null : Math.max(0, all.tries - 1) }));
  }

  /** It runs. What came before it is kept, to go back to. */
  async settle(): Promise<void> {
    await this.#current.change((all) => ({ ...all, tries: null }));
    const { now, before } = this.current;
    const named = new Set([now, before].flatMap((one) => (one ? [`${one.digest}.zip`] : [])));
    for (const file of await readdir(join(this.path, 'projects'))) if (!named.has(file)) await rm(join(this.path, 'projects', file), { force: true });
  }

  /** The one before runs again; nothing, where there was none. */
  async rollBack(why: string, at: string): Promise<void> {
    await this.#current.change(({ now, before }) => ({
      now: before,
      before: null,
      tries: null,
      rolledBack: now ? { digest: now.digest, why, at } : null,
    }));
  }

  /** The two change places: a person wants the one before. */
  async swap(): Promise<void> {
    await this.#current.change(({ now, before }) => ({ now: before, before: now, tries: 0, rolledBack: null }));
  }

  #fileOf(digest: string): string {
    return join(this.path, 'projects', `${digest}.zip`);
  }
}
