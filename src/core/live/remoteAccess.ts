/**
 * What a phone or panel on the local network may ask for. Without a session: only the page to join with. With one:
 * panels and what they show; writing only when it was given the right. All else is refused. Judged twice: by the server
 * before anything else, and by each route handler on the path that led to it.
 */
import type { Peer } from './network.ts';

export const LIVE_PATH = '/api/v1/live';

export type RemoteVerdict =
  | { readonly kind: 'pass' }
  | { readonly kind: 'redirect'; readonly to: string }
  | { readonly kind: 'refuse'; readonly status: 401 | 403; readonly why: string };

const PASS: RemoteVerdict = { kind: 'pass' };
const STATIC = /^\/(_next\/static\/|icon\.svg$)/;
/** What panels read. Project files, backups, frames and the network's own settings stay on this machine. */
const READS =
  /^\/api\/v1\/(panels|panels\/[0-9a-f-]{36}|panels\/[0-9a-f-]{36}\/alarms|panels\/[0-9a-f-]{36}\/elements\/[0-9a-f-]{36}\/sets|pictures\/[0-9a-f-]{36}|status|values)$/;
/** Whoever may read a panel may sign in at it; what that lets them do is judged by their rights all the same. */
const SIGN = /^\/api\/v1\/panels\/[0-9a-f-]{36}\/(sign-in|sign-out)$/;
const WRITE = /^\/api\/v1\/panels\/[0-9a-f-]{36}\/elements\/[0-9a-f-]{36}\/(press|alarm|sets)$/;

/** A run of checks in front of the panel: the page, what it asks for, and what is said there. */
const RUN_READS = /^\/(run\/[0-9a-f-]{36}|api\/v1\/checks\/runs\/[0-9a-f-]{36}(\/tags\/[0-9a-f-]{36})?|api\/v1\/checks\/photos\/[0-9a-f]{64})$/;
const RUN_SAYS = /^\/api\/v1\/checks\/runs\/[0-9a-f-]{36}\/(checks|steps|tags\/[0-9a-f-]{36}\/photos)$/;

/** @param path plain, as {@link plainPath} gives it */
export function remoteVerdict(method: string, path: string, peer: Pick<Peer, 'rights'> | null): RemoteVerdict {
  const isRead = method === 'GET' || method === 'HEAD';
  if (isRead && STATIC.test(path)) return PASS;
  if (!peer) {
    if ((isRead && path === '/join') || (method === 'POST' && path === '/api/v1/join')) return PASS;
    return path.startsWith('/api/')
      ? { kind: 'refuse', status: 401, why: 'This phone or panel has not joined (any more).' }
      : { kind: 'redirect', to: '/join' };
  }
  if (isRead && (path === '/panel' || /^\/panel\/[0-9a-f-]{36}$/.test(path) || READS.test(path) || path === LIVE_PATH)) return PASS;
  if (peer.rights === 'check' && ((isRead && RUN_READS.test(path)) || (method === 'POST' && RUN_SAYS.test(path)))) return PASS;
  if (method === 'POST' && SIGN.test(path)) return PASS;
  if (method === 'POST' && WRITE.test(path))
    return peer.rights === 'write' ? PASS : { kind: 'refuse', status: 403, why: 'This phone or panel may only read.' };
  return path.startsWith('/api/')
    ? { kind: 'refuse', status: 403, why: 'This is done at the machine that Mill Latch runs on.' }
    : { kind: 'redirect', to: '/panel' };
}

/** RFC 3986, 3.3: unreserved characters, sub-delimiters, `:` and `@`. Nothing that could be decoded into something else. */
const PLAIN = /^(\/[A-Za-z0-9._~!$&'()*+,;=:@-]*)+$/;

/**
 * The path of a request, when everybody reads it the same way: no encoded characters, no segments of dots, none that are
 * empty, no backslash, no other host in it. Null for all else.
 * @param target of the request line: path and query
 */
export function plainPath(target: string): string | null {
  const path = target.split('?', 1)[0] ?? '';
  if (path.length > MAX_PATH || !PLAIN.test(path) || path.includes('//')) return null;
  return path.split('/').some((segment) => /^\.+$/.test(segment)) ? null : path;
}
const MAX_PATH = 2000;
