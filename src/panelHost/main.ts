/**
 * A program of its own for the machine: one panel, its links, its kept values. No database, no pages but the panel's.
 * node dist/panelHost.mjs [--data FOLDER] [--port N] [--name NAME] [--address ADDRESS] [--steady SECONDS] [--with-parent]
 */
import { readFileSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { homedir, hostname } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { HOST_PORT } from '@/core/hosting/messages.ts';
import { plainPath } from '@/core/live/remoteAccess.ts';
import type { Result } from '@/core/result.ts';
import { systemClock } from '@/runtime/clock.ts';
import { claimFolder } from '@/server/folderClaim.ts';
import { lockFolder } from '@/server/folderLock.ts';
import { httpServer } from '@/server/httpServer.ts';
import { LanServer } from '@/server/lanServer.ts';
import { staticFilesUnder } from '@/server/staticFiles.ts';
import { NetworkService } from '@/services/networkService.ts';
import { answerWith } from './answering.ts';
import { HostFolder } from './hostFolder.ts';
import { openHostFiles } from './hostFiles.ts';
import { answerHost, HOST_PATH, isForBenches } from './hostRoutes.ts';
import { GLASS_PATH, pageText, type Built, type HostPage } from './pages.ts';
import { PanelHost } from './panelHost.ts';
import { findRoute } from './routes.ts';
import type { Running } from './running.ts';

/** Longest time that a device which does not answer may keep the program from ending. */
const CLOSING_MS = 2000;
/** How often a network that was not there at the start is looked for. */
const NETWORK_MS = 5000;
const root = dirname(dirname(fileURLToPath(import.meta.url)));
const { values: args } = parseArgs({
  options: {
    data: { type: 'string' },
    port: { type: 'string', default: String(HOST_PORT) },
    name: { type: 'string' },
    address: { type: 'string' },
    steady: { type: 'string', default: '10' },
    'with-parent': { type: 'boolean', default: false },
  },
});
for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);
if (args['with-parent']) {
  process.stdin.on('end', () => end());
  process.stdin.resume();
}

const path = args.data ?? process.env.MILL_LATCH_PANEL ?? join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local/share'), 'mill-latch-panel');
const port = Number(args.port);
if (!Number.isInteger(port) || port < 1 || port > 65535) stop(`The port must be a whole number from 1 to 65535, not “${args.port}”.`);
const steadyMs = Number(args.steady) * 1000;
if (!(steadyMs >= 0 && steadyMs <= 3_600_000)) stop(`--steady is a number of seconds up to 3600, not “${args.steady}”.`);
const held = lockFolder(path);
if (!held.ok) stop(`${held.problem.message} ${held.problem.remedy ?? ''}`);
const lock = held.value;
const claimed = await claimFolder(path);
if (!claimed.ok) {
  lock.release();
  stop(`${claimed.problem.message} ${claimed.problem.remedy ?? ''}`);
}

const folder = await HostFolder.open(path, (args.name ?? hostname()).slice(0, 60));
const files = await openHostFiles(path);
const program = (JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as { readonly version: string }).version;
const built = JSON.parse(readFileSync(join(root, 'dist/glass/built.json'), 'utf8')) as Built;
const icon = readFileSync(join(root, 'src/app/icon.svg'));

const lan = new LanServer(port, () => httpServer({ ...serving, remote: true }));
const network = new NetworkService(files.network, { port, listen: (address) => listenOn(address) }, systemClock);
await network.load();
const host = new PanelHost({
  folder,
  files,
  network,
  clock: systemClock,
  program,
  steadyMs,
  onRunning: (running) => serve(running),
});

/** What handlers of routes are given while nothing runs. */
const alone = { network, audit: files.audit };
function serve(running: Running | null): void {
  (globalThis as Record<symbol, unknown>)[Symbol.for('mill-latch.services')] = running?.services ?? alone;
}
serve(null);

