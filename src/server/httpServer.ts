/** One HTTP server: who asks is checked before anything else happens. One serves this machine, one the local network. */
import { randomBytes } from 'node:crypto';
import compression from 'compression';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import type { NetworkService } from '@/services/networkService.ts';
import { LIVE_PATH, plainPath, remoteVerdict } from '@/core/live/remoteAccess.ts';
import type { LiveChannel } from './liveChannel.ts';
import { remoteHosts, sessionToken } from './remoteGuard.ts';
import type { StaticFiles } from './staticFiles.ts';
import { ANSWER_POLICY, contentPolicy, refuse, SECURITY_HEADERS } from './requestGuard.ts';

/** What route handlers are told of the asker; never taken from outside. */
const FROM = 'x-mill-latch-from';
const PEER = 'x-mill-latch-peer';
const NONCE = 'x-mill-latch-nonce';
/** Only there for another machine: what it may do, `none` before it has joined. */
const REMOTE = 'x-mill-latch-remote';
/** Longest time that headers and body may take to come, and how often that is looked at. */
const SLOWEST_MS = 30_000;
const CHECK_MS = 5_000;
/** Connections at once: a page has one that is live and up to six beside it. */
const MOST_LOCAL = 512;
const MOST_REMOTE = 128;
const METHODS: ReadonlySet<string> = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE']);

export interface HttpOptions {
  readonly port: number;
  readonly isDev: boolean;
  /** Whether it serves other machines. */
  readonly remote: boolean;
  readonly services: { readonly network: Pick<NetworkService, 'settings' | 'peerOf'> };
  readonly channel: Pick<LiveChannel, 'accept'>;
  readonly handle: (request: IncomingMessage, response: ServerResponse) => Promise<void>;
  /** What was built once; null where pages are made as they are asked for. */
  readonly statics: { readonly path: string; readonly serve: StaticFiles } | null;
  /** What other machines may ask for without having joined: they prove otherwise who they are. */
  readonly isOpen?: (method: string, path: string) => boolean;
  readonly upgradeInNext: ((request: IncomingMessage, socket: Duplex, head: Buffer) => Promise<void>) | null;
}

/** With brotli where the browser takes it; Next by itself has gzip alone. It asks for no more of Express than Node has. */
const compress = compression() as unknown as (request: IncomingMessage, response: ServerResponse, next: () => void) => void;

export function httpServer(options: HttpOptions): Server {
  const { port, isDev, remote, services, channel, handle, statics, upgradeInNext, isOpen = () => false } = options;
  const headers = Object.entries(SECURITY_HEADERS);
  const hosts = (): readonly string[] => (remote ? remoteHosts(services.network.settings, port) : localHosts(port));
  const peerOf = (request: IncomingMessage) => {
    const token = remote ? sessionToken(request) : null;
    return token === null ? null : services.network.peerOf(token);
  };
  const server = createServer({ connectionsCheckingInterval: CHECK_MS }, (request, response) => {
    for (const [name, value] of headers) response.setHeader(name, value);
    const refusal = refuse(request, hosts());
    if (refusal) return problem(response, 403, refusal, 'foreign');
    const nonce = randomBytes(16).toString('base64');
    const policy = contentPolicy(isDev, nonce, request.headers.host ?? '');
    response.setHeader('content-security-policy', (request.url ?? '').startsWith('/api/') ? ANSWER_POLICY : policy);
    // Pages are written with it: by Next, which reads it here, and by us.
    request.headers['content-security-policy'] = policy;
    request.headers[NONCE] = nonce;
    const method = request.method ?? '';
    if (!METHODS.has(method)) return problem(response, 405, `Nothing here is done by ${method.slice(0, 20)}.`, 'method');
    const path = plainPath(request.url ?? '');
    if (path === null) return problem(response, 400, 'The path of the request is not plain.', 'path');
    const peer = peerOf(request);
    if (remote && !isOpen(method, path)) {
      const verdict = remoteVerdict(method, path, peer);
      if (verdict.kind === 'redirect') {
        response.writeHead(303, { location: verdict.to }).end();
        return;
      }
      if (verdict.kind === 'refuse') return problem(response, verdict.status, verdict.why, 'not-here');
    }
    if (remote) request.headers[REMOTE] = peer?.rights ?? 'none';
    else delete request.headers[REMOTE];
    request.headers[FROM] = request.socket.remoteAddress ?? '';
    if (peer) request.headers[PEER] = peer.id;
    else delete request.headers[PEER];
    const answer = (): void => compress(request, response, () => void handle(request, response));
    if (statics && path.startsWith(statics.path) && method !== 'POST') statics.serve(request, response, answer);
    else answer();
  });
  // Who sends no more is not waited for, and only so many are waited for at once.
  server.headersTimeout = SLOWEST_MS;
  server.requestTimeout = SLOWEST_MS;
  server.maxConnections = remote ? MOST_REMOTE : MOST_LOCAL;
  server.on('upgrade', (request, socket, head) => {
    const isLive = plainPath(request.url ?? '') === LIVE_PATH;
    const peer = peerOf(request);
    const isRefused = refuse(request, hosts()) !== null || (isLive && request.headers.origin === undefined);
    if (isRefused || (remote && !(isLive && peer))) socket.end('HTTP/1.1 403 Forbidden\r\nconnection: close\r\n\r\n');
    else if (isLive) channel.accept(request, socket, head, peer);
    else if (upgradeInNext) void upgradeInNext(request, socket, head);
    else socket.destroy();
  });
  return server;
}

function localHosts(port: number): readonly string[] {
  return [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`];
}

function problem(response: ServerResponse, status: number, title: string, code: string): void {
  response.writeHead(status, { 'content-type': 'application/problem+json' });
  response.end(JSON.stringify({ type: 'about:blank', status, title, code }));
}
