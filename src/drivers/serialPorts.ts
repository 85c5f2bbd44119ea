/** What serial ports this machine has. */
import { readdir, readlink } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { loadSerialPort } from './serialLibrary.ts';

interface SystemPort {
  readonly path: string;
  readonly manufacturer?: string;
}

export interface ListedPort {
  /** The name that stays when adapters are plugged in another order. */
  readonly path: string;
  readonly label: string;
}

/** The serial ports of this machine, by stable names where the system has them. */
export async function listSerialPorts(): Promise<readonly ListedPort[]> {
  const stable = await stableNames('/dev/serial/by-id');
  const ports = await loadSerialPort()
    .then((library) => library.list() as Promise<readonly SystemPort[]>)
    .catch((): readonly SystemPort[] => []);
  const listed = ports.map(({ path, manufacturer }) => ({ path: stable.get(path) ?? path, label: [path, manufacturer].filter(Boolean).join(' · ') }));
  const missing = [...stable].filter(([path]) => !ports.some((p) => p.path === path)).map(([path, name]) => ({ path: name, label: path }));
  return [...listed, ...missing];
}

/** Device path → stable name. */
async function stableNames(folder: string): Promise<ReadonlyMap<string, string>> {
  const names = await readdir(folder).catch(() => []);
  const pairs = names.map(async (name) => [resolve(folder, await readlink(join(folder, name))), join(folder, name)] as const);
  return new Map(await Promise.all(pairs));
}
