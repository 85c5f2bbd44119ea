/**
 * What other machines get of the real server, router included: nothing but what they joined for, however the request is
 * written. OWASP ASVS 4.0.3 (numbers from memory): 4.1.1 access control on a trusted service layer, 4.1.5 it fails securely,
 * 5.1.1 and 13.1.1 one meaning of a request for all parsers.
 */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { connect } from 'node:net';
import { v7 as uuid } from 'uuid';
import { WebSocket } from 'ws';
import { OPERATIONS } from '@/app/api/http/operations.ts';
import { fromColumns, type JsonColumns } from '@/core/jsonColumns.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';

const LAN = '127.0.0.2';
let server: RunningServer;
let cookie = '';
const data = newFolder();
const local = (path: string, body: unknown): Promise<Response> =>
  fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

beforeAll(async () => {
  server = await startServer(data.folder, await freePort());
  expect((await local('/network', { open: true, address: LAN, names: [] })).status).toBe(200);
  const { code } = (await (await local('/network/code', {})).json()) as { code: string };
  const joined = await fetch(`http://${LAN}:${server.port}/api/v1/join`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ code, name: 'phone of R. Vale' }),
  });
  expect(joined.status).toBe(200);
  cookie = (joined.headers.get('set-cookie') ?? '').split(';')[0] ?? '';
});
afterAll(async () => {
  await server.stop();
  data.remove();
});

/** A request as it is written, sent byte by byte as given. */
function sent(method: string, target: string, headers: readonly string[] = []): Promise<{ readonly status: number; readonly body: string }> {
  return new Promise((resolve, reject) => {
    const socket = connect(server.port, LAN);
    let text = '';
    const lines = [`${method} ${target} HTTP/1.1`, `host: ${LAN}:${server.port}`, 'connection: close', 'content-length: 0', ...headers];
    socket.on('error', reject);
    socket.on('data', (chunk: Buffer) => (text += chunk.toString('latin1')));
    socket.on('close', () => resolve({ status: Number(/^HTTP\/1\.1 (\d+)/.exec(text)?.[1] ?? 0), body: text.slice(text.indexOf('\r\n\r\n') + 4) }));
    socket.write(`${lines.join('\r\n')}\r\n\r\n`, 'latin1');
  });
}

/** The same place, written in ways that a guard and a router may read differently. */
const tricks = (path: string): readonly string[] => [
  path,
  `${path}/`,
  `${path}?x=/_next/static/`,
  `${path}#/_next/static/`,
  `${path};/_next/static/`,
  `${path}%00`,
  `${path}%2f`,
  path.replace('/api', '/%61pi'),
  path.replace('/v1', '//v1'),
  path.replace('/v1', '/./v1'),
  path.replace('/v1', '%2fv1'),
  path.replace('/v1', '\\v1'),
  path.toUpperCase(),
  `/${path}`,
  `/.${path}`,
  `/..${path}`,
  `/join/..${path}`,
  `/join/%2e%2e${path}`,
  `/panel/..${path}`,
  `/icon.svg/..${path}`,
  `/_next/static/../..${path}`,
  `/_next/static/..;/..;${path}`,
  `/_next/static/%2e%2e/%2e%2e${path}`,
  `/_next/static/%2E./.%2E${path}`,
  `/_next/static/%252e%252e/%252e%252e${path}`,
  `/_next/static/..%2f..${path}`,
  `/_next/static/..%5c..${path}`,
  `/_next/static/..\\..${path.replaceAll('/', '\\')}`,
  `/_next/static//../..${path}`,
  `/_next/static/%00/../../..${path}`,
  `/_next/static/\u00a0/../../..${path}`,
  `/_next/data/x${path}.json`,
  `/_next/image?url=${encodeURIComponent(path)}&w=64&q=75`,
  `http://${LAN}:${server.port}/_next/static/../..${path}`,
  `http://${LAN}:${server.port}${path}`,
  `//${LAN}:${server.port}${path}`,
  '*',
];
/** Headers by which routers and proxies are told another path, method or asker. */
const HEADERS: readonly string[] = [
  'x-middleware-subrequest: middleware:middleware:middleware:middleware:middleware',
  'x-matched-path: /api/v1/project-file',
  'x-invoke-path: /api/v1/project-file',
  'x-rewrite-url: /api/v1/project-file',
  'x-original-url: /api/v1/project-file',
  'x-http-method-override: GET',
  'x-mill-latch-peer: 01a20bcf-0000-7000-8000-000000000001',
  'x-mill-latch-remote: write',
  'x-forwarded-for: 127.0.0.1',
];

