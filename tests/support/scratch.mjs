/**
 * Where the data folders of a run lie, all in one folder that goes with it: in memory where there is enough of it, since a
 * database is a thousand small files.
 */
import { existsSync, mkdtempSync, rmSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const MEMORY = '/dev/shm';
/** More than the folders of all tests together, with room to work. */
const ENOUGH_BYTES = 12e9;

export default function setup() {
  process.env.MILL_LATCH_SCRATCH = mkdtempSync(join(hasRoom() ? MEMORY : tmpdir(), 'mill-latch-tests-'));
}

export function teardown() {
  rmSync(process.env.MILL_LATCH_SCRATCH ?? '', { recursive: true, force: true });
}

function hasRoom() {
  if (!existsSync(MEMORY)) return false;
  const { bavail, bsize } = statfsSync(MEMORY);
  return bavail * bsize > ENOUGH_BYTES;
}
