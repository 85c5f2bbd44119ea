import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { Validator } from '@seriousme/openapi-schema-validator';
import { readdirSync, statSync } from 'node:fs';
import { request } from 'node:http';
import { fileURLToPath } from 'node:url';
import { v7 as uuid } from 'uuid';
import { OPERATIONS } from '@/app/api/http/operations.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';

let server: RunningServer;
const data = newFolder();
beforeAll(async () => {
  server = await startServer(data.folder, await freePort());
});
afterAll(async () => {
  await server.stop();
  data.remove();
});

const post = (path: string, body: unknown, headers: Record<string, string> = { 'content-type': 'application/json' }): Promise<Response> =>
  fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers, body: typeof body === 'string' ? body : JSON.stringify(body) });
const panels = async (): Promise<{ name: string }[]> =>
  ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { panels: { name: string }[] }).panels;

/** A raw request, since fetch sets its own Host and Origin. */
function raw(headers: Record<string, string>): Promise<number> {
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port: server.port, path: '/api/v1/status', headers }, (response) => {
      response.resume();
      resolve(response.statusCode ?? 0);
    })
      .on('error', reject)
      .end();
  });
}

describe('the API', () => {
  test('is described by a valid OpenAPI 3.1 document that names every route and no other', async () => {
    const document = (await (await fetch(`${server.address}/api/v1/openapi.json`)).json()) as { openapi: string };
    expect(document.openapi).toBe('3.1.0');
    const validated = await new Validator().validate(document);
    expect(validated.valid ? [] : validated.errors).toEqual([]);
    const folder = fileURLToPath(new URL('../src/app/api/v1', import.meta.url));
    const routes = (readdirSync(folder, { recursive: true }) as string[]).filter(
      (f) => f.endsWith('route.ts') && !f.includes('[...') && statSync(`${folder}/${f}`).isFile(),
    );
    const paths = routes.map((f) => `/${f.replace('/route.ts', '').replace(/\[(\w+)\]/g, '{$1}')}`);
    expect([...new Set(OPERATIONS.map((o) => o.path))].sort()).toEqual(paths.sort());
  });

  test('refuses a foreign Host and a foreign Origin', async () => {
    expect(await raw({ host: `127.0.0.1:${server.port}` })).toBe(200);
    expect(await raw({ host: 'mill.example' })).toBe(403);
    expect(await raw({ host: `127.0.0.1:${server.port}`, origin: 'https://example.org' })).toBe(403);
  });

  const id = uuid();
  test.each([
    ['no JSON', '{', 422, 'json'],
    ['a list instead of an object', '[]', 422, 'json'],
    ['nothing in it', {}, 422, 'invalid'],
    ['an unknown field', { id, label: 'x', changes: [{ kind: 'panel', id, set: { name: 'P' } }], also: 1 }, 422, 'invalid'],
    ['an id that is none', { id: 'x', label: 'x', changes: [{ kind: 'panel', id, set: { name: 'P' } }] }, 422, 'invalid'],
    ['no change', { id, label: 'x', changes: [] }, 422, 'invalid'],
    ['a kind that is none', { id, label: 'x', changes: [{ kind: '__proto__', id, set: {} }] }, 422, 'invalid'],
    ['something that is not there', { id, label: 'x', changes: [{ kind: 'panel', id, set: null }] }, 404, 'gone'],
  ])('a command with %s is answered with a problem document, and nothing is stored', async (_what, body, status, code) => {
    const response = await post('/commands', body);
    expect([response.status, response.headers.get('content-type')]).toEqual([status, 'application/problem+json']);
    expect(await response.json()).toMatchObject({ code, status, type: 'about:blank' });
    expect(await panels()).toEqual([]);
  });

  test('a body of another type, or too large, is refused', async () => {
    expect((await post('/commands', '{}', { 'content-type': 'text/plain' })).status).toBe(422);
    expect((await post('/lists/commit', { deviceId: id, text: 'x'.repeat(10_000_001) })).status).toBe(413);
  });

  test('an unknown address and a bad path parameter are problem documents too', async () => {
    expect((await fetch(`${server.address}/api/v1/nothing/here`)).status).toBe(404);
    expect((await post('/devices/none/test', '')).status).toBe(404);
    expect((await post('/tags/none/write', { id: uuid(), value: '1', origin: 'engineer' })).status).toBe(404);
    expect((await post('/guard/unlock', { deviceId: id, minutes: 5, who: 'R. Vale' })).status).toBe(404);
    expect((await post('/guard/unlock', { deviceId: id, minutes: 5000, who: '' })).status).toBe(422);
  });

  test('texts that hold no characters, settings without a floor and ids that are none are refused, never a server error', async () => {
    const half = JSON.parse('"\\ud800"') as string;
    for (const text of ['a\u0000b', half, `${half}x`]) {
      const told = await post('/commands', { id: uuid(), label: text, changes: [{ kind: 'panel', id: uuid(), set: { name: text } }] });
      expect([told.status, ((await told.json()) as { code: string }).code]).toEqual([422, 'json']);
      expect((await post('/checks', { tagId: id, witness: { kind: 'typed', text, who: text } })).status).toBe(422);
      expect((await post('/lists/commit', { commandId: uuid(), sourceId: uuid(), deviceId: id, fileName: text, text })).status).toBe(422);
      expect((await post('/join', { code: '12345678', name: text })).status).toBe(422);
    }
    const deep = `${'{"a":'.repeat(10_000)}1${'}'.repeat(10_000)}`;
    expect(
      (await post('/commands', `{"id":"${uuid()}","label":"x","changes":[{"kind":"link","id":"${uuid()}","set":{"settings":${deep}}}]}`)).status,
    ).toBe(422);
    for (const path of ['/lists/sources/none/versions', '/lists/drafts/none', '/links/none/frames', '/devices/none/list', '/devices/1/list'])
      expect([path, (await fetch(`${server.address}/api/v1${path}`)).status]).toEqual([path, 404]);
    for (const path of ['/writes?text=a%00b', '/writes?from=%00', '/history?limit=%00'])
      expect([path, (await fetch(`${server.address}/api/v1${path}`)).status < 500]).toEqual([path, true]);
  });

  // Every body of the API, for things that are not there: nothing that is taken can store anything.
  const bodies: Readonly<Record<string, unknown>> = {
    '/commands': {
      id: uuid(),
      label: 'x',
      changes: [{ kind: 'page', id: uuid(), set: { panelId: uuid(), name: 'P', position: 0 }, was: { name: 'Q' } }],
    },
    '/lists/drafts/01a20bcf-0000-7000-8000-000000000001/read': {
      choices: { encoding: 'utf-8', headerAt: 0, columns: ['name', 'address', ''], rule: { include: ['a*'], exclude: [], onlyForPanels: false } },
    },
    '/lists/drafts/01a20bcf-0000-7000-8000-000000000001/commit': { commandId: uuid(), renames: ['a'], bytes: [], leaveOutBad: false },
    '/lists/sources/01a20bcf-0000-7000-8000-000000000001/compare': { from: uuid(), to: uuid() },
    '/lists/commit': { commandId: uuid(), sourceId: uuid(), deviceId: uuid(), fileName: 'a.csv', text: 'Name,Address,Type\na,HR1,INT\n' },
    '/writes': { writes: [{ id: uuid(), tagId: uuid(), value: '1' }], origin: 'engineer', rounding: 'nearest' },
    '/tags/01a20bcf-0000-7000-8000-000000000001/write': { id: uuid(), value: '1', origin: 'engineer', rounding: 'nearest' },
    '/alarms/01a20bcf-0000-7000-8000-000000000001/act': { act: 'shelve', count: 1, why: 'known', minutes: 5, who: 'R. Vale' },
    '/panels/01a20bcf-0000-7000-8000-000000000001/elements/01a20bcf-0000-7000-8000-000000000001/alarm': { act: 'ack', count: 1, alarmId: uuid() },
    '/panels/01a20bcf-0000-7000-8000-000000000001/elements/01a20bcf-0000-7000-8000-000000000001/sets': {
      act: 'store',
      name: 'Thin',
      setId: uuid(),
      subject: 1,
    },
    '/operators/01a20bcf-0000-7000-8000-000000000001/pin': { pin: '2718' },
    '/panels/01a20bcf-0000-7000-8000-000000000001/sign-in': { operatorId: uuid(), pin: '2718' },
    '/panels/01a20bcf-0000-7000-8000-000000000001/sign-out': { session: 'made up' },
    '/panels/01a20bcf-0000-7000-8000-000000000001/elements/01a20bcf-0000-7000-8000-000000000001/press': {
      id: uuid(),
      value: '1',
      unit: '°C',
      seen: { '01a20bcf-0000-7000-8000-000000000003': true },
    },
    '/devices/01a20bcf-0000-7000-8000-000000000001/try': { tagId: uuid(), dialect: { countingBase: 1, order32: 'CDAB' } },
    '/devices/01a20bcf-0000-7000-8000-000000000001/find': { reference: '40001', value: '23.5' },
    // Of a driver that asks no network: nothing goes out from here.
    '/discover': { driver: 'opc-ua', settings: { endpoint: 'opc.tcp://127.0.0.1:4840', policy: 'None' } },
    '/links/01a20bcf-0000-7000-8000-000000000001/find/numbers': { from: 1, to: 2, timeoutMs: 20 },
    '/links/01a20bcf-0000-7000-8000-000000000001/find/line': { from: 1, to: 2, timeoutMs: 20 },
    '/hosts': { address: '127.0.0.1:9', code: '12345678' },
    '/hosts/01a20bcf-0000-7000-8000-000000000001/send': { panelId: '01a20bcf-0000-7000-8000-000000000001', replaces: null },
    '/hosts/01a20bcf-0000-7000-8000-000000000001/back': { replaces: 'a'.repeat(64) },
    '/guard/unlock': { deviceId: uuid(), minutes: 5, who: 'R. Vale', writers: ['panel'] },
    '/guard/lock': { deviceId: uuid() },
    '/secrets': { value: '' },
    '/holds/01a20bcf-0000-7000-8000-000000000001/off': { who: 'R. Vale' },
    '/copies/01a20bcf-0000-7000-8000-000000000001/arm': { who: 'R. Vale' },
    '/copies/01a20bcf-0000-7000-8000-000000000001/disarm': { who: 'R. Vale' },
    '/devices/01a20bcf-0000-7000-8000-000000000001/memory': { area: 'HR', from: 0, count: 10 },
    '/devices/01a20bcf-0000-7000-8000-000000000001/signature': { word: 100, reference: '40101' },
    '/checks': { tagId: uuid(), witness: { kind: 'typed', text: '1', who: 'R. Vale' } },
    '/recorder': { deviceIds: [uuid()], hours: 8, megabytes: 500 },
    '/recorder/look': { moment: 1_796_000_000_000, tagIds: [uuid()] },
    '/recorder/history': { tagId: uuid(), from: 0, to: 1_796_000_000_000 },
    '/driven': { id: uuid(), tagId: uuid(), value: '90', who: 'R. Vale' },
    '/driven/held': { id: uuid(), tagId: uuid(), value: '90', who: 'R. Vale', everyMs: 1000 },
    '/driven/permissions': { tagId: uuid(), who: 'R. Vale', low: '80', high: '95', moves: true },
    '/driven/permissions/01a20bcf-0000-7000-8000-000000000001/end': { who: 'R. Vale' },
    '/driven/isolation': { deviceId: uuid(), who: 'R. Vale', minutes: 10 },
    '/driven/back': { who: 'R. Vale' },
    '/driven/01a20bcf-0000-7000-8000-000000000001/back': { who: 'R. Vale' },
    '/driven/01a20bcf-0000-7000-8000-000000000001/stay': { who: 'R. Vale' },
    '/checks/runs': { id: uuid(), name: 'KILN', who: 'R. Vale', witness: 'display', how: 'observed', tagIds: [uuid()] },
    '/checks/runs/01a20bcf-0000-7000-8000-000000000001/checks': { tagId: uuid(), witness: { kind: 'typed', text: '1', who: 'R. Vale' } },
    '/checks/runs/01a20bcf-0000-7000-8000-000000000001/end': { who: 'R. Vale', ended: true },
    '/checks/runs/01a20bcf-0000-7000-8000-000000000001/steps': { tagId: uuid(), who: 'R. Vale', step: 'note', words: 'looked at twice' },
    '/backups/restore': { name: '2026-11-25T08-00-00 before schema 9' },
    '/network': { open: true, address: '300.0.0.1', names: ['mill-pc.local'] },
    '/network/peers/01a20bcf-0000-7000-8000-000000000001': { rights: 'read' },
    '/join': { code: '12345678', name: 'phone' },
  };
  test('every operation that takes JSON is among those that are changed at random', () => {
    const taking = OPERATIONS.filter((o) => o.body).map((o) => o.path.replace(/\{\w+\}/g, '01a20bcf-0000-7000-8000-000000000001'));
    expect(Object.keys(bodies).sort()).toEqual(taking.sort());
  });
  // REQUESTS=20000 npm run e2e -- api runs what was promised; here fewer, for the time it takes.
  const mutations = Math.ceil(Number(process.env.REQUESTS ?? 4000) / Object.keys(bodies).length);
  test.each(Object.keys(bodies))(
    `random changes of the body of %s are never a server error and store nothing`,
    async (path) => {
      const text = JSON.stringify(bodies[path]);
      const before = await (await fetch(`${server.address}/api/v1/project`)).text();
      let seed = path.length * 7919;
      const random = (n: number): number => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;
      const pieces = [
        '',
        '"',
        '}',
        '[',
        '{',
        'null',
        '1e999',
        '-1',
        '\\u0000',
        '{"a":',
        'true,',
        '__proto__',
        '"constructor":',
        '99999999999999999999',
        '\u{1F600}',
      ];
      const odd: string[] = [];
      for (let i = 0; i < mutations; i++) {
        let mutated = text;
        for (let n = 0; n <= random(3); n++) {
          const at = random(mutated.length + 1);
          mutated = mutated.slice(0, at) + (pieces[random(pieces.length)] ?? '') + mutated.slice(at + random(8));
        }
        const response = await post(path, mutated);
        const type = response.headers.get('content-type') ?? '';
        await response.arrayBuffer();
        if (response.status >= 500 || (response.status >= 400 && type !== 'application/problem+json'))
          odd.push(`${response.status} ${type}: ${mutated}`);
      }
      expect(odd).toEqual([]);
      expect(await (await fetch(`${server.address}/api/v1/project`)).text()).toBe(before);
    },
    1_200_000,
  );
});

