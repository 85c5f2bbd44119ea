/** The other side: a thread that answers what it is asked. */
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';
import type { Numbered, Progress, ThreadReply } from './messages.ts';

const NICE = 10;

/** Answers requests from now on. @param answer gets what is asked, and may tell how far its work has come */
export function answerRequests<Ask extends object>(answer: (ask: Ask, progress: Progress) => Promise<unknown>): void {
  // On Linux this is the priority of the calling thread alone: where cores are few, the engine's loop goes first.
  if (process.platform === 'linux') setPriority(NICE);
  const port = parentPort;
  if (!port) throw new Error('This must be started as a worker thread.');
  const reply = (message: ThreadReply): void => port.postMessage(message);
  const progress: Progress = (doing, part) => reply({ kind: 'progress', doing, part });
  // A message that does not arrive whole has no number to be answered by: the thread ends, and that is told.
  port.on('messageerror', (error: Error) => {
    throw error;
  });
  port.on('message', (request: Numbered<Ask>) => {
    void answer(request, progress).then(
      (value) => reply({ kind: 'done', id: request.id, value }),
      (error: unknown) => reply({ kind: 'failed', id: request.id, error: error instanceof Error ? error.message : String(error) }),
    );
  });
}
