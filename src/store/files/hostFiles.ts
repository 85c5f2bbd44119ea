/** What a panel host keeps in small files of its own: stored sets, PINs, secrets, who may join, pictures, what was done. */
import { join } from 'node:path';
import type { AuditKind } from '@/core/live/auditEntry.ts';
import type { NetworkSettings, PeerRights } from '@/core/live/network.ts';
import type { StoredSet } from '@/core/panel/storedSet.ts';
import type { PictureType } from '@/core/picture/picture.ts';
import type { StoredPeer } from '../networkStore.ts';
import type { PinRows, StoredPin } from '../pinStore.ts';
import type { SecretRows } from '../secretBox.ts';
import { isObject, JsonFile } from './jsonFile.ts';
import { JsonLines } from './jsonLines.ts';

type ByName<T> = Readonly<Record<string, T>>;

export class SetFile {
  readonly #file: JsonFile<ByName<readonly StoredSet[]>>;

  private constructor(file: JsonFile<ByName<readonly StoredSet[]>>) {
    this.#file = file;
  }

  static async open(folder: string): Promise<SetFile> {
    return new SetFile(await JsonFile.open(join(folder, 'sets.json'), {}, isObject));
  }

  /** By name. */
  async list(list: string): Promise<readonly StoredSet[]> {
    return this.#file.value[list.toLowerCase()] ?? [];
  }

  /** In the place of the one of its name. */
  keep(list: string, set: StoredSet): Promise<void> {
    const key = set.name.toLowerCase();
    return this.#file.change((all) => {
      const others = (all[list.toLowerCase()] ?? []).filter(({ name }) => name.toLowerCase() !== key);
      const sorted = [...others, set].sort((a, b) => a.name.toLowerCase().localeCompare(b.name.toLowerCase(), 'en'));
      return { ...all, [list.toLowerCase()]: sorted };
    });
  }

  remove(id: string): Promise<void> {
    return this.#file.change((all) => Object.fromEntries(Object.entries(all).map(([list, sets]) => [list, sets.filter((set) => set.id !== id)])));
  }
}

/** PINs by the ids of people. */
export async function pinFile(folder: string): Promise<PinRows> {
  const file = await JsonFile.open<ByName<StoredPin>>(join(folder, 'pins.json'), {}, isObject);
  return {
    ids: async () => Object.keys(file.value),
    get: async (id) => (Object.hasOwn(file.value, id) ? (file.value[id] ?? null) : null),
    put: (id, pin) => file.change((all) => ({ ...all, [id]: pin })),
  };
}

/** Sealed secrets by their ids. */
export async function secretFile(folder: string): Promise<SecretRows> {
  const file = await JsonFile.open<ByName<string>>(join(folder, 'secrets.json'), {}, isObject);
  return {
    all: async () => Object.entries(file.value),
    add: (id, sealed) => file.change((all) => ({ ...all, [id]: sealed })),
  };
}

interface Network {
  readonly settings: NetworkSettings | null;
  readonly peers: readonly StoredPeer[];
}

export class NetworkFile {
  readonly #file: JsonFile<Network>;

  private constructor(file: JsonFile<Network>) {
    this.#file = file;
  }

  static async open(folder: string): Promise<NetworkFile> {
    const isOne = (value: unknown): boolean => isObject(value) && Array.isArray(value.peers);
    return new NetworkFile(await JsonFile.open(join(folder, 'network.json'), { settings: null, peers: [] }, isOne));
  }

  async settings(): Promise<NetworkSettings | null> {
    return this.#file.value.settings;
  }
  saveSettings(settings: NetworkSettings): Promise<void> {
    return this.#file.change((all) => ({ ...all, settings }));
  }
  async peers(): Promise<readonly StoredPeer[]> {
    return this.#file.value.peers;
  }
  addPeer(peer: StoredPeer): Promise<void> {
    return this.#file.change((all) => ({ ...all, peers: [...all.peers, peer] }));
  }
  updatePeer(id: string, rights: PeerRights, seenAt: string): Promise<void> {
    return this.#file.change((all) => ({ ...all, peers: all.peers.map((peer) => (peer.id === id ? { ...peer, rights, seenAt } : peer)) }));
  }
  removePeer(id: string): Promise<void> {
    return this.#file.change((all) => ({ ...all, peers: all.peers.filter((peer) => peer.id !== id) }));
  }
}

/** The pictures of what runs: they come with it, and are read from its file when it is loaded. */
export class PicturesInMemory {
  readonly #bytes = new Map<string, Uint8Array>();

  async keep(digest: string, _type: PictureType, bytes: Uint8Array): Promise<void> {
    this.#bytes.set(digest, bytes);
  }

  async bytesOf(digest: string): Promise<Uint8Array<ArrayBuffer> | null> {
    const kept = this.#bytes.get(digest);
    return kept ? new Uint8Array(kept) : null;
  }
}

const LONGEST = 500;

/** What was done at the host and to it. */
export class AuditFile {
  readonly #log: JsonLines;

  private constructor(log: JsonLines) {
    this.#log = log;
  }

  static async open(folder: string): Promise<AuditFile> {
    return new AuditFile((await JsonLines.open(folder, 'audit', { linesInFile: 5000, files: 10 })).log);
  }

  readonly record = (kind: AuditKind, who: string, detail: string): void => {
    const entry = { at: new Date().toISOString(), kind, who, detail: detail.slice(0, LONGEST) };
    this.#log.append(entry).catch((error: unknown) => console.error(`Not in the audit trail: ${Object.values(entry).join(' · ')}:`, error));
  };

  close(): Promise<void> {
    return this.#log.close();
  }
}
