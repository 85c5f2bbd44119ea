/** The OPC UA driver against a server of another make (node-opcua's server half): values, types, status codes, faults, security. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DataType, StatusCodes } from 'node-opcua';
import { dissectChunk } from '@/core/opcua/dissect.ts';
import { pcapOf } from '@/core/trace/pcap.ts';
import { readNodeSet } from '@/core/taglist/nodeSetList.ts';
import type { BrowsedNode, DeviceSession, Observer, PointSpec } from '@/drivers/contract.ts';
import { freePort } from '../support/server.ts';
import { BAGGER_URI, RENUMBERED, UaServer, WEIGH_URI } from '../support/uaServer.ts';
import {
  closeSessions,
  connected,
  context,
  folder,
  frames,
  linkTo,
  NONE,
  point,
  port,
  read,
  text,
  typeOf,
  write,
  writeAll,
} from '../support/uaSession.ts';
import { until } from '../support/until.ts';

let server: UaServer;

beforeAll(async () => {
  server = await UaServer.start({ port });
});
afterEach(closeSessions);
afterAll(() => server.stop());

describe('values', () => {
  test('of every type are read as they are, 64 bits to the last digit', async () => {
    const device = await connected();
    expect(
      await read(
        device,
        point('Running', 'BOOL'),
        point('Count', 'INT'),
        point('Batches', 'UDINT'),
        point('Total', 'ULINT'),
        point('Grams', 'LINT'),
        point('Level', 'REAL'),
        point('Weight', 'LREAL'),
        point('Recipe', 'STRING(20)'),
        point('Begun', 'DT'),
        point('Gates#[2]', 'LREAL'),
      ),
    ).toEqual(['on', '-7', '4000000000', '4294967298', '-100', '61.5', '120.25', 'Oats 12', '2026-03-01-06:30:00', '3.5']);
  });

  test('of another type than the tag’s, a node that is none, an element that is not there and a whole array are no numbers', async () => {
    const device = await connected();
    expect(
      await read(
        device,
        point('Weight', 'INT'),
        point('Recipe', 'REAL'),
        point('Gone', 'REAL'),
        point('Gates#[3]', 'LREAL'),
        point('Gates', 'LREAL'),
        {
          ...point('Weight', 'LREAL'),
          canonical: 'nsu=urn:nobody;s=Weight',
        },
      ),
    ).toEqual([
      'malformed: unfit-value',
      'malformed: unfit-value',
      'refused: BadNodeIdUnknown',
      'malformed: no-element',
      'malformed: whole-array',
      'refused: namespace',
    ]);
  });

  test('are as good as their status code says (IEC 62541-4, 7.39)', async () => {
    const device = await connected();
    server.set('Level', 60, DataType.Float, StatusCodes.UncertainLastUsableValue);
    expect(await read(device, point('Level', 'REAL'))).toEqual(['60 uncertain']);
    server.set('Level', 60, DataType.Float, StatusCodes.BadSensorFailure);
    expect(await read(device, point('Level', 'REAL'))).toEqual(['refused: BadSensorFailure']);
    server.set('Level', 61.5, DataType.Float);
    expect(await read(device, point('Level', 'REAL'))).toEqual(['61.5']);
  });

  test('are written as the node declares them, once, and elements one by one; what may only be read is refused', async () => {
    const device = await connected();
    expect(await write(device, point('Weight', 'LREAL'), 99.5)).toBeNull();
    expect(server.value('Weight')).toBe(99.5);
    expect(await write(device, point('Count', 'INT'), 12)).toBeNull();
    expect(await write(device, point('Total', 'ULINT'), 2n ** 40n + 3n)).toBeNull();
    expect(await read(device, point('Count', 'INT'), point('Total', 'ULINT'))).toEqual(['12', '1099511627779']);
    expect(await write(device, point('Gates#[1]', 'LREAL'), 7.25)).toBeNull();
    expect(await read(device, point('Gates#[0]', 'LREAL'), point('Gates#[1]', 'LREAL'), point('Gates#[2]', 'LREAL'))).toEqual(['1.5', '7.25', '3.5']);
    expect(await write(device, point('Serial', 'UDINT'), 1)).toMatchObject({ kind: 'refused', problem: { code: 'BadNotWritable' } });
    expect(await write(device, point('Gates#.a', 'LREAL'), 1)).toMatchObject({ kind: 'settings' });
  });
});

const LITTLE = { maxNodesPerRead: 7, maxNodesPerBrowse: 3, maxMonitoredItemsPerCall: 4 };

describe('several writes at once', () => {
  const writesSent = (): number =>
    frames.filter((frame) => frame.direction === 'sent' && dissectChunk('sent', frame.bytes).summary.startsWith('Write')).length;

  test('go in one service; what may only be read or does not fit keeps nothing else back', async () => {
    const device = await connected();
    frames.length = 0;
    expect(
      await writeAll(
        device,
        [point('Weight', 'LREAL'), 88.25],
        [point('Serial', 'UDINT'), 1],
        [point('Gates#[2]', 'LREAL'), 4.5],
        [point('Nobody', 'LREAL'), 4.5],
        [point('Gates#.a', 'LREAL'), 1],
        [point('Count', 'INT'), -3],
      ),
    ).toEqual(['done', 'refused: BadNotWritable', 'done', 'refused: BadNodeIdUnknown', 'settings: member', 'done']);
    expect(writesSent()).toBe(1);
    expect(await read(device, point('Weight', 'LREAL'), point('Gates#[2]', 'LREAL'), point('Count', 'INT'))).toEqual(['88.25', '4.5', '-3']);
  });

  test('are as many a service as the server takes (IEC 62541-5, 6.3.11: MaxNodesPerWrite)', async () => {
    const at = await freePort();
    const little = await UaServer.start({ port: at, limits: { ...LITTLE, maxNodesPerWrite: 2 } });
    const device = await connected({ endpoint: `opc.tcp://127.0.0.1:${at}`, policy: 'None' });
    frames.length = 0;
    const many = [1, 2, 3, 4, 5].map((n): [PointSpec, number] => [point('Weight', 'LREAL'), n]);
    expect(new Set(await writeAll(device, ...many))).toEqual(new Set(['done']));
    expect(writesSent()).toBe(3);
    expect(await read(device, point('Weight', 'LREAL'))).toEqual(['5']);
    await little.stop();
  });
});

const watch = (device: DeviceSession, ...points: PointSpec[]) => {
  const seen = new Map<string, string>();
  const log = { alive: 0, lost: '', at: new Map<string, number | undefined>() };
  const observer: Observer = {
    sink: (key, arrival) => {
      const of = points.find((p) => p.key === key);
      if (of) seen.set(key, text(of, arrival));
      if ('wire' in arrival) log.at.set(key, arrival.sourceAt);
    },
    alive: (forMs) => void (log.alive = forMs),
    lost: (fault) => void (log.lost = fault.problem.code),
  };
  const observation = device.observe?.(observer);
  observation?.add(points.map((p) => ({ ...p, everyMs: 100 })));
  return { seen, log, observation };
};

describe('observing', () => {
  test('tells each value, each change and each fault, with the time at the source', async () => {
    const device = await connected(NONE, { publishMs: 100 });
    const [weight, gone, recipe] = [point('Weight', 'LREAL'), point('Gone', 'REAL'), point('Recipe', 'STRING(20)')];
    const { seen, log, observation } = watch(device, weight, gone, recipe);
    await until('all are told', () => seen.size === 3);
    expect([seen.get(gone.key), seen.get(recipe.key)]).toEqual(['refused: BadNodeIdUnknown', 'Oats 12']);
    server.set('Weight', 130.5);
    await until('the change comes', () => seen.get(weight.key) === '130.5');
    expect(Math.abs((log.at.get(weight.key) ?? 0) - Date.now())).toBeLessThan(5000);
    expect(log.alive).toBeGreaterThan(5000);
    server.set('Weight', 131, DataType.Double, StatusCodes.BadSensorFailure);
    await until('the status comes', () => seen.get(weight.key) === 'refused: BadSensorFailure');
    observation?.remove([weight.key]);
    server.set('Weight', 120.25);
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(seen.get(weight.key)).toBe('refused: BadSensorFailure');
    observation?.close();
  });

  test('is lost when the server goes, and found again by its URI when namespaces have other numbers', async () => {
    const session = linkTo(NONE);
    await until('it is connected', () => session.state.phase === 'connected');
    const device = session.device({}, { publishMs: 100 });
    const weight = point('Weight', 'LREAL');
    const first = watch(device, weight);
    await until('it is told', () => first.seen.has(weight.key));
    const { pki } = server;
    await server.stop();
    await until('it is not connected', () => session.state.phase !== 'connected');
    server = await UaServer.start({ port, pki, before: RENUMBERED });
    server.set('Weight', 77);
    await until('it is connected again', () => session.state.phase === 'connected', 40_000);
    const again = watch(device, weight);
    await until('it is told again', () => again.seen.get(weight.key) === '77');
    again.observation?.close();
  });
});

test('ten thousand nodes that change at once are all told, none twice for one change', async () => {
  const at = await freePort();
  const count = 10_000;
  const large = await UaServer.start({ port: at, count });
  const device = await connected({ endpoint: `opc.tcp://127.0.0.1:${at}`, policy: 'None' }, { publishMs: 250 });
  const points = Array.from({ length: count }, (_, i) => ({ ...point(`n${i}`, 'LREAL'), everyMs: 1000 }));
  const told = new Map<string, number[]>();
  const observation = device.observe?.({
    sink: (key, arrival) => {
      if (!('wire' in arrival) || arrival.wire.kind !== 'typed') throw new Error(`${key} is none`);
      told.set(key, [...(told.get(key) ?? []), Number(arrival.wire.value)]);
    },
    alive: () => undefined,
    lost: (fault) => {
      throw new Error(fault.problem.message);
    },
  });
  observation?.add(points);
  await until('all are there', () => told.size === count, 60_000);
  for (let i = 0; i < count; i++) large.set(`n${i}`, -1 - i);
  await until('all have changed', () => points.every(({ key }, i) => told.get(key)?.at(-1) === -1 - i), 60_000);
  expect(points.filter(({ key }) => told.get(key)?.length !== 2)).toEqual([]);
  observation?.close();
  await large.stop();
});

test('a server that takes little at once is asked for little at once: reading, browsing and observing', async () => {
  const at = await freePort();
  const small = await UaServer.start({ port: at, count: 30, limits: LITTLE });
  const device = await connected({ endpoint: `opc.tcp://127.0.0.1:${at}`, policy: 'None' });
  const points = Array.from({ length: 30 }, (_, i) => point(`n${i}`, 'LREAL'));
  expect(await read(device, ...points)).toEqual(points.map((_, i) => String(i)));
  await device.browse?.('', context());
  const inside = await device.browse?.('Hopper', context());
  expect(inside?.ok && inside.value.filter(({ path, type }) => /\.n\d+$/.test(path) && type === 'LREAL')).toHaveLength(30);
  const { seen, observation } = watch(device, ...points);
  await until('all are told', () => seen.size === 30);
  expect(points.map(({ key }) => seen.get(key))).toEqual(points.map((_, i) => String(i)));
  observation?.close();
  await small.stop();
});

test('a server that goes while many are read leaves none of them without a word', async () => {
  const at = await freePort();
  const small = await UaServer.start({ port: at, count: 30, limits: LITTLE });
  const device = await connected({ endpoint: `opc.tcp://127.0.0.1:${at}`, policy: 'None' }, { timeoutMs: 300 });
  const points = Array.from({ length: 30 }, (_, i) => point(`n${i}`, 'LREAL'));
  const group = device.prepare(points);
  await small.stop();
  const came = new Map<string, number>();
  const fault = await group.read((key) => came.set(key, (came.get(key) ?? 0) + 1), context());
  expect([fault === null, came.size, new Set(came.values())]).toEqual([false, 30, new Set([1])]);
});

describe('browsing', () => {
  test('finds what the server has, with type, unit, range, access and the elements of arrays', async () => {
    const device = await connected();
    const root = await device.browse?.('', context());
    const hopper = root?.ok ? root.value.find((n) => n.path === 'Hopper') : undefined;
    expect(hopper).toMatchObject({ type: null, hasChildren: true });
    expect(root?.ok && root.value.some((n) => n.path === 'Server')).toBe(false);
    const inside = await device.browse?.('Hopper', context());
    const found = new Map<string, BrowsedNode>((inside?.ok ? inside.value : []).map((n) => [n.path, n]));
    expect(found.get('Hopper.Weight')).toMatchObject({
      canonical: `nsu=${WEIGH_URI};s=Weight`,
      type: 'LREAL',
      hasChildren: false,
      told: { access: 'RW', unit: 'kg', low: 0, high: 500 },
    });
    expect(found.get('Hopper.Serial')).toMatchObject({ type: 'UDINT', told: { access: 'R' } });
    expect(found.get('Hopper.Count')?.told?.comment).toBe('Count of the hopper');
    expect(['Gates[0]', 'Gates[2]'].map((name) => found.get(`Hopper.${name}`)?.canonical)).toEqual([
      `nsu=${WEIGH_URI};s=Gates#[0]`,
      `nsu=${WEIGH_URI};s=Gates#[2]`,
    ]);
  });
  test('lists a structure by its members, arrays and structures in it included, and each is read and observed by itself', async () => {
    const device = await connected();
    const root = await device.browse?.('', context());
    const members = (root?.ok ? root.value : []).filter((n) => n.path.startsWith('Bagger'));
    const base = `nsu=${BAGGER_URI};s=Bagger`;
    expect(members.map(({ path, canonical, type, within }) => [path, canonical, type, within])).toEqual([
      ['Bagger.Weight', `${base}#.Weight`, 'LREAL', ['BaggerType']],
      ['Bagger.Bags', `${base}#.Bags`, 'DINT', ['BaggerType']],
      ['Bagger.Gaps[0]', `${base}#.Gaps[0]`, 'REAL', ['BaggerType']],
      ['Bagger.Gaps[1]', `${base}#.Gaps[1]`, 'REAL', ['BaggerType']],
      ['Bagger.Gaps[2]', `${base}#.Gaps[2]`, 'REAL', ['BaggerType']],
      ['Bagger.Jaw.Temp', `${base}#.Jaw.Temp`, 'REAL', ['BaggerType', 'JawType']],
      ['Bagger.Jaw.Closed', `${base}#.Jaw.Closed`, 'BOOL', ['BaggerType', 'JawType']],
    ]);
    expect(members.every(({ told }) => told?.access === 'R')).toBe(true);
    const points = members.map(({ canonical, type }): PointSpec => ({ key: canonical, canonical, type: typeOf(type ?? '') }));
    expect(await read(device, ...points)).toEqual(['12.5', '7', '1', '2.5', '3', '150', 'on']);
    const gone = { key: 'gone', canonical: `${base}#.Jaw.Speed`, type: typeOf('REAL') };
    expect(await read(device, gone)).toEqual(['malformed: no-member']);
    const { seen, observation } = watch(device, ...points);
    await until('each is told', () => seen.size === points.length);
    expect(points.map(({ key }) => seen.get(key))).toEqual(['12.5', '7', '1', '2.5', '3', '150', 'on']);
    observation?.close();
  });
  test('finds what the node set of the server lists without it: names, places, types, members, units, ranges and names of values', async () => {
    const device = await connected();
    const found: string[] = [];
    const walk = async (path: string): Promise<void> => {
      const level = await device.browse?.(path, context());
      if (!level?.ok) throw new Error(level?.problem.message);
      for (const node of level.value) {
        if (node.hasChildren) await walk(node.path);
        if (node.type === null || !node.canonical.includes(BAGGER_URI)) continue;
        const { access, comment = '', unit = '', low = '', high = '', enumeration = '' } = node.told ?? {};
        found.push([node.path, node.canonical, node.type, (node.within ?? []).join('/'), access, comment, unit, low, high, enumeration].join('|'));
      }
    };
    await walk('');
    const listed = readNodeSet(readFileSync(new URL('../data/bagger.NodeSet2.xml', import.meta.url), 'utf8')).rows.map(({ cells, within = [] }) =>
      [
        cells.name,
        cells.address,
        cells.type,
        within.join('/'),
        cells.access,
        cells.comment,
        cells.unit,
        cells.low ?? '',
        cells.high ?? '',
        cells.enumeration ?? '',
      ].join('|'),
    );
    expect(found.sort()).toEqual([...listed].sort());
  });

  test('says what the server is', async () => {
    const device = await connected();
    expect(await device.identify?.(context())).toMatchObject({ ok: true, value: { maker: 'Quern Hollow', product: 'Weigher', revision: '3.1' } });
  });
});

describe('the trace', () => {
  test('says of each message in clear what tshark says of it', async () => {
    frames.length = 0;
    const device = await connected();
    expect(await read(device, point('Serial', 'UDINT'))).toEqual(['407133']);
    await device.browse?.('', context());
    expect(await write(device, point('Weight', 'LREAL'), 99)).toBeNull();
    const kept = [...frames];
    const file = join(folder, 'ua.pcap');
    writeFileSync(file, pcapOf(kept, { kind: 'tcp', port }));
    const out = execFileSync('tshark', ['-r', file, '-d', `tcp.port==${port},opcua`, '-T', 'fields', '-e', '_ws.col.Info'], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    const services = out.split('\n').flatMap((line) => /(\w+(?:Request|Response))\s*$/.exec(line)?.[1] ?? []);
    const ours = kept.flatMap(({ direction, bytes }) => {
      const { service } = dissectChunk(direction, bytes);
      return service?.includes(' re') ? service.replace(' r', 'R') : [];
    });
    expect(services).toEqual(expect.arrayContaining(['CreateSessionRequest', 'ReadResponse', 'BrowseRequest', 'WriteResponse']));
    // The opening of a channel has its own kind of chunk, whose service we do not look for.
    expect(ours).toEqual(services.filter((name) => !name.startsWith('OpenSecureChannel')));
  });

  test('takes any bytes for what they are, and never fails', () => {
    const chunk = fc.tuple(fc.constantFrom('HEL', 'ACK', 'ERR', 'OPN', 'MSG', 'CLO', 'XYZ'), fc.uint8Array({ maxLength: 60 })).map(([type, rest]) => {
      const bytes = new Uint8Array(3 + rest.length);
      bytes.set(new TextEncoder().encode(type));
      bytes.set(rest, 3);
      return bytes;
    });
    fc.assert(
      fc.property(fc.oneof(chunk, fc.uint8Array({ maxLength: 200 })), (bytes) => {
        const { fields, summary } = dissectChunk('received', bytes);
        expect(summary).not.toBe('');
        for (const field of fields) expect(field.at + field.bytes).toBeLessThanOrEqual(bytes.length);
      }),
      { numRuns: 5000 },
    );
  });
});