const SECRET = /"(links|devices|peers|tokenHash|sourceId|settings)"/;
const routes = OPERATIONS.map(({ method, path }) => ({
  method: method.toUpperCase(),
  path: `/api/v1${path.replace(/\{\w+\}/g, '01a20bcf-0000-7000-8000-000000000001')}`,
}));

async function answered(asked: readonly { readonly method: string; readonly target: string }[], headers: readonly string[]): Promise<string[]> {
  const wrong: string[] = [];
  const queue = [...asked];
  const work = async (): Promise<void> => {
    for (let next = queue.shift(); next; next = queue.shift()) {
      const { status, body } = await sent(next.method, next.target, headers);
      if (status < 300 || status >= 500 || SECRET.test(body)) wrong.push(`${next.method} ${next.target}: ${status}`);
    }
  };
  await Promise.all([work(), work(), work(), work()]);
  return wrong;
}
const joining = ({ method, path }: { method: string; path: string }): boolean => method === 'POST' && path === '/api/v1/join';
const reading = ({ method, path }: { method: string; path: string }): boolean =>
  method === 'GET' && /^\/api\/v1\/(panels(\/[^/]+)?|status|values)$/.test(path);

describe('another machine', () => {
  test('gets nothing of any route without a session, however the path is written', async () => {
    const all = routes.filter((route) => !joining(route));
    const asked = all.flatMap(({ method, path }) => tricks(path).map((target) => ({ method, target })));
    expect(asked.length).toBeGreaterThan(1000);
    expect(await answered(asked, [])).toEqual([]);
  }, 120_000);
  test('gets no more by headers that name another path, method or asker', async () => {
    const asked = ['/api/v1/project-file', '/api/v1/project', '/_next/static/../../api/v1/project', '/join/../api/v1/network'].flatMap((target) =>
      ['GET', 'HEAD', 'POST'].map((method) => ({ method, target })),
    );
    for (const header of HEADERS) expect(await answered(asked, [header])).toEqual([]);
  }, 60_000);
  test('gets what panels show once it has joined, and nothing else', async () => {
    const all = routes.filter((route) => !reading(route));
    const asked = all.flatMap(({ method, path }) => tricks(path).map((target) => ({ method, target })));
    expect(await answered(asked, [`cookie: ${cookie}`])).toEqual([]);
    for (const { method, path } of routes.filter(reading))
      expect((await sent(method, path, [`cookie: ${cookie}`])).status).toBe(path.includes('/panels/') ? 404 : 200);
  }, 120_000);
  test('is answered with a problem document where a method is none of ours', async () => {
    for (const method of ['TRACE', 'OPTIONS', 'PROPFIND']) {
      const { status, body } = await sent(method, '/api/v1/status', [`cookie: ${cookie}`]);
      expect([method, status, body.includes('"code":"method"')]).toEqual([method, 405, true]);
    }
  });
});

