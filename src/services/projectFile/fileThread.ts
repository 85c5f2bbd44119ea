/** The thread of one project file: a hundred thousand tags, or a file made to harm, must not hold up the engine's loop. */
import type { Change } from '@/core/project/command.ts';
import {
  compareProject,
  readProjectFile,
  writingProjectFile,
  type FiledProject,
  type PictureData,
  type ProjectFile,
} from '@/core/projectFile/projectFile.ts';
import { pluralOf } from '@/core/project/entities.ts';
import { listsOf } from '@/core/project/snapshot.ts';
import { ok } from '@/core/result.ts';
import { answerRequests } from '../threads/answering.ts';
import type { Compared, FileAsk, FileBytes, FileHead } from './fileMessages.ts';

/** Bytes of the file that go over at once. */
const PORTION_BYTES = 64_000;
/** Changes and proofs that go over at once: thousands would hold up the engine's loop. */
const PORTION = 250;

const things = new Map<keyof FiledProject, unknown[]>();
let file: ProjectFile | null = null;
const pictures: PictureData[] = [];
let changes: readonly Change[] = [];
let writing: Iterator<Uint8Array, void> = [][Symbol.iterator]();

async function answer(ask: FileAsk): Promise<unknown> {
  switch (ask.kind) {
    case 'things': {
      const known = things.get(ask.place) ?? [];
      things.set(ask.place, known);
      for (const thing of JSON.parse(ask.json) as unknown[]) known.push(thing);
      return null;
    }
    case 'picture':
      pictures.push(ask.picture);
      return null;
    case 'write':
      writing = writingProjectFile(project(), ask.exportedAt, pictures);
      return null;
    case 'bytes':
      return nextBytes();
    case 'read': {
      const read = readProjectFile(ask.zip);
      if (!read.ok) return read;
      file = read.value;
      return ok<FileHead>({ name: file.name, exportedAt: file.exportedAt, proofCount: file.proofs.length, pictureCount: file.pictures.length });
    }
    case 'compare': {
      if (!file) throw new Error('No file was read.');
      const compared = compareProject(project(), file);
      changes = compared.changes;
      return { differences: compared.differences, changeCount: changes.length } satisfies Compared;
    }
    case 'changes':
      return changes.slice(ask.from, ask.from + PORTION);
    case 'pictureAt':
      return file?.pictures[ask.at];
    case 'proofs':
      return file?.proofs.slice(ask.from, ask.from + PORTION) ?? [];
  }
}

/** What was told, put together. */
function project(): FiledProject {
  const [head] = (things.get('project') ?? []) as FiledProject['project'][];
  if (!head) throw new Error('The project was not told.');
  const told = (place: string): never => (things.get(place as keyof FiledProject) ?? []) as never;
  return { project: head, ...listsOf((kind) => told(pluralOf(kind))), proofs: told('proofs') };
}

function nextBytes(): FileBytes {
  const parts: Uint8Array[] = [];
  let length = 0;
  while (length < PORTION_BYTES) {
    const next = writing.next();
    if (next.done) return { bytes: Buffer.concat(parts), isLast: true };
    parts.push(next.value);
    length += next.value.length;
  }
  return { bytes: Buffer.concat(parts), isLast: false };
}

answerRequests(answer);
