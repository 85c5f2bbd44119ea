/** The bench's side of a panel host: how it finds it, what it tells of it, and what it makes of answers that are none. */
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { addDriver } from '@/drivers/registry.ts';
import { systemClock } from '@/runtime/clock.ts';
import { hostAddress } from '@/services/hosting/hostLink.ts';
import { HostingService } from '@/services/hosting/hostingService.ts';
import type { StoredHost } from '@/store/panelHostStore.ts';
import { MOCK_MANIFEST } from '../support/mockDriver.ts';
import { describedBy } from '@/drivers/describedBy.ts';
import { hostedPanel, sendTo } from '../support/hostedPanel.ts';
import { openHost, type HostHere } from '../support/hostHere.ts';
import { newFolder } from '../support/server.ts';
import { openBench, type Bench } from '../support/services.ts';

const THREE_HOURS_MS = 3 * 3_600_000;
let bench: Bench;
let at: HostHere;
let folder = '';
let remove = (): void => undefined;
let hosting: HostingService;
let fetched: WriteRecord[] = [];
const panelId = uuid();
/** What answers instead of the host; null for the host itself. */
let answer: ((path: string) => Promise<Response>) | null = null;
const realFetch = globalThis.fetch;

beforeAll(async () => {
  bench = await openBench();
  const pageId = uuid();
  await bench.change('a panel', [
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
  ]);
  globalThis.fetch = async (url, init) => {
    const path = new URL(url instanceof Request ? url.url : url).pathname.replace('/api/v1/host/', '');
    if (answer) return answer(path);
    const body = JSON.parse(typeof init?.body === 'string' ? init.body : '{}') as Record<string, string>;
    if (path === 'hello') return Response.json(at.host.greeting());
    if (path === 'pair') return told(await at.host.pairing.begin(body.bench ?? '', body.key ?? ''));
    if (path === 'prove') return told(await at.host.prove(body.pairing ?? '', body.proof ?? ''));
    const done = await at.host.call(body.bench ?? '', body.nonce ?? '', body.box ?? '');
    return told(done.ok ? { ok: true, value: { box: done.value } } : done);
  };
});
afterAll(async () => {
  globalThis.fetch = realFetch;
  await bench.close();
});
beforeEach(async () => {
  ({ folder, remove } = newFolder());
  const ahead = { now: () => systemClock.now() + THREE_HOURS_MS, after: (ms: number, call: () => void) => systemClock.after(ms, call) };
  at = await openHost(folder, { clock: ahead });
  fetched = [];
  answer = null;
  hosting = hostingOf();
});
afterEach(async () => {
  await at.close();
  remove();
});

function told(result: { readonly ok: true; readonly value: unknown } | { readonly ok: false; readonly problem: { code: string; message: string } }) {
  return result.ok ? Response.json(result.value) : Response.json({ title: result.problem.message, code: result.problem.code }, { status: 422 });
}

function hostingOf(): HostingService {
  const hosts = new Map<string, StoredHost>();
  const secrets = new Map<string, string>();
  const set = (id: string, more: Partial<StoredHost>): void => {
    const known = hosts.get(id);
    if (known) hosts.set(id, { ...known, ...more });
  };
  return new HostingService({
    snapshot: () => bench.services.snapshot(),
    panels: bench.services.panels,
    pictures: { bytesOf: async () => null },
    pins: { stored: async () => null },
    secrets: {
      reveal: (id) => secrets.get(id) ?? null,
      keep: async (secret) => {
        const id = uuid();
        secrets.set(id, secret);
        return id;
      },
    },
    records: { takeFetched: async (write) => void fetched.push(write) },
    clock: systemClock,
    audit: () => undefined,
    store: {
      all: async () => [...hosts.values()],
      keep: async (host) => void hosts.set(host.id, host),
      sent: async (id, sentPanel, sentAt) => set(id, { panelId: sentPanel, sentAt }),
      named: async (id, name) => set(id, { name }),
      fetched: async (id, logSeq) => set(id, { logSeq }),
      remove: async (id) => void hosts.delete(id),
    },
  });
}

async function paired(): Promise<string> {
  const { code } = at.host.pairing.show();
  const done = await hosting.pair('192.0.2.30', `${code.slice(0, 4)} ${code.slice(4)}`);
  if (!done.ok) throw new Error(done.problem.message);
  return done.value.id;
}
const sent = async (id: string, replaces: string | null) => {
  let last;
  for await (const line of hosting.send(id, panelId, replaces, new AbortController().signal)) last = line;
  return last;
};

test('an address is a name or four numbers, with the usual port unless another is said', () => {
  expect(hostAddress(' Kiln-Panel.local ')).toBe('kiln-panel.local:4790');
  expect(hostAddress('192.0.2.30:8080')).toBe('192.0.2.30:8080');
  for (const none of ['', 'http://192.0.2.30', '192.0.2.30/x', 'a b', 'host:0', 'host:70000', '-x', '[::1]', 'user@host'])
    expect(hostAddress(none)).toBeNull();
});

