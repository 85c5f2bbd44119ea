/** The thread of one draft: reading a hundred thousand rows must not hold up the engine's loop. */
import { parentPort } from 'node:worker_threads';
import { pack, unpack } from '@/store/packed.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { Outcome } from '@/core/taglist/draft.ts';
import { DraftWork } from './draftWork.ts';
import type { ThreadReply, ThreadRequest } from './draftMessages.ts';

const port = parentPort;
if (!port) throw new Error('The thread of a draft must be started as a worker thread.');
const reply = (message: ThreadReply): void => port.postMessage(message);

/** Outcomes that go over in one message: thousands at once would hold up the engine's loop. */
const PORTION = 250;
let work: DraftWork | null = null;
let outcomes: readonly Outcome[] = [];

async function answer(request: ThreadRequest): Promise<unknown> {
  switch (request.kind) {
    case 'open':
      work = new DraftWork(request.bytes, request.device, request.before === null ? [] : await unpack<ListTag>(request.before));
      return null;
    case 'taken':
      work?.take(request.names);
      return null;
    case 'read':
      return work?.read(request.choices, (doing, part) => reply({ kind: 'progress', doing, part }));
    case 'rows':
      return work?.rows(request.part, request.from, request.count);
    case 'outcome': {
      const decided = work?.outcome(request.decisions);
      outcomes = decided?.outcomes ?? [];
      return { count: outcomes.length, versionCount: decided?.version.length ?? 0, version: await pack(decided?.version ?? []) };
    }
    case 'outcomes':
      return outcomes.slice(request.from, request.from + PORTION);
  }
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
