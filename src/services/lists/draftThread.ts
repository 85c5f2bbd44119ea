/** The thread of one draft: reading a hundred thousand rows must not hold up the engine's loop. */
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';

import { LinePacker, pack, unpack } from '@/store/packed.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { Source } from '@/core/project/entities.ts';
import type { DraftDecisions, Outcome } from '@/core/taglist/draft.ts';
import { keyOf } from '@/core/taglist/merge.ts';
import { entityLines } from '@/store/packs.ts';
import { DraftWork } from './draftWork.ts';
import { entitiesOf } from './newTags.ts';
import type { NewLines, PackedOutcome, ThreadOutcome, ThreadReply, ThreadRequest } from './draftMessages.ts';

const NICE = 10;
// On Linux this is the priority of the calling thread alone: where cores are few, the engine's loop goes first.
if (process.platform === 'linux') setPriority(NICE);

const port = parentPort;
if (!port) throw new Error('The thread of a draft must be started as a worker thread.');
const reply = (message: ThreadReply): void => port.postMessage(message);

/** Outcomes that go over in one message: thousands at once would hold up the engine's loop. */
const PORTION = 250;
/** Lines of a hundred that go over in one message. */
const LINES = 6;
const LATER: Pick<ListTag, 'initial' | 'names' | 'within'> = { initial: '', names: [], within: [] };
let work: DraftWork | null = null;
let outcomes: readonly Outcome[] = [];
/** New tags and scales, packed as they go over. */
let lines: Iterator<string, undefined> = [].values();
let packer = new LinePacker();
let version: readonly ListTag[] = [];

/** Fields that came later than the first versions that were kept. */
async function versionOf(packed: string): Promise<readonly ListTag[]> {
  return (await unpack<ListTag>(packed)).map((tag) => ({ ...LATER, ...tag }));
}

async function answer(request: ThreadRequest): Promise<unknown> {
  switch (request.kind) {
    case 'open':
      work = new DraftWork(request.bytes, request.device, request.before === null ? [] : await versionOf(request.before));
      return null;
    case 'taken':
      work?.take(request.names);
      return null;
    case 'read':
      return work?.read(request.choices, (doing, part) => reply({ kind: 'progress', doing, part }));
    case 'compare':
      return work?.compare(await versionOf(request.after));
    case 'tree':
      return work?.tree(request.node);
    case 'rows':
      return work?.rows(request.part, request.from, request.count);
    case 'outcome':
      return decide(request.decisions, request.source, new Set(request.kept));
    case 'outcomes':
      return outcomes.slice(request.from, request.from + PORTION);
    case 'lines':
      return nextLines();
    case 'packed': {
      const [packed, packedVersion] = await Promise.all([packer.end(), pack(version)]);
      return { entities: packed, version: packedVersion } satisfies PackedOutcome;
    }
  }
}

function decide(decisions: DraftDecisions, source: Pick<Source, 'id' | 'deviceId'>, kept: ReadonlySet<string>): ThreadOutcome {
  const decided = work?.outcome(decisions) ?? { outcomes: [], version: [] };
  const rest: Outcome[] = [];
  const made: ListTag[] = [];
  for (const outcome of decided.outcomes)
    if (outcome.kind === 'new' && !kept.has(keyOf(outcome.tag))) made.push(outcome.tag);
    else rest.push(outcome);
  [outcomes, lines, version] = [rest, entityLines(entitiesOf(made, source)), decided.version];
  packer = new LinePacker();
  return { count: rest.length, newCount: made.length, versionCount: version.length };
}

/** As text: taking objects over takes the engine's loop longer than reading them there. */
async function nextLines(): Promise<NewLines> {
  const taken: string[] = [];
  while (taken.length < LINES) {
    const next = lines.next();
    if (next.done) return { lines: taken, isLast: true };
    taken.push(next.value);
    await packer.write(next.value);
  }
  return { lines: taken, isLast: false };
}

// A message that does not arrive whole has no number to be answered by: the thread ends, and that is told.
port.on('messageerror', (error: Error) => {
  throw error;
});
port.on('message', (request: ThreadRequest) => {
  void answer(request).then(
    (value) => reply({ kind: 'done', id: request.id, value }),
    (error: unknown) => reply({ kind: 'failed', id: request.id, error: error instanceof Error ? error.message : String(error) }),
  );
});
