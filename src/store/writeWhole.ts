/** Writes a file so that it is there whole or as it was before, also after a power cut. */
import { open, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';

/** @throws Error when the disk is full, or the folder cannot be written */
export async function writeWhole(file: string, content: string | Uint8Array, mode = 0o644): Promise<void> {
  const draft = `${file}.new-${process.pid}`;
  try {
    const handle = await open(draft, 'w', mode);
    try {
      await handle.writeFile(content);
      await handle.sync();
    } finally {
      await handle.close();
    }
    await rename(draft, file);
    // What is written after it may rely on it, whatever happens to the power.
    const folder = await open(dirname(file), 'r');
    await folder.sync().finally(() => folder.close());
  } catch (error) {
    await rm(draft, { force: true });
    throw error;
  }
}
