/** Writes a file so that it is there whole or as it was before, also after a power cut. */
import { open, rename, rm } from 'node:fs/promises';

/** @throws Error when the disk is full, or the folder cannot be written */
export async function writeWhole(file: string, text: string, mode = 0o644): Promise<void> {
  const draft = `${file}.new-${process.pid}`;
  try {
    const handle = await open(draft, 'w', mode);
    try {
      await handle.writeFile(text);
      await handle.sync();
    } finally {
      await handle.close();
    }
    await rename(draft, file);
  } catch (error) {
    await rm(draft, { force: true });
    throw error;
  }
}
