/**
 * What a phone or panel on the local network may ask for. Without a session: only the page to join with. With one:
 * panels and what they show; writing only when it was given the right.
 */
import type { IncomingMessage } from 'node:http';
import type { NetworkSettings, Peer } from '@/core/live/network.ts';
import { LIVE_PATH } from './liveChannel.ts';

export const SESSION_COOKIE = 'mill-latch-session';

export type RemoteVerdict =
  | { readonly kind: 'pass' }
  | { readonly kind: 'redirect'; readonly to: string }
  | { readonly kind: 'refuse'; readonly status: 401 | 403; readonly why: string };

const PASS: RemoteVerdict = { kind: 'pass' };
const STATIC = /^\/(_next\/static\/|icon\.svg$)/;
/** What panels read. Project files, backups, frames and the network's own settings stay on this machine. */
const READS = /^\/api\/v1\/(project|status|values)$/;
const WRITE = /^\/api\/v1\/tags\/[0-9a-f-]{36}\/write$/;

/** Hosts under which another machine may ask. */
export function remoteHosts({ address, names }: NetworkSettings, port: number): readonly string[] {
  return [address, ...names].map((name) => `${name.toLowerCase()}:${port}`);
}

export function sessionToken(request: Pick<IncomingMessage, 'headers'>): string | null {
  const match = new RegExp(`(?:^|;\\s*)${SESSION_COOKIE}=([A-Za-z0-9_-]{20,100})(?:;|$)`).exec(request.headers.cookie ?? '');
  return match?.[1] ?? null;
}

export function remoteVerdict(request: Pick<IncomingMessage, 'method' | 'url'>, peer: Peer | null): RemoteVerdict {
  const path = (request.url ?? '/').split('?')[0] ?? '/';
  const isRead = request.method === 'GET' || request.method === 'HEAD';
  if (isRead && STATIC.test(path)) return PASS;
  if (!peer) {
    if ((isRead && path === '/join') || (request.method === 'POST' && path === '/api/v1/join')) return PASS;
    return path.startsWith('/api/')
      ? { kind: 'refuse', status: 401, why: 'This phone or panel has not joined (any more).' }
      : { kind: 'redirect', to: '/join' };
  }
  if (isRead && (path === '/panel' || /^\/panel\/[0-9a-f-]{36}$/.test(path) || READS.test(path) || path === LIVE_PATH)) return PASS;
  if (request.method === 'POST' && WRITE.test(path))
    return peer.rights === 'write' ? PASS : { kind: 'refuse', status: 403, why: 'This phone or panel may only read.' };
  return path.startsWith('/api/')
    ? { kind: 'refuse', status: 403, why: 'This is done at the machine that Mill Latch runs on.' }
    : { kind: 'redirect', to: '/panel' };
}
