import { statfs } from 'node:fs/promises';

/** Room on the disk that a folder is on, for programs without special rights. */
export async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}