describe('what a phone or panel gets of a project', () => {
  const ids = Array.from({ length: 8 }, () => uuid());
  const [linkId, deviceId, shown, hidden, panelId, pageId, elementId] = ids as [string, string, string, string, string, string, string];
  const tag = (name: string, address: string) => ({
    source: newPoint(deviceId, address),
    name,
    groupId: null,
    type: 'INT',
    access: 'readWrite',
    confirm: { kind: 'equal' },
    unit: '°C',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    comment: `secret of ${name}`,
    names: [],
    initial: '',
    listId: '',
    listName: '',
    isGone: false,
  });
  beforeAll(async () => {
    const changes = [
      { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '192.0.2.77', port: 502 } } },
      {
        kind: 'device',
        id: deviceId,
        set: {
          linkId,
          name: 'KILN',
          settings: { unit: 77 },
          dialect: { order16: 'BA' },
          witnessUrl: 'http://127.0.0.1:8578',
          identity: 'serial 4711',
        },
      },
      { kind: 'tag', id: shown, set: tag('shown', 'HR1') },
      { kind: 'tag', id: hidden, set: tag('hidden', 'HR2') },
      { kind: 'panel', id: panelId, set: { name: 'Panel' } },
      { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
      { kind: 'element', id: elementId, set: { pageId, kind: 'value', tagId: shown, label: '', x: 0, y: 0, w: 200, h: 64, settings: {} } },
    ];
    const made = await local('/commands', { id: uuid(), label: 'made', changes });
    expect([made.status, made.status === 200 ? '' : await made.text()]).toEqual([200, '']);
  });
  const asked = async (path: string): Promise<string> => (await fetch(`http://${LAN}:${server.port}/api/v1${path}`, { headers: { cookie } })).text();

  test('is its panels and what they show: no hosts, no comments, no other tags, nobody’s name', async () => {
    await local('/guard/unlock', { deviceId, minutes: 5, who: 'R. Vale', writers: ['panel'] });
    for (const path of ['/panels', `/panels/${panelId}`, '/project', '/values', '/status']) {
      const text = await asked(path);
      for (const secret of ['192.0.2.77', '127.0.0.1:8578', '"unit":77', 'serial 4711', 'secret of', 'hidden', hidden, 'R. Vale'])
        expect([path, secret, text.includes(secret)]).toEqual([path, secret, false]);
    }
    const panel = JSON.parse(await asked(`/panels/${panelId}`)) as { tags: JsonColumns };
    const tags = fromColumns<{ name: string; signal: { order: string } }>(panel.tags);
    expect(tags.map((t) => [t.name, t.signal.order])).toEqual([['shown', 'BA']]);
    expect(JSON.parse(await asked('/project'))).toMatchObject({ status: 403, code: 'not-here' });
  });
  test('comes over its live channel likewise: no changes, and no values of other tags', async () => {
    const socket = new WebSocket(`ws://${LAN}:${server.port}/api/v1/live`, { headers: { cookie, origin: `http://${LAN}:${server.port}` } });
    const texts: string[] = [];
    socket.on('message', (data: Buffer) => {
      const message = JSON.parse(data.toString()) as { kind: string; batch?: number };
      texts.push(data.toString());
      if (message.kind === 'batch') socket.send(JSON.stringify({ kind: 'ack', batch: message.batch }));
    });
    await once(socket, 'open');
    socket.send(JSON.stringify({ kind: 'subscribe', tags: [shown, hidden] }));
    await until('its value came', () => texts.some((text) => text.includes(shown)));
    const revision = ((await (await fetch(`http://127.0.0.1:${server.port}/api/v1/project`)).json()) as { revision: number }).revision;
    await local('/commands', { id: uuid(), label: 'renamed', changes: [{ kind: 'tag', id: hidden, set: { comment: 'secret of another' } }] });
    await until('it is told to ask again', () => texts.some((text) => text.includes('"hello"') && text.includes(`"revision":${revision + 1}`)));
    socket.close();
    expect(
      texts.filter((text) => text.includes(hidden) || text.includes('secret') || text.includes('192.0.2.77') || text.includes('R. Vale')),
    ).toEqual([]);
  });
});

