/** Under which names other machines may ask, and by which session. What they may ask for: `core/live/remoteAccess.ts`. */
import type { IncomingMessage } from 'node:http';
import type { NetworkSettings } from '@/core/live/network.ts';

export const SESSION_COOKIE = 'mill-latch-session';

/** Hosts under which another machine may ask. */
export function remoteHosts({ address, names }: NetworkSettings, port: number): readonly string[] {
  return [address, ...names].map((name) => `${name.toLowerCase()}:${port}`);
}

export function sessionToken(request: Pick<IncomingMessage, 'headers'>): string | null {
  const match = new RegExp(`(?:^|;\\s*)${SESSION_COOKIE}=([A-Za-z0-9_-]{20,100})(?:;|$)`).exec(request.headers.cookie ?? '');
  return match?.[1] ?? null;
}
