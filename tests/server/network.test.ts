import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import type { Peer } from '@/core/live/network.ts';
import { plainPath, remoteVerdict } from '@/core/live/remoteAccess.ts';
import { remoteHosts, sessionToken } from '@/server/remoteGuard.ts';
import { NetworkService } from '@/services/networkService.ts';
import { NetworkStore } from '@/store/networkStore.ts';
import { Database } from '@/store/database.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES } from '../support/services.ts';

let database: Database;
let clock: FakeClock;
let network: NetworkService;
const { folder, remove } = newFolder();
beforeAll(async () => {
  database = await Database.open(folder, DATABASE_FILES);
});
afterAll(async () => {
  await database.close();
  remove();
});
const host = {
  folder,
  port: 4780,
  restart: () => undefined,
  listen: async () => ({ ok: true, value: null }) as const,
  draftThread: '',
  fileThread: '',

  startedAgain: '',
  simulate: () => Promise.reject(new Error('none here')),
};
beforeEach(async () => {
  clock = new FakeClock();
  network = new NetworkService(new NetworkStore(database), host, clock);
  await network.load();
  await network.change({ open: true, address: '127.0.0.2', names: ['mill-pc.local'] });
});
const code = (): string => {
  const shown = network.showCode();
  if (!shown.ok) throw new Error(shown.problem.message);
  return shown.value.code;
};

// OWASP ASVS 4.0.3 (numbers from memory): 2.2.1 throttling of guesses, 2.7 out-of-band codes short-lived and single-use,
// 3.2 session tokens of at least 64 bits of entropy, 3.3 sessions that can be ended.
describe('joining with a code', () => {
  test('gives a session that only reads, and the code is good once', async () => {
    const shown = code();
    expect(shown).toMatch(/^\d{8}$/);
    const joined = await network.join(shown, 'phone', '127.0.0.9');
    if (!joined.ok) throw new Error(joined.problem.message);
    expect(joined.value.peer).toMatchObject({ name: 'phone', rights: 'read' });
    expect(Buffer.from(joined.value.token, 'base64url')).toHaveLength(32);
    expect(network.peerOf(joined.value.token)?.name).toBe('phone');
    expect(await network.join(shown, 'again', '127.0.0.9')).toMatchObject({ ok: false, problem: { code: 'no-code' } });
  });
  test('survives a restart, and the data folder does not hold the token itself', async () => {
    const joined = await network.join(code(), 'panel', '127.0.0.9');
    if (!joined.ok) throw new Error(joined.problem.message);
    const again = new NetworkService(new NetworkStore(database), host, clock);
    await again.load();
    expect(again.peerOf(joined.value.token)?.name).toBe('panel');
    const stored = JSON.stringify(await database.query('select * from peers'));
    expect(stored).not.toContain(joined.value.token);
  });
  test('guesses are slowed down by address, and a code is void after ten wrong ones from anywhere', async () => {
    const shown = code();
    const wrong = shown === '00000000' ? '11111111' : '00000000';
    for (let i = 0; i < 5; i++) expect(await network.join(wrong, 'x', '127.0.0.8')).toMatchObject({ ok: false, problem: { code: 'wrong-code' } });
    expect(await network.join(shown, 'x', '127.0.0.8')).toMatchObject({ ok: false, problem: { code: 'too-many' } });
    for (let i = 0; i < 5; i++) await network.join(wrong, 'x', `127.0.1.${i}`);
    expect(await network.join(shown, 'x', '127.0.2.1')).toMatchObject({ ok: false, problem: { code: 'no-code' } });
  });
  test('a code is void after five minutes, after a newer one, and when the server is closed', async () => {
    const old = code();
    await clock.pass(5 * 60_000 + 1);
    expect(await network.join(old, 'x', '127.0.3.1')).toMatchObject({ ok: false, problem: { code: 'no-code' } });
    const first = code();
    const second = code();
    expect(await network.join(first === second ? '1' : first, 'x', '127.0.3.2')).toMatchObject({ ok: false });
    await network.change({ open: false, address: '', names: [] });
    expect(await network.join(second, 'x', '127.0.3.3')).toMatchObject({ ok: false, problem: { code: 'no-code' } });
    expect(network.showCode()).toMatchObject({ ok: false, problem: { code: 'closed' } });
  });
  test('one that is removed has no session any more, and its connections are told', async () => {
    const joined = await network.join(code(), 'lost phone', '127.0.0.9');
    if (!joined.ok) throw new Error(joined.problem.message);
    const told: string[] = [];
    network.onPeerChanged((id) => told.push(id));
    await network.setRights(joined.value.peer.id, 'write');
    expect(network.peerOf(joined.value.token)?.rights).toBe('write');
    await network.remove(joined.value.peer.id);
    expect(network.peerOf(joined.value.token)).toBeNull();
    expect(told).toEqual([joined.value.peer.id, joined.value.peer.id]);
  });
});

