/**
 * Named tags: a thousand tags of one value each read from the bagging cell's controller, beside the group reads of two libraries, and how
 * many messages that takes beside the least that the size of one allows.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createRequire } from 'node:module';
import { Socket } from 'node:net';
import { messageBytes, planReads, replyBytes, requestBytes, type TagPoint } from '@/core/cip/readPlan.ts';
import { MULTIPLE_REPLY_BYTES, MULTIPLE_REQUEST_BYTES, OFFSET_BYTES } from '@/core/cip/message.ts';
import { parseTagPath } from '@/core/cip/tagPath.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { CallContext, PointSpec } from '@/drivers/contract.ts';
import { cip } from '@/drivers/cip/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import type { Figure } from './figure.ts';
import { file, rest } from './serverLoad.ts';

const TAGS = 1000;
const ROUNDS = 4;
const ROUND_MS = 1500;
const TYPES = ['DINT', 'REAL', 'INT', 'BOOL'];
const SEQUENCE_BYTES = 2;

export async function namedTags(): Promise<readonly Figure[]> {
  const server = spawn(process.execPath, [file('dist/standin-pack.mjs'), '--more', String(TAGS), '--with-parent'], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  const [line] = (await once(server.stdout, 'data')) as [Buffer];
  const { cipPort: port } = JSON.parse(line.toString()) as { readonly cipPort: number };
  try {
    const names = Array.from({ length: TAGS }, (_, i) => `Measured_Value_${String(i).padStart(4, '0')}`);
    const points = names.map((canonical, i): PointSpec => ({ key: canonical, canonical, type: typeNamed(TYPES[i % TYPES.length] ?? '') }));
    const ours = await own(port, points, 4000);
    const small = await own(port, points, 500);
    const peers = [await library('st-ethernet-ip', 'dist', port, names), await library('ethernet-ip', 'src', port, names)];
    const readers = [ours.read, ...peers.map((peer) => peer.read)];
    const best = readers.map(() => 0);
    for (let round = 0; round < ROUNDS; round++) for (const [i, read] of readers.entries()) best[i] = Math.max(best[i] ?? 0, await rate(read));
    const [mine = 0, ...others] = best;
    for (const peer of peers) peer.close();
    ours.close();
    small.close();
    const figures = [ours, small].map(({ size, sent }) => {
      const least = leastMessages(points, size);
      return {
        name: `Of the least that ${size} bytes allow, messages for ${TAGS} tags of one value each`,
        ratio: sent / least,
        wanted: 1.1,
        atMost: true,
        detail: `${sent} messages; the least is ${least}`,
      };
    });
    return [
      ...figures,
      {
        name: `Of the faster library’s group read, tags per second, ${TAGS} tags`,
        ratio: mine / Math.max(...others),
        wanted: 2,
        detail: `${Math.round(mine)} tags/s; st-ethernet-ip ${Math.round(others[0] ?? 0)}, ethernet-ip ${Math.round(others[1] ?? 0)}`,
      },
    ];
  } finally {
    server.stdin.end();
    await once(server, 'exit');
  }
}

async function rate(read: () => Promise<unknown>): Promise<number> {
  const begun = performance.now();
  let rounds = 0;
  while (performance.now() - begun < ROUND_MS) {
    await read();
    rounds++;
  }
  return (rounds * TAGS * 1000) / (performance.now() - begun);
}

async function own(port: number, points: readonly PointSpec[], size: number) {
  let messages = 0;
  const session = cip.createSession({
    settings: { host: '127.0.0.1', port },
    clock: systemClock,
    onFrame: ({ direction }) => void (direction === 'sent' && messages++),
    onState: () => undefined,
  });
  session.start();
  while (session.state.phase !== 'connected') await rest(10);
  const group = session.device({}, { messageBytes: size }).prepare(points);
  const context: CallContext = { signal: new AbortController().signal, deadline: Infinity };
  let came = 0;
  const read = async (): Promise<void> => {
    came = 0;
    await group.read((_key, arrival) => void ('wire' in arrival && came++), context);
    if (came !== points.length) throw new Error(`${came} of ${points.length} values came.`);
  };
  await read();
  messages = 0;
  await read();
  return { size, sent: messages, read, close: () => session.close() };
}

/** What no packing can do with less: all services, each with its offset, over the room of one message. */
function leastMessages(points: readonly PointSpec[], size: number): number {
  const tags = points.flatMap(({ key, canonical, type }): TagPoint[] => {
    const path = parseTagPath(canonical);
    return path.ok ? [{ key, path: path.value, type }] : [];
  });
  const items = planReads(tags, size);
  const room = size - SEQUENCE_BYTES;
  const sum = (of: (item: (typeof items)[number]) => number): number => items.reduce((all, item) => all + OFFSET_BYTES + of(item), 0);
  if (messageBytes(items).request <= room && messageBytes(items).reply <= room) return 1;
  return Math.max(Math.ceil(sum(requestBytes) / (room - MULTIPLE_REQUEST_BYTES)), Math.ceil(sum(replyBytes) / (room - MULTIPLE_REPLY_BYTES)));
}

interface Library {
  readonly Controller: new (connected?: boolean) => {
    connect(host: string, slot: number, setUp?: boolean): Promise<unknown>;
    readTagGroup(group: object): Promise<unknown>;
  };
  readonly Tag: new (name: string) => object;
  readonly TagGroup: new () => { add(tag: object): void };
}

async function library(name: string, folder: string, port: number, names: readonly string[]) {
  const require = createRequire(import.meta.url);
  // They take no port: it is put where they look it up.
  (require(`${name}/${folder}/config`) as { EIP_PORT: number }).EIP_PORT = port;
  const { Controller, Tag, TagGroup } = require(name) as Library;
  const controller = new Controller(true);
  await controller.connect('127.0.0.1', 0, false).catch((error: unknown) => {
    throw new Error(`${name}: ${String(error)}`);
  });
  const group = new TagGroup();
  for (const tag of names) group.add(new Tag(tag));
  return {
    read: () => controller.readTagGroup(group), // Its own way to end writes to a socket that is closed already, without end.
    close: () => void Socket.prototype.destroy.call(controller as unknown as Socket),
  };
}

function typeNamed(name: string) {
  const type = parseDataType(name);
  if (!type.ok) throw new Error(type.problem.message);
  return type.value;
}
