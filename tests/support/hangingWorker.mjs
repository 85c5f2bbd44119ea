/** The store's thread, which hangs for good at a certain statement, as it does once its disk is full. */
import { parentPort } from 'node:worker_threads';

// A port that is listened to hands out its messages: the thread itself has to be there for the first.
await import(new URL('../../dist/storeWorker.mjs', import.meta.url));
parentPort.on('message', ({ statements = [] }) => {
  if (statements.some(({ sql }) => sql.includes('/* hang */'))) for (;;);
});
