/** The store's thread, which hangs for good at a certain statement, as it does once its disk is full. */
import { parentPort } from 'node:worker_threads';

parentPort.on('message', ({ statements = [] }) => {
  if (statements.some(({ sql }) => sql.includes('/* hang */'))) for (;;);
});
await import(new URL('../../dist/storeWorker.mjs', import.meta.url));