describe('what another machine may ask for', () => {
  const reader: Peer = { id: '1', name: 'phone', rights: 'read', joinedAt: '', seenAt: '' };
  const writer: Peer = { ...reader, rights: 'write' };
  const tag = '01a20bcf-0000-7000-8000-000000000001';
  const ask = (method: string, url: string, peer: Peer | null): string => {
    const path = plainPath(url);
    if (path === null) return '400';
    const verdict = remoteVerdict(method, path, peer);
    return verdict.kind === 'refuse' ? String(verdict.status) : verdict.kind === 'redirect' ? verdict.to : 'pass';
  };
  test('a phone that may look in checks opens a run and says what it sees there, and no more', () => {
    const looks = (method: string, path: string): string => {
      const verdict = remoteVerdict(method, path, { rights: 'check' });
      return verdict.kind === 'refuse' ? String(verdict.status) : verdict.kind;
    };
    const run = `/api/v1/checks/runs/${tag}`;
    expect([looks('GET', `/run/${tag}`), looks('GET', run), looks('GET', `${run}/tags/${tag}`)]).toEqual(['pass', 'pass', 'pass']);
    expect([looks('POST', `${run}/checks`), looks('POST', `${run}/steps`)]).toEqual(['pass', 'pass']);
    expect([looks('POST', `${run}/end`), looks('POST', '/api/v1/checks'), looks('POST', '/api/v1/checks/runs')]).toEqual(['403', '403', '403']);
    // Nobody sets a machine from a phone.
    expect([looks('POST', '/api/v1/driven'), looks('POST', '/api/v1/driven/held'), looks('POST', '/api/v1/driven/back')]).toEqual([
      '403',
      '403',
      '403',
    ]);
    expect([looks('GET', '/api/v1/checks/runs'), looks('GET', `${run}/report`), looks('GET', '/check')]).toEqual(['403', '403', 'redirect']);
    expect(looks('POST', `/api/v1/panels/${tag}/elements/${tag}/press`)).toBe('403');
    for (const rights of ['read', 'write'] as const)
      expect(remoteVerdict('POST', `${run}/checks`, { rights })).toMatchObject({ kind: 'refuse', status: 403 });
  });
  test.each<readonly [string, string, string, string, string]>([
    ['GET', '/join', 'pass', '/panel', '/panel'],
    ['POST', '/api/v1/join', 'pass', '403', '403'],
    ['GET', '/', '/join', '/panel', '/panel'],
    ['GET', '/map', '/join', '/panel', '/panel'],
    ['GET', '/panel', '/join', 'pass', 'pass'],
    ['GET', `/panel/${tag}?page=1`, '/join', 'pass', 'pass'],
    ['GET', '/_next/static/x.js', 'pass', 'pass', 'pass'],
    ['GET', '/api/v1/panels', '401', 'pass', 'pass'],
    ['GET', `/api/v1/panels/${tag}`, '401', 'pass', 'pass'],
    ['GET', '/api/v1/project', '401', '403', '403'],
    ['GET', '/api/v1/live', '401', 'pass', 'pass'],
    ['POST', `/api/v1/panels/${tag}/elements/${tag}/press`, '401', '403', 'pass'],
    // Who may only read signs in all the same; what it lets them do is refused to the phone.
    ['POST', `/api/v1/panels/${tag}/sign-in`, '401', 'pass', 'pass'],
    ['POST', `/api/v1/panels/${tag}/sign-out`, '401', 'pass', 'pass'],
    ['POST', `/api/v1/panels/${tag}/elements/${tag}/alarm`, '401', '403', 'pass'],
    ['POST', `/api/v1/panels/${tag}/elements/${tag}/sets`, '401', '403', 'pass'],
    ['GET', `/api/v1/panels/${tag}/elements/${tag}/sets`, '401', 'pass', 'pass'],
    ['GET', `/api/v1/panels/${tag}/alarms`, '401', 'pass', 'pass'],
    ['GET', `/api/v1/panels/${tag}/texts`, '401', '403', '403'],
    ['GET', '/api/v1/alarms', '401', '403', '403'],
    ['GET', '/api/v1/alarms/events', '401', '403', '403'],
    ['POST', `/api/v1/alarms/${tag}/act`, '401', '403', '403'],
    ['GET', '/api/v1/operators', '401', '403', '403'],
    ['POST', `/api/v1/operators/${tag}/pin`, '401', '403', '403'],
    ['POST', `/api/v1/tags/${tag}/write`, '401', '403', '403'],
    ['POST', '/api/v1/commands', '401', '403', '403'],
    ['POST', '/api/v1/guard/unlock', '401', '403', '403'],
    ['POST', '/api/v1/undo', '401', '403', '403'],
    ['GET', '/api/v1/project-file', '401', '403', '403'],
    ['POST', '/api/v1/backups/restore', '401', '403', '403'],
    ['GET', '/api/v1/network', '401', '403', '403'],
    ['POST', '/api/v1/network/code', '401', '403', '403'],
    ['GET', '/api/v1/links/1/frames', '401', '403', '403'],
    ['GET', '/_next/../api/v1/network', '400', '400', '400'],
    ['GET', '/_next/static/../../api/v1/project-file', '400', '400', '400'],
  ])('%s %s: nobody %s, a reader %s, a writer %s', (method, url, nobody, reads, writes) => {
    expect([ask(method, url, null), ask(method, url, reader), ask(method, url, writer)]).toEqual([nobody, reads, writes]);
  });
  test('a session is one well-formed cookie', () => {
    const token = 'A'.repeat(43);
    expect(sessionToken({ headers: { cookie: `a=b; mill-latch-session=${token}` } })).toBe(token);
    for (const cookie of [
      '',
      'mill-latch-session=',
      'mill-latch-session=short',
      `xmill-latch-session=${token}`,
      'mill-latch-session=<script>'.repeat(3),
    ])
      expect(sessionToken({ headers: { cookie } })).toBeNull();
  });
  test('it is asked under its address and names only', () => {
    expect(remoteHosts({ open: true, address: '127.0.0.2', names: ['Mill-PC.local'] }, 4780)).toEqual(['127.0.0.2:4780', 'mill-pc.local:4780']);
  });
});