describe('a body that nobody signed', () => {
  const residentMb = (): number => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
  /** Sends chunks until the server has enough of them. */
  function flood(path: string, megabytes: number): Promise<{ readonly status: number; readonly sentMb: number }> {
    return new Promise((resolve) => {
      const socket = connect(server.port, LAN);
      const chunk = Buffer.alloc(1_000_000, '[');
      let [text, sentMb, isOver] = ['', 0, false];
      const end = (): void => {
        if (isOver) return;
        isOver = true;
        socket.destroy();
        resolve({ status: Number(/^HTTP\/1\.1 (\d+)/.exec(text)?.[1] ?? 0), sentMb });
      };
      const more = (): void => {
        if (isOver) return;
        if (sentMb >= megabytes) return void socket.write('0\r\n\r\n');
        sentMb++;
        socket.write('f4240\r\n');
        socket.write(chunk);
        socket.write('\r\n', () => setImmediate(more));
      };
      socket.on('data', (data: Buffer) => {
        text += data.toString('latin1');
        setTimeout(end, 300);
      });
      socket.on('error', end);
      socket.on('close', end);
      socket.write(`POST ${path} HTTP/1.1\r\nhost: ${LAN}:${server.port}\r\ncontent-type: application/json\r\ntransfer-encoding: chunked\r\n\r\n`);
      more();
    });
  }
  test('is refused as soon as it is too long, and costs no memory: hundreds of megabytes to the page to join with', async () => {
    const before = residentMb();
    const all = await Promise.all([flood('/api/v1/join', 300), flood('/api/v1/join', 300), flood('/api/v1/join', 300)]);
    for (const { status } of all) expect([413, 422]).toContain(status);
    for (const { sentMb } of all) expect(sentMb).toBeLessThan(100);
    expect(residentMb() - before).toBeLessThan(100);
    expect((await fetch(`${server.address}/api/v1/status`)).status).toBe(200);
  }, 60_000);
  test('that is nested as deep as it is long is refused at once, here too', async () => {
    const begun = performance.now();
    const deep = await fetch(`${server.address}/api/v1/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: `{"id":${'['.repeat(9_800_000)}`,
    });
    expect(deep.status).toBe(422);
    expect(performance.now() - begun).toBeLessThan(1000);
  });
  test('that never comes to its end is not waited for longer than half a minute', async () => {
    const begun = performance.now();
    const open = (text: string): Promise<void> =>
      new Promise((resolve) => {
        const socket = connect(server.port, LAN);
        socket.on('error', () => resolve());
        socket.on('close', () => resolve());
        socket.on('data', () => undefined);
        socket.write(text);
      });
    const head = `POST /api/v1/join HTTP/1.1\r\nhost: ${LAN}:${server.port}\r\n`;
    await Promise.all([open(head), open(`${head}content-type: application/json\r\ncontent-length: 500\r\n\r\n{"code"`)]);
    expect(performance.now() - begun).toBeGreaterThan(20_000);
    expect(performance.now() - begun).toBeLessThan(45_000);
  }, 60_000);
});

describe('this machine', () => {
  test('runs the scripts of its pages and no others, and talks to nobody else (CSP Level 3)', async () => {
    const [one, two] = await Promise.all([fetch(`${server.address}/map`), fetch(`${server.address}/map`)]);
    const policies = [one, two].map((answer) => answer.headers.get('content-security-policy') ?? '');
    const scripts = /script-src ([^;]*)/.exec(policies[0] ?? '')?.[1] ?? '';
    expect(scripts).toMatch(/^'self' 'nonce-[\w+/=]{24}'$/);
    expect(policies[0]).not.toBe(policies[1]);
    expect(policies[0]).toContain(`connect-src 'self' ws://${new URL(server.address).host};`);
    const html = await one.text();
    const inline = [...html.matchAll(/<script(?![^>]*\ssrc=)[^>]*>/g)].map(([tag]) => tag);
    expect(inline.length).toBeGreaterThan(1);
    const nonce = /'nonce-([^']*)'/.exec(scripts)?.[1] ?? '';
    expect(inline.filter((tag) => !tag.includes(`nonce="${nonce}"`))).toEqual([]);
  });
  test('refuses a path that is not plain, too, and serves its own pages', async () => {
    for (const path of ['/', '/map', '/lists', '/panels', '/api/v1/project', '/icon.svg'])
      expect([path, (await fetch(`${server.address}${path}`)).status]).toEqual([path, 200]);
    expect((await fetch(`${server.address}/_next/static/%2e%2e%2f%2e%2e/api/v1/project`)).status).toBe(400);
  });
});
