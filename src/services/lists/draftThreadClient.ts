/** The thread of one draft as the server sees it: started, asked, ended at any moment. */
import { Worker } from 'node:worker_threads';
import type { ThreadAsk, ThreadReply, ThreadRequest } from './draftMessages.ts';
import type { Progress } from './draftWork.ts';

/** A list of the largest size needs a few gigabytes; more is a file made to harm. */
const MAX_HEAP_MB = 4000;
/** Rows by the hundred thousand live on: a small nursery would copy them again and again. */
const YOUNG_MB = 192;

export class DraftThread {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, { readonly resolve: (value: never) => void; readonly reject: (error: Error) => void }>();
  #nextId = 1;

  onProgress: Progress = () => undefined;

  /** @param file the built thread */
  constructor(file: string) {
    this.#worker = new Worker(file, { resourceLimits: { maxOldGenerationSizeMb: MAX_HEAP_MB, maxYoungGenerationSizeMb: YOUNG_MB } });
    this.#worker.unref();
    const end = (error: Error): void => {
      for (const { reject } of this.#waiting.values()) reject(error);
      this.#waiting.clear();
    };
    this.#worker.on('error', end);
    this.#worker.on('messageerror', end);
    this.#worker.on('exit', () => end(new Error('The thread of the list has ended.')));
    this.#worker.on('message', (message: ThreadReply) => {
      if (message.kind === 'progress') return this.onProgress(message.doing, message.part);
      const waiter = this.#waiting.get(message.id);
      this.#waiting.delete(message.id);
      if (message.kind === 'done') waiter?.resolve(message.value as never);
      else waiter?.reject(new Error(message.error));
    });
  }

  /** @param give buffers that are handed over, not copied */
  ask<T>(ask: ThreadAsk, give: readonly ArrayBuffer[] = []): Promise<T> {
    const id = this.#nextId++;
    return new Promise<T>((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject });
      this.#worker.postMessage({ ...ask, id } satisfies ThreadRequest, give);
    });
  }

  end(): void {
    void this.#worker.terminate();
  }
}