describe('the server', () => {
  test('a second one on the same folder refuses to start and says why', async () => {
    await expect(startServer(data.folder, await freePort())).rejects.toThrow(`is in use by process ${server.process.pid}`);
  });

  test('killed at any moment, it loses nothing that it confirmed', async () => {
    const confirmed: string[] = [];
    // KILLS=100 npm run e2e -- api runs what was promised.
    for (let round = 0; round < Number(process.env.KILLS ?? 4); round++) {
      let running = true;
      const write = async (): Promise<void> => {
        for (let i = 0; running; i++) {
          const name = `panel ${round} ${i}`;
          const done = await post('/commands', { id: uuid(), label: name, changes: [{ kind: 'panel', id: uuid(), set: { name } }] }).catch(
            () => null,
          );
          if (done?.ok) confirmed.push(name);
          else if (done === null) running = false;
        }
      };
      const writing = write();
      // Some are confirmed in every round, however slow the machine; then the moment is another one each time.
      const before = confirmed.length;
      await until('some are confirmed', () => confirmed.length > before + 5);
      await new Promise((resolve) => setTimeout(resolve, (round * 37) % 300));
      await server.stop('SIGKILL');
      running = false;
      await writing;
      server = await startServer(data.folder, server.port);
      const names = new Set((await panels()).map((p) => p.name));
      expect(confirmed.filter((name) => !names.has(name))).toEqual([]);
    }
    expect(confirmed.length).toBeGreaterThan(20);
  }, 1_200_000);

  test('ends at once when asked to, an open page or not', async () => {
    const begun = Date.now();
    await server.stop('SIGTERM');
    expect(Date.now() - begun).toBeLessThan(3000);
    expect(server.process.exitCode).toBe(0);
  });
});
