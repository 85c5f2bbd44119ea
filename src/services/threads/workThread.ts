/** A thread of long work as the server sees it: started, asked, ended at any moment. */
import { Worker, type ResourceLimits } from 'node:worker_threads';
import type { Numbered, Progress, ThreadReply } from './messages.ts';

export class WorkThread<Ask extends object> {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, { readonly resolve: (value: never) => void; readonly reject: (error: Error) => void }>();
  #nextId = 1;

  onProgress: Progress = () => undefined;

  /**
   * @param file the built thread
   * @param limits memory that its work may need; more is a file made to harm, and ends the thread
   */
  constructor(file: string, limits: ResourceLimits) {
    this.#worker = new Worker(file, { resourceLimits: limits });
    this.#worker.unref();
    const end = (error: Error): void => {
      for (const { reject } of this.#waiting.values()) reject(error);
      this.#waiting.clear();
    };
    this.#worker.on('error', end);
    this.#worker.on('messageerror', end);
    this.#worker.on('exit', () => end(new Error('The thread has ended.')));
    this.#worker.on('message', (message: ThreadReply) => {
      if (message.kind === 'progress') return this.onProgress(message.doing, message.part);
      const waiter = this.#waiting.get(message.id);
      this.#waiting.delete(message.id);
      if (message.kind === 'done') waiter?.resolve(message.value as never);
      else waiter?.reject(new Error(message.error));
    });
  }

  /** @param give buffers that are handed over, not copied */
  ask<T>(ask: Ask, give: readonly ArrayBuffer[] = []): Promise<T> {
    const id = this.#nextId++;
    return new Promise<T>((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject });
      this.#worker.postMessage({ ...ask, id } satisfies Numbered<Ask>, give);
    });
  }

  end(): void {
    void this.#worker.terminate();
  }
}
