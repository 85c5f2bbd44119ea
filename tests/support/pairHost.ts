/** Pairs a bench's server with a panel host over their APIs, as their pages do, and sends to it. */
import type { HostComparison, PairedHost, SendProgress } from '@/core/hosting/compared.ts';
import type { HostAtHand } from '@/core/hosting/messages.ts';
import type { RunningServer } from './server.ts';

export async function pairOver(server: RunningServer, host: RunningServer): Promise<string> {
  const { code } = (await post(host, '/host/code', undefined)) as HostAtHand;
  const paired = (await post(server, '/hosts', { address: `127.0.0.1:${host.port}`, code: code?.code ?? '' })) as PairedHost;
  return paired.id;
}

export async function atHand(host: RunningServer): Promise<HostAtHand> {
  return (await (await fetch(`${host.address}/api/v1/host/at-hand`)).json()) as HostAtHand;
}

export async function compared(server: RunningServer, hostId: string, panelId: string): Promise<HostComparison> {
  return (await (await fetch(`${server.address}/api/v1/hosts/${hostId}/compare?panel=${panelId}`)).json()) as HostComparison;
}

/** @returns the last that was said */
export async function sendOver(
  server: RunningServer,
  hostId: string,
  panelId: string,
  replaces: string | null,
  stop?: AbortSignal,
): Promise<SendProgress | undefined> {
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = JSON.stringify({ panelId, replaces });
  const answer = await fetch(`${server.address}/api/v1/hosts/${hostId}/send`, { method: 'POST', headers, body, ...(stop ? { signal: stop } : {}) });
  const lines = (await answer.json()) as SendProgress[];
  return Array.isArray(lines) ? lines.at(-1) : { kind: 'failed', problem: { code: 'refused', message: JSON.stringify(lines) } };
}

async function post(to: RunningServer, path: string, body: unknown): Promise<unknown> {
  const sent = body === undefined ? {} : { body: JSON.stringify(body) };
  const answer = await fetch(`${to.address}/api/v1${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: to.address },
    ...sent,
  });
  if (!answer.ok) throw new Error(await answer.text());
  return answer.json();
}
