/**
 * The one process: HTTP server, Next's pages, live channel and engine.
 * node dist/server.mjs [--data FOLDER] [--port N] [--restore BACKUP] [--as-it-is] [--started-again WHY] [--dev]
 *   [--demo-kiln PORT,CONTROL] [--demo-rolls PORT,CONTROL] [--demo-weigh PORT,CONTROL,FINGERPRINT] [--demo-pack PORT,CONTROL]
 */
import { NIL } from 'uuid';
import { existsSync } from 'node:fs';
import { createServer } from 'node:http';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import type { Result } from '@/core/result.ts';
import { systemClock } from '@/runtime/clock.ts';
import { createServices } from '@/services/services.ts';
import { askForRestore, listBackups } from '@/store/backups.ts';
import { Database } from '@/store/database.ts';
import { DamagedFolder } from '@/store/tallies.ts';
import { setUpDemoDevice } from './demo/device.ts';
import { setUpDemo } from './demo/kiln.ts';
import { demoPlace } from './demo/link.ts';
import { PACK } from './demo/pack.ts';
import { setUpLine } from './demo/line.ts';
import { setUpRolls } from './demo/rolls.ts';
import { WEIGH } from './demo/weigh.ts';
import { backupsInWords, damagedInWords } from './damagedInWords.ts';
import { claimFolder } from './folderClaim.ts';
import { lockFolder } from './folderLock.ts';
import { httpServer } from './httpServer.ts';
import { LanServer } from './lanServer.ts';
import { STATIC_PATH, staticFilesUnder } from './staticFiles.ts';
import { LiveChannel } from './liveChannel.ts';

/** Exit code that asks the command that started this process to start it again. */
const START_AGAIN = 75;
/** Exit code that says that the data folder is damaged: starting again would not help. */
const DAMAGED = 76;
/** Longest time that the database may take to close. */
const STORE_CLOSING_MS = 6000;
/** After its start the server has better to do than to get ready for lists. */
const WARM_MS = 10_000;
/** Longest time that a device which does not answer may keep the server from ending, once nothing is held any more. */
const CLOSING_MS = 2000;
/** After this time it is said what the server still waits for. */
const PATIENCE_MS = 1000;
const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values: args } = parseArgs({
  options: {
    data: { type: 'string' },
    port: { type: 'string', default: '4780' },
    dev: { type: 'boolean', default: false },
    'demo-kiln': { type: 'string' },
    'demo-rolls': { type: 'string' },
    'demo-weigh': { type: 'string' },
    'demo-pack': { type: 'string' },
    'with-parent': { type: 'boolean', default: false },
    restore: { type: 'string' },
    'as-it-is': { type: 'boolean', default: false },
    'started-again': { type: 'string', default: '' },
  },
});

