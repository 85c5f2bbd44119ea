/** Asks a network who speaks EtherNet/IP: ListIdentity as a broadcast (CIP volume 2, 2-4.2). */
import { createSocket } from 'node:dgram';
import { networkInterfaces, type NetworkInterfaceInfo } from 'node:os';
import { buildFrame, COMMAND, readFrame } from '@/core/cip/encapsulation.ts';
import { identityIn, portIn } from '@/core/cip/identity.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { CallContext, FoundParty, Settings } from '../contract.ts';
import { linkOf } from './describe.ts';

/** Devices spread their answers over two seconds where they are not told otherwise; it is asked twice, since datagrams get lost. */
const LISTEN_MS = 2500;
const AGAIN_MS = 600;

export async function* discover(settings: Settings, { signal }: CallContext): AsyncIterable<Result<FoundParty>> {
  const { adapter, port } = linkOf(settings);
  const ends = waysOut(adapter);
  if (ends.length === 0) {
    yield fail(
      'no-adapter',
      adapter === '' ? 'This machine has no network to ask.' : `There is no network adapter ${adapter} with an address.`,
      'Choose one of those offered.',
    );
    return;
  }
  const found: Result<FoundParty>[] = [];
  const known = new Set<string>();
  let wake: () => void = () => undefined;
  let isOver = false;
  const tell = (one: Result<FoundParty>): void => {
    found.push(one);
    wake();
  };
  const sockets = ends.map(({ address, broadcast }) => {
    const socket = createSocket('udp4');
    socket.on('error', (error) => tell(fail('network', `${address} cannot ask: ${error.message}.`, 'Choose another adapter.')));
    socket.on('message', (bytes, from) => {
      const party = partyOf(bytes, from.address);
      if (!party || known.has(party.where)) return;
      known.add(party.where);
      tell(ok(party));
    });
    socket.bind({ address, port: 0 }, () => {
      socket.setBroadcast(true);
      const ask = (): void => void (isOver || socket.send(buildFrame(COMMAND.listIdentity, 0, new Uint8Array(0)), port, broadcast, () => undefined));
      ask();
      setTimeout(ask, AGAIN_MS).unref();
    });
    return socket;
  });
  const end = (): void => {
    isOver = true;
    wake();
  };
  const timer = setTimeout(end, LISTEN_MS);
  signal.addEventListener('abort', end, { once: true });
  try {
    for (;;) {
      const next = found.shift();
      if (next) yield next;
      else if (isOver || signal.aborted) return;
      else await new Promise<void>((resolve) => (wake = resolve));
    }
  } finally {
    isOver = true;
    clearTimeout(timer);
    signal.removeEventListener('abort', end);
    for (const socket of sockets) socket.close();
  }
}

function partyOf(bytes: Uint8Array, host: string): FoundParty | null {
  const frame = readFrame(bytes);
  if (!frame.ok || frame.value.command !== COMMAND.listIdentity) return null;
  const identity = identityIn(frame.value.data);
  if (!identity.ok) return null;
  const port = portIn(frame.value.data);
  const { product, revision, serial } = identity.value;
  return {
    settings: { host, ...(port === null ? {} : { port }) },
    where: `${host}${port === null ? '' : `:${port}`}`,
    seen: `${product}, revision ${revision}, serial ${serial}`,
  };
}

interface WayOut {
  readonly address: string;
  readonly broadcast: string;
}

/** The IPv4 addresses to ask from: of one adapter, or of all that lead out of this machine. */
function waysOut(adapter: string): readonly WayOut[] {
  const isIPv4 = (a: NetworkInterfaceInfo): boolean => a.family === 'IPv4';
  const chosen =
    adapter === ''
      ? Object.values(networkInterfaces()).flatMap((all) => (all ?? []).filter((a) => isIPv4(a) && !a.internal))
      : (networkInterfaces()[adapter] ?? []).filter(isIPv4);
  return chosen.map(({ address, netmask }) => ({ address, broadcast: broadcastOf(address, netmask) }));
}

export function broadcastOf(address: string, netmask: string): string {
  const mask = netmask.split('.').map(Number);
  return address
    .split('.')
    .map((part, i) => (Number(part) & (mask[i] ?? 255)) | (~(mask[i] ?? 255) & 255))
    .join('.');
}
