/** Named tags over EtherNet/IP against a hand-written controller that shares no code with the driver. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dissectEip } from '@/core/cip/dissect.ts';
import { pcapOf } from '@/core/trace/pcap.ts';
import type { Arrival, DeviceSession, PointSpec, TestStage } from '@/drivers/contract.ts';
import { broadcastOf } from '@/drivers/cip/discover.ts';
import { cip } from '@/drivers/cip/driver.ts';
import { peerFor } from '../support/stEthernetIp.ts';
import { startController, type RunningController } from '../support/cipController.ts';
import { browseAll, closeSessions, connectedTo, context, frames, linkTo, point, read, sessions, text, write } from '../support/cipSession.ts';
import { until } from '../support/until.ts';

let pack: RunningController;

beforeAll(async () => {
  pack = await startController();
});
afterEach(closeSessions);
afterAll(() => pack.stop());

const connected = (settings = {}, dialect = {}, to = pack) => connectedTo(to, settings, dialect);

describe('values', () => {
  test('of every kind come by name: controller and program scope, members, elements of three dimensions, bits, texts', async () => {
    const device = await connected();
    expect(
      await read(
        device,
        ['Line_SpeedSP', 'REAL'],
        ['line_running', 'BOOL'],
        ['Bags_Total', 'LINT'],
        ['Film_Left', 'INT'],
        ['Grid[1,2,3]', 'INT'],
        ['Grid[0,1,2]', 'INT'],
        ['Alarms[37]', 'BOOL'],
        ['Alarms[36]', 'BOOL'],
        ['Status.1', 'BOOL'],
        ['Status.4', 'BOOL'],
        ['Shift_Name', 'STRING(82)'],
        ['Bagger[2].Recipe', 'STRING(40)'],
        ['Bagger[1].Bags', 'DINT'],
        ['bagger[3].jaw[1]', 'REAL'],
        ['Bagger[0].Running', 'BOOL'],
        ['Bagger[0].Fault', 'BOOL'],
        ['Program:Packing.Pallet.Layer', 'SINT'],
        ['Program:Packing.Bags_Wanted', 'DINT'],
      ),
    ).toEqual([
      '12.5',
      'on',
      '9007199254741077',
      '710',
      '123',
      '12',
      'on',
      'off',
      'on',
      'off',
      'Early',
      'Jumbo oats 20',
      '4137',
      '152',
      'on',
      'off',
      '3',
      '4800',
    ]);
  });

  test('of another type than the tag has are refused with what to choose; bit strings take the bits of any integer of their width', async () => {
    const device = await connected();
    expect(
      await read(
        device,
        ['Film_Left', 'DINT'],
        ['Film_Left', 'UINT'],
        ['Film_Left', 'WORD'],
        ['Line_Speed', 'DINT'],
        ['Bags_Total', 'LWORD'],
        ['Bagger[0]', 'DINT'],
        ['Line_Speed.3', 'BOOL'],
        ['Film_Left.16', 'BOOL'],
        ['Grid[0]', 'BOOL'],
        ['Status', 'STRING(8)'],
      ),
    ).toEqual([
      'malformed: unfit-value',
      'malformed: unfit-value',
      '710',
      'malformed: unfit-value',
      '9007199254741077',
      'malformed: unfit-value',
      'malformed: unfit-value',
      'malformed: unfit-value',
      'refused: cip-05',
      'malformed: unfit-value',
    ]);
    const came: Arrival[] = [];
    await device.prepare([point('Film_Left', 'UINT')]).read((_key, arrival) => came.push(arrival), context());
    const [arrival] = came;
    expect(arrival && 'fault' in arrival ? arrival.fault.problem.remedy : '').toBe('Choose INT, or WORD for its bits without a sign.');
  });

  test('that are not there say why, beside others that come', async () => {
    const device = await connected();
    expect(
      await read(
        device,
        ['Nobody', 'DINT'],
        ['Film_Left', 'INT'],
        ['Bagger[4].Bags', 'DINT'],
        ['Bagger[1].Nothing', 'DINT'],
        ['Program:Other.Step', 'DINT'],
      ),
    ).toEqual(['refused: cip-04', '710', 'refused: cip-ff-2105', 'refused: cip-04', 'refused: cip-04']);
  });

  test('of many tags come in few messages, elements that lie together in one service', async () => {
    const device = await connected();
    const points = Array.from({ length: 200 }, (_, i) => point(`Speed_History[${i}]`, 'REAL'));
    const group = device.prepare([
      ...points,
      ...Array.from({ length: 24 }, (_, i) => point(`Grid[${i >> 3 > 1 ? 1 : 0},${(i >> 2) % 3},${i % 4}]`, 'INT')),
    ]);
    await group.read(() => undefined, context());
    expect(group.requestCount).toBe(1);
    const before = pack.cip.messages;
    const came: Arrival[] = [];
    await group.read((_key, arrival) => came.push(arrival), context());
    expect([pack.cip.messages - before, came.length, came.filter((a) => 'fault' in a).length]).toEqual([1, 224, 0]);
  });

  test('longer than a message come in fragments, and say so where a change could have come between', async () => {
    const device = await connected({}, { messageBytes: 100 });
    pack.controller.takeOut();
    expect(await read(device, ['Shift_Name', 'STRING(82)'], ['Film_Left', 'INT'])).toEqual(['Early', '710']);
    const small = await connected({}, { messageBytes: 101, messages: 'connected' });
    const points = Array.from({ length: 60 }, (_, i) => point(`Speed_History[${i}]`, 'REAL'));
    const came = new Map<string, string>();
    for (let round = 0; round < 2; round++)
      await small.prepare(points).read((key, arrival) => came.set(key, 'fault' in arrival ? arrival.fault.problem.code : 'good'), context());
    expect([came.size, new Set(came.values())]).toEqual([60, new Set(['good'])]);
  });

  test.each([
    ['4000 bytes', {}, {}],
    ['the size that the controller offers in its place', { largest: 1000 }, {}],
    ['500 bytes, where it does not know the large form', { hasLargeOpen: false }, {}],
    ['messages without a connection, where it grants none', { largest: 0 }, {}],
    ['messages without a connection, as set', {}, { messages: 'unconnected' }],
    ['one service in each message, where it takes no more', { takesPackets: false }, {}],
    ['one service in each message, as set', {}, { packing: false }],
  ])('are the same by %s', async (_how, traits, dialect) => {
    const other = await startController(traits);
    const device = await connected({}, dialect, other);
    for (let round = 0; round < 2; round++)
      expect(
        await read(
          device,
          ['Line_SpeedSP', 'REAL'],
          ['Alarms[37]', 'BOOL'],
          ['Shift_Name', 'STRING(82)'],
          ['Bagger[1].Bags', 'DINT'],
          ['Nobody', 'INT'],
        ),
      ).toEqual(['12.5', 'on', 'Early', '4137', 'refused: cip-04']);
    await other.stop();
  });
});

test('an address is the same place in small and capital letters', () => {
  const origin = (canonical: string): readonly string[] => cip.description.origin({ host: '127.0.0.1' }, { route: '1,0' }, {}, canonical);
  expect(origin('Bagger[2].Weight')).toEqual(origin('bagger[2].WEIGHT'));
  expect(origin('Bagger[2].Weight')).not.toEqual(origin('Bagger[1].Weight'));
});

describe('what a controller does', () => {
  test.each([
    ['an empty slot', { route: '1,3' }, 'cip-01-0312'],
    ['no such port', { route: '5,0' }, 'cip-01-0311'],
  ])('a route to %s is told as such, with and without a connection', async (_what, settings, code) => {
    for (const dialect of [{}, { messages: 'unconnected' }]) {
      const device = await connected(settings, dialect);
      expect(await read(device, ['Film_Left', 'INT'])).toEqual([`refused: ${code}`]);
      expect((await device.isThere?.(context()))?.problem.message).toContain('status 01h');
    }
  });

  test('a connection that it has forgotten is opened again by itself; until then no value is good', async () => {
    const other = await startController();
    const device = await connected({}, { timeoutMs: 100 }, other);
    expect(await read(device, ['Film_Left', 'INT'])).toEqual(['710']);
    other.cip.forgetConnections();
    expect(await read(device, ['Film_Left', 'INT'])).toEqual(['silent: timeout']);
    expect(await read(device, ['Film_Left', 'INT'])).toEqual(['710']);
    await other.stop();
  });

  test('a broken connection is made again, with a session and a connection of its own', async () => {
    const other = await startController();
    const device = await connected({}, {}, other);
    expect(await read(device, ['Film_Left', 'INT'])).toEqual(['710']);
    other.cip.dropSockets();
    await until('it comes back', async () => (await read(device, ['Film_Left', 'INT']))[0] === '710');
    expect(other.cip.connections).toBe(1);
    sessions.at(-1)?.close();
    await until('it is closed', () => other.cip.connections === 0);
    await other.stop();
  });

  test('a late answer never becomes the value of another request', async () => {
    const other = await startController();
    const device = await connected({}, { timeoutMs: 60 }, other);
    expect(await read(device, ['Bagger[0].Bags', 'DINT'])).toEqual(['4000']);
    other.cip.traits.delayMs = 90;
    expect(await read(device, ['Bagger[1].Bags', 'DINT'])).toEqual(['silent: timeout']);
    other.cip.traits.delayMs = 0;
    await until('answers come again', async () => (await read(device, ['Bagger[2].Bags', 'DINT']))[0] === '4274');
    await until('the late one has come', () => frames.some((f) => f.oddity === 'late'));
    await other.stop();
  });

  test('a tag renamed, an array shrunk, a structure laid out anew: each tag tells its own truth', async () => {
    const other = await startController();
    const device = await connected({}, {}, other);
    const points = ['Line_SpeedSP', 'Speed_History[3]', 'Speed_History[190]', 'Bagger[2].Target'].map((address) => point(address, 'REAL'));
    const group = device.prepare(points);
    const values = async (): Promise<string[]> => {
      const came = new Map<string, Arrival>();
      await group.read((key, arrival) => came.set(key, arrival), context());
      return points.map((p) => text(p, came.get(p.key)));
    };
    other.controller.putIn();
    const speed = await values();
    expect([speed[0], speed[3]]).toEqual(['12.5', '25']);
    other.controller.renameSetPoint('Belt_Set_Point');
    other.controller.resizeHistory(100);
    other.controller.relay();
    expect(await values()).toEqual(['refused: cip-04', '0', 'refused: cip-ff-2105', '25']);
    expect(await read(device, ['Belt_Set_Point', 'REAL'])).toEqual(['12.5']);
    await other.stop();
  });

  test('which is mute costs one time-out a reading, and values tell of it', async () => {
    const other = await startController({ isMute: false });
    const device = await connected({}, { timeoutMs: 80 }, other);
    await read(device, ['Film_Left', 'INT']);
    other.cip.traits.isMute = true;
    const begun = Date.now();
    expect(
      await read(
        device,
        ...Array.from({ length: 40 }, (_, i): [string, string] => [`Grid[0,${i % 3},${i % 4}]`, i % 2 ? 'INT' : 'WORD']).slice(0, 12),
      ),
    ).toContain('silent: timeout');
    expect(Date.now() - begun).toBeLessThan(1000);
    await other.stop();
  });
});

describe('the list of its tags', () => {
  test('has every tag that can be one, with its type: programs, structures, arrays, texts; and none that the controller keeps for itself', async () => {
    const device = await connected();
    const nodes = await browseAll(device);
    const types = new Map(nodes.map(({ path, type }) => [path, type]));
    expect(types.get('Bagger[3].Jaw[2]')).toBe('REAL');
    expect(types.get('Bagger[0].Recipe')).toBe('STRING(40)');
    expect(types.get('Bagger[0].Fault')).toBe('BOOL');
    expect(types.get('Shift_Name')).toBe('STRING(82)');
    expect(types.get('Grid[1,2,3]')).toBe('INT');
    expect(types.get('Alarms[63]')).toBe('BOOL');
    expect(types.get('Program:Packing.Pallet.Codes[7]')).toBe('INT');
    expect(nodes.filter(({ path }) => /zzzz|__/i.test(path))).toEqual([]);
    expect(nodes).toHaveLength(4 + 1 + 64 + 1 + 1 + 4 * (6 + 3 + 1) + 24 + 200 + 1 + 1 + 2 + 8);
    // Each of them can be read as what it is said to be.
    const came = new Map<string, Arrival>();
    const points = nodes.map(({ canonical, type }) => point(canonical, type ?? ''));
    await device.prepare(points).read((key, arrival) => came.set(key, arrival), context());
    expect(points.map((p) => text(p, came.get(p.key))).filter((shown) => shown.includes(':') || shown.includes('bad'))).toEqual([]);
  });

  test('comes in pages where messages are small', async () => {
    const device = await connected({}, { messageBytes: 100 });
    expect(await browseAll(device)).toHaveLength((await browseAll(await connected())).length);
  });
});

describe('another client of named tags', () => {
  test('reads and writes the same values of the same controller', async () => {
    const other = await startController();
    const { Controller, Tag, TagGroup } = peerFor(other.port);
    const peer = new Controller(true);
    await peer.connect('127.0.0.1', 0, false);
    const device = await connected({}, {}, other);
    const names = [
      ['Line_SpeedSP', 'REAL'],
      ['Film_Left', 'INT'],
      ['Status', 'DINT'],
      ['Bagger[2].Bags', 'DINT'],
      ['Bagger[1].Weight', 'REAL'],
      ['Bagger[1].Jaw[2]', 'REAL'],
      ['Line_Running', 'BOOL'],
    ] as const;
    const tags = names.map(([name]) => new Tag(name));
    const group = new TagGroup();
    for (const tag of tags) group.add(tag);
    await peer.readTagGroup(group);
    const ours = await read(device, ...names);
    expect(tags.map(({ value }) => (typeof value === 'boolean' ? (value ? 'on' : 'off') : String(value)))).toEqual(ours);
    const single = new Tag('Grid[1,2,3]');
    await peer.readTag(single);
    expect(String(single.value)).toBe((await read(device, ['Grid[1,2,3]', 'INT']))[0]);
    const setPoint = new Tag('Line_SpeedSP');
    await peer.readTag(setPoint);
    await peer.writeTag(setPoint, 9.75);
    expect(await read(device, ['Line_SpeedSP', 'REAL'])).toEqual(['9.75']);
    await write(device, 'Bagger[2].Bags', 'DINT', 77);
    const bags = new Tag('Bagger[2].Bags');
    await peer.readTag(bags);
    expect(bags.value).toBe(77);
    await peer.disconnect();
    await other.stop();
  });
});

describe('a test of the way to the controller', () => {
  const stages = async (device: DeviceSession, ...points: PointSpec[]): Promise<Map<string, TestStage>> => {
    const found = new Map<string, TestStage>();
    for await (const stage of device.test(points, context())) found.set(stage.id, stage);
    return found;
  };

  test('goes through host, adapter, processor, connection, tags and one value', async () => {
    pack.controller.putIn();
    const found = await stages(await connected(), point('Film_Left', 'INT'));
    expect([...found.values()].map((s) => `${s.id} ${s.state}`)).toEqual([
      'settings passed',
      'session passed',
      'adapter passed',
      'processor passed',
      'connection passed',
      'tags passed',
      'read passed',
    ]);
    expect(found.get('processor')?.seen).toBe('Packing controller, revision 3.011, serial 4C070C51');
    expect(found.get('connection')?.seen).toContain('4000 bytes');
    expect(found.get('read')?.seen).toBe('Film_Left is 710');
  });

  test('names the empty slot, the refused connection, the tag that is gone and the port where nobody listens', async () => {
    const empty = await stages(await connected({ route: '1,7' }));
    expect(empty.get('processor')).toMatchObject({ state: 'failed', causes: [{ id: 'cip-01-0312' }] });
    const other = await startController({ largest: 0 });
    const small = await stages(await connected({}, {}, other), point('Gone', 'INT'));
    expect(small.get('connection')).toMatchObject({ state: 'noted' });
    expect(small.get('read')).toMatchObject({ state: 'failed', causes: [{ id: 'cip-04' }] });
    await other.stop();
    const nobody = linkTo(other.port);
    await until('it waits', () => nobody.state.phase === 'waiting');
    const refused = await stages(nobody.device({}, {}));
    expect(refused.get('session')).toMatchObject({ state: 'failed', causes: [{ id: 'host-refused' }] });
    expect(refused.get('read')?.state).toBe('skipped');
  });
});

describe('everybody on a network', () => {
  const found = async (settings: Record<string, unknown>): Promise<string[]> => {
    const all: string[] = [];
    for await (const party of cip.discover?.(settings, context()) ?? [])
      all.push(party.ok ? `${party.value.where} ${party.value.seen} ${JSON.stringify(party.value.settings)}` : party.problem.code);
    return all;
  };

  test('is asked by the adapter that was chosen, and each is told once, with what reaches it', async () => {
    expect(await found({ adapter: 'lo', port: pack.port })).toEqual([
      `127.0.0.1:${pack.port} Packing controller, revision 3.011, serial 4C070C51 {"host":"127.0.0.1","port":${pack.port}}`,
    ]);
    expect(await found({ adapter: 'nowhere', port: pack.port })).toEqual(['no-adapter']);
  });

  test('is reached at the broadcast address of the adapter’s network', () => {
    // RFC 919: the host part all ones.
    expect([
      broadcastOf('192.0.2.77', '255.255.255.0'),
      broadcastOf('198.51.100.130', '255.255.255.192'),
      broadcastOf('127.0.0.1', '255.0.0.0'),
    ]).toEqual(['192.0.2.255', '198.51.100.191', '127.255.255.255']);
  });
});

describe('the trace', () => {
  test('is what tshark reads in the same frames: services, refusals, and nothing malformed', async () => {
    const device = await connected();
    await read(device, ['Film_Left', 'INT'], ['Nobody', 'INT'], ['Line_SpeedSP', 'REAL']);
    await read(device, ['Film_Left', 'INT']);
    await write(device, 'Status.9', 'BOOL', true);
    await write(device, 'Line_SpeedSP', 'REAL', 12.5);
    await device.browse?.('', context());
    await device.identify?.(context());
    const kept = [...frames];
    const file = join(mkdtempSync(join(process.env.MILL_LATCH_SCRATCH ?? tmpdir(), 'cip-')), 'cip.pcap');
    writeFileSync(file, pcapOf(kept, { kind: 'tcp', port: pack.port }));
    const fields = ['enip.command', 'cip.service', 'cip.genstat', '_ws.malformed'].flatMap((field) => ['-e', field]);
    const out = execFileSync('tshark', ['-r', file, '-d', `tcp.port==${pack.port},enip`, '-T', 'fields', '-E', 'occurrence=f', ...fields], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    const theirs = out
      .split('\n')
      .filter(Boolean)
      .map((line) => line.split('\t'));
    expect(theirs).toHaveLength(kept.length);
    expect(theirs.filter((line) => line[3])).toEqual([]);
    for (const [at, { direction, bytes }] of kept.entries()) {
      const [command = '', service = '', status = ''] = theirs[at] ?? [];
      const ours = dissectEip(direction, bytes);
      expect(ours.fields[0]?.words.split('h')[0]).toBe(Number(command).toString(16).toUpperCase().padStart(2, '0'));
      const told = ours.fields.find((f) => f.name === 'Service')?.words.split('h')[0];
      if (service !== '') expect(told).toBe(Number(service).toString(16).toUpperCase().padStart(2, '0'));
      if (direction === 'received' && status !== '')
        expect(ours.fields.some((f) => f.name === 'Status' && f.at > 24 && (f.words === 'good') === (Number(status) === 0))).toBe(true);
    }
    expect(kept.map(({ direction, bytes }) => dissectEip(direction, bytes).summary)).toEqual(
      expect.arrayContaining(['register session', 'Large Forward Open', 'INT, 2 bytes', 'Read-Modify-Write Tag Status', 'Write Tag Line_SpeedSP']),
    );
  });
});