describe('a host', () => {
  test('whose clock is three hours ahead is said to be, and is paired and sent to all the same', async () => {
    const id = await paired();
    const seen = await hosting.compare(id, panelId);
    expect(seen).toMatchObject({ ok: true, value: { refusal: null, isSame: false, differences: null, state: { hosted: null } } });
    expect(seen.ok && Math.abs(seen.value.clockAheadMs - THREE_HOURS_MS)).toBeLessThan(1000);
    expect(await sent(id, null)).toMatchObject({ kind: 'done', state: { hosted: { panelName: 'Panel' } } });
    expect(await hosting.compare(id, panelId)).toMatchObject({ ok: true, value: { isSame: true, differences: [] } });
  });

  test('says what differs from here, thing by thing', async () => {
    const id = await paired();
    await sent(id, null);
    await bench.change('named', [{ kind: 'panel', id: panelId, set: { name: 'Panel of the kiln' } }]);
    const seen = await hosting.compare(id, panelId);
    expect(seen.ok && seen.value.differences).toMatchObject([{ kind: 'panel', changed: { count: 1, first: [{ fields: ['name'] }] } }]);
    await bench.change('named', [{ kind: 'panel', id: panelId, set: { name: 'Panel' } }]);
  });

  test('that another bench has sent to meanwhile keeps what that has sent', async () => {
    const id = await paired();
    const other = await at.pair('other bench');
    await sendTo(other, hostedPanel('theirs'), null);
    expect(await sent(id, null)).toMatchObject({ kind: 'failed', problem: { code: 'changed-elsewhere' } });
    expect(at.host.running?.services.model.all('element')[0]?.label).toBe('theirs');
  });

  test('that lacks what a link needs is not sent to, and refuses it itself', async () => {
    const description = describedBy({ ...MOCK_MANIFEST, id: 'mock-lacking', label: 'Lacking' });
    addDriver({ description, createSession: () => { throw new Error('not here'); }, lacks: async () => 'it was made for another kind of machine.' }); // prettier-ignore
    const bench2 = await at.pair('bench');
    const link = {
      kind: 'link' as const,
      id: uuid(),
      set: { name: 'Shelf', driver: 'mock-lacking', settings: { shelf: 'main', who: 'nobody', password: '' } },
    };
    expect(await sendTo(bench2, hostedPanel('lacking', [link]), null)).toMatchObject({
      ok: false,
      problem: { code: 'no-driver', message: 'Shelf cannot run on this machine: it was made for another kind of machine.' },
    });
    expect((await at.host.state()).missing).toContainEqual({ driver: 'mock-lacking', why: 'it was made for another kind of machine.' });
  });

  test('gives its log once, entry by entry, with its name', async () => {
    const id = await paired();
    const bench2 = await at.pair('bench');
    const panel = hostedPanel('log');
    await sendTo(bench2, panel, null);
    for (const value of ['1', '2']) await at.host.running?.services.writes.write({ id: uuid(), tagId: panel.localId, value, writer: 'panel' });
    expect(await hosting.fetchLog(id)).toEqual({ ok: true, value: 2 });
    expect(new Set(fetched.map(({ host }) => host))).toEqual(new Set(['here']));
    expect(fetched.filter(({ state }) => state === 'done')).toHaveLength(2);
    expect(await hosting.fetchLog(id)).toEqual({ ok: true, value: 0 });
  });
});

describe('what answers there', () => {
  test.each([
    ['a page of something else', async () => new Response('<html>', { headers: { 'content-type': 'text/html' } }), 'no-host', 'is no panel host'],
    ['another program that speaks JSON', async () => Response.json({ hello: 1 }), 'no-host', 'is no panel host'],
    ['a host of another version', async () => Response.json({ ...at.host.greeting(), version: 99 }), 'version', 'speaks version 99'],
    ['nothing', () => Promise.reject(new TypeError('fetch failed', { cause: { code: 'ECONNREFUSED' } })), 'silent', 'nothing listens there'],
    [
      'nothing of that name',
      () => Promise.reject(new TypeError('fetch failed', { cause: { code: 'ENOTFOUND' } })),
      'silent',
      'no machine of that name',
    ],
    ['nothing in time', () => Promise.reject(new DOMException('late', 'TimeoutError')), 'silent', 'did not answer within 8 s'],
    ['more than any host says', async () => new Response('x'.repeat(5_000_000)), 'no-host', 'is no panel host'],
  ])('%s is said to be that', async (_, instead, code, words) => {
    const id = await paired();
    answer = instead;
    expect(await hosting.state(id)).toMatchObject({ ok: false, problem: { code, message: expect.stringContaining(words) } });
  });

  test('somebody who does not know the code is not taken for the host', async () => {
    const { code } = at.host.pairing.show();
    answer = async (path) => {
      if (path === 'hello') return Response.json(at.host.greeting());
      if (path === 'pair') return Response.json({ pairing: uuid(), key: Buffer.alloc(32, 9).toString('base64') });
      return Response.json({ bench: uuid(), proof: Buffer.alloc(32).toString('base64') });
    };
    expect(await hosting.pair('192.0.2.30', code)).toMatchObject({ ok: false, problem: { code: 'no-host' } });
    expect(await hosting.list()).toEqual([]);
  });
});