const serving = {
  port,
  isDev: false,
  services: { network },
  channel: {
    accept: (...asked: Parameters<NonNullable<typeof host.running>['channel']['accept']>) => {
      if (host.running) host.running.channel.accept(...asked);
      else asked[1].destroy();
    },
  },
  handle,
  statics: { path: GLASS_PATH, serve: staticFilesUnder(join(root, 'dist/glass'), GLASS_PATH) },
  upgradeInNext: null,
  isOpen: (method: string, asked: string) => isForBenches(method, asked) || (method === 'GET' && asked.startsWith(GLASS_PATH)),
};
const server = httpServer({ ...serving, remote: false });
server.on('error', (error: NodeJS.ErrnoException) => {
  lock.release();
  stop(error.code === 'EADDRINUSE' ? `Port ${port} is in use. Choose another with --port.` : `The panel host cannot listen: ${error.message}`);
});
network.onPeerChanged((peerId) => host.running?.channel.dropPeer(peerId));
await host.start();
server.listen(port, '127.0.0.1', () => {
  console.log(JSON.stringify({ ready: true, address: `http://127.0.0.1:${port}`, folder: path, name: folder.identity.name }));
});
if (args.address !== undefined && network.settings.address !== args.address)
  void network.change({ open: true, address: args.address, names: [] }).then((done) => {
    if (!done.ok) console.error(done.problem.message);
  });
else void listenAgain();

/** It comes up without the network; the address may come later. */
async function listenAgain(): Promise<void> {
  if ((await network.resume()) !== null) setTimeout(() => void listenAgain(), NETWORK_MS).unref();
}

async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const asked = plainPath(request.url ?? '') ?? '';
  const { method = '' } = request;
  if (asked.startsWith('/api/v1/')) return answerWith(request, response, (as) => answerApi(method, asked, as));
  if (asked === '/icon.svg') return void response.writeHead(200, { 'content-type': 'image/svg+xml' }).end(icon);
  const page = method === 'GET' || method === 'HEAD' ? pageFor(asked, new URL(request.url ?? '/', 'http://host').searchParams) : null;
  if (!page) return void response.writeHead(404, { 'content-type': 'text/plain' }).end('There is no such page.');
  const nonce = String(request.headers['x-mill-latch-nonce'] ?? '');
  response.writeHead(200, { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' }).end(pageText(page, built, nonce));
}

async function answerApi(method: string, asked: string, request: Request): Promise<Response> {
  if (asked.startsWith(HOST_PATH)) {
    const answered = await answerHost(host, folder, port, asked.slice(HOST_PATH.length), request);
    if (answered) return answered;
  }
  const found = findRoute(method, asked.slice('/api/v1/'.length));
  if (!found || (!found.isAlways && !host.running))
    return Response.json({ type: 'about:blank', status: 404, title: 'Nothing of that name is here.', code: 'not-found' }, { status: 404 });
  return found.handler(request, { params: Promise.resolve(found.params as never) });
}

function pageFor(asked: string, query: URLSearchParams): HostPage | null {
  if (asked === '/host') return { screen: 'host' };
  if (asked === '/join') return { screen: 'join' };
  if (asked !== '/' && !/^\/panel(\/[0-9a-f-]{36})?$/.test(asked)) return null;
  const { running } = host;
  if (!running) return { screen: 'waiting' };
  const { panelId } = running.hosted;
  const pageId = query.get('page');
  return { screen: 'panel', panelId, pageId, opened: running.services.panels.opening(panelId, pageId) };
}

/** What others have open ends with what they may. */
function listenOn(address: string | null): Promise<Result<null>> {
  host.running?.channel.dropPeer(null);
  return lan.listen(address);
}

let ending = false;
function end(): void {
  if (ending) return;
  ending = true;
  void (async () => {
    await host.running?.services.holds.releaseAll('Released: the panel host ends.');
    await Promise.race([host.close(), new Promise((resolve) => setTimeout(resolve, CLOSING_MS))]);
    lan.end();
    server.close();
    server.closeAllConnections();
    await files.close();
  })()
    .catch((error: unknown) => console.error('Not everything could be ended in order:', error))
    .finally(() => {
      lock.release();
      process.exit(0);
    });
}
process.on('SIGTERM', end);
process.on('SIGINT', end);

function stop(message: string): never {
  console.error(message);
  process.exit(1);
}