// Where nobody reads any more what it says, it says it to nobody: an error for that would be said again, and so on for ever.
for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);
// Next listens for what is not caught and goes on, which is right for one request, and not for a server that is not up yet.
let isUp = false;
const notStarted = (error: unknown): void => {
  if (!isUp) stop(`Mill Latch could not start: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
};
process.on('unhandledRejection', notStarted);
process.on('uncaughtException', notStarted);
if (args['with-parent']) {
  process.stdin.on('end', () => (isUp ? end() : process.exit(1)));
  process.stdin.resume();
}

const folder = args.data ?? process.env.MILL_LATCH_DATA ?? join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local/share'), 'mill-latch');
const port = Number(args.port);
if (!Number.isInteger(port) || port < 1 || port > 65535) stop(`The port must be a whole number from 1 to 65535, not “${args.port}”.`);

const held = lockFolder(folder);
if (!held.ok) stop(`${held.problem.message} ${held.problem.remedy ?? ''}`);
const lock = held.value;
const claimed = await claimFolder(folder);
if (!claimed.ok) {
  lock.release();
  stop(`${claimed.problem.message} ${claimed.problem.remedy ?? ''}`);
}

const built = (name: string): string => join(root, 'dist', name);
if (!existsSync(built('storeWorker.mjs'))) stop('The server is not built yet: run npm run build.');
// Pages and data are made ready at the same time, the data first: it takes longest.
const files = { worker: built('storeWorker.mjs'), migrations: built('migrations'), template: built('db-template') };
if (args.restore !== undefined) {
  const asked = await askForRestore(folder, args.restore === 'newest' ? ((await listBackups(folder))[0]?.name ?? '') : args.restore);
  if (!asked.ok) {
    lock.release();
    stop(`${asked.problem.message} ${await backupsInWords(folder)}`);
  }
}
const opening = Database.open(folder, files, { asItIs: args['as-it-is'] });
opening.catch(() => undefined);
const { default: next } = await import('next');
// Next would listen for upgrades on our server and end the sockets of the live channel; it gets a server of its own to do so.
const app = next({ dev: args.dev, dir: root, hostname: '127.0.0.1', port, httpServer: createServer() });
const preparing = app.prepare();

const database = await opening.catch(async (error: unknown) => {
  lock.release();
  if (error instanceof DamagedFolder) return stop(await damagedInWords(error, folder), DAMAGED);
  return stop(`The data folder ${folder} could not be opened: ${error instanceof Error ? error.message : String(error)}`);
});

const lan = new LanServer(port, () => httpServer({ ...serving, remote: true }));
const channel = new LiveChannel();
const services = await createServices(database, systemClock, (tagId) => channel.askPages(tagId), {
  folder,
  port,
  restart: () => setTimeout(() => end(START_AGAIN), 100),
  listen: (address) => listenOn(address),
  draftThread: built('draftThread.mjs'),
  fileThread: built('fileThread.mjs'),
  startedAgain: args['started-again'],
});
setTimeout(() => services.lists.warm(), WARM_MS).unref();
// The first panel that is opened does not wait until pages of panels can be made.
if (!args.dev) setTimeout(() => void fetch(`http://127.0.0.1:${port}/panel/${NIL}`).catch(() => undefined), WARM_MS).unref();
const demo = join(root, 'demo');
const { 'demo-kiln': kiln, 'demo-rolls': rolls, 'demo-weigh': weigh, 'demo-pack': pack } = args;
const isNew = services.model.all('device').length === 0;
const setUp = [
  kiln ? await setUpDemo(services, demo, demoPlace(kiln)) : null,
  rolls ? await setUpRolls(services, demo, demoPlace(rolls)) : null,
  weigh ? await setUpDemoDevice(services, demo, WEIGH, demoPlace(weigh)) : null,
  pack ? await setUpDemoDevice(services, demo, PACK, demoPlace(pack)) : null,
  isNew && kiln && rolls ? await setUpLine(services) : null,
];
for (const done of setUp) if (done && !done.ok) console.error(`The demo project is not complete: ${done.problem.message}`);
// Route handlers live in Next's own bundle: this is how they reach the one set of services.
(globalThis as Record<symbol, unknown>)[Symbol.for('mill-latch.services')] = services;
channel.begin(services);

await preparing;
const handle = app.getRequestHandler();
const upgradeInNext = args.dev ? app.getUpgradeHandler() : null;

const statics = args.dev ? null : { path: STATIC_PATH, serve: staticFilesUnder(join(root, '.next/static'), STATIC_PATH) };

const serving = { port, isDev: args.dev, services, channel, handle, statics, upgradeInNext };
const server = httpServer({ ...serving, remote: false });
server.on('error', (error: NodeJS.ErrnoException) => {
  lock.release();
  stop(error.code === 'EADDRINUSE' ? `Port ${port} is in use. Choose another with --port.` : `The server cannot listen: ${error.message}`);
});
server.listen(port, '127.0.0.1', () => {
  isUp = true;
  console.log(JSON.stringify({ ready: true, address: `http://127.0.0.1:${port}`, folder }));
});

services.network.onPeerChanged((peerId) => channel.dropPeer(peerId));
const closed = await services.network.resume();
if (closed) console.error(`The server is no longer open to the network: ${closed.message}`);

/** What others have open ends with what they may. */
function listenOn(address: string | null): Promise<Result<null>> {
  channel.dropPeer(null);
  return lan.listen(address);
}

let ending = false;
function end(code = 0): void {
  if (ending) return;
  ending = true;
  void (async () => {
    // What is held on is let go first, as late as its line allows: an engineer who cannot wait can end the process.
    const told = setTimeout(() => console.error(`Waiting for ${services.holds.active.length} held buttons to be let go …`), PATIENCE_MS);
    await services.holds.releaseAll('Released: the server ends.');
    clearTimeout(told);
    // A device that does not answer must not keep the server: its write stays in the log as one of which nobody knows.
    await Promise.race([services.close(), new Promise((resolve) => setTimeout(resolve, CLOSING_MS))]);
    channel.close();
    lan.end();
    server.close();
    server.closeAllConnections();
    // One that gives no answer is not waited for.
    await Promise.race([database.close(), new Promise((resolve) => setTimeout(resolve, STORE_CLOSING_MS))]);
  })()
    .catch((error: unknown) => console.error('Not everything could be ended in order:', error))
    .finally(() => {
      lock.release();
      process.exit(code);
    });
}
process.on('SIGTERM', () => end());
process.on('SIGINT', () => end());

function stop(message: string, code = 1): never {
  console.error(message);
  process.exit(code);
}
