/** Who signs in at a panel, for how long, and what that lets them operate. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import { pinOf } from '@/core/panel/levels.ts';
import type { Operator, Panel } from '@/core/project/entities.ts';
import { ENTITY_DEFAULTS } from '@/core/project/entities.ts';
import { SignIn } from '@/services/panels/signIn.ts';
import { Database } from '@/store/database.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { DATABASE_FILES, openBench, type Bench } from '../support/services.ts';
import { newFolder } from '../support/server.ts';
import { until } from '../support/until.ts';

const MINUTE_MS = 60_000;
const HOUR_MS = 60 * MINUTE_MS;
const [annId, panelId, otherPanelId, pageId, closedId] = [uuid(), uuid(), uuid(), uuid(), uuid()];
const PIN = '271828182845';

describe('a PIN', () => {
  test.each(['123', '1234567890123', '12a4', '', ' 1234', '١٢٣٤'])('“%s” is none', (text) => expect(pinOf(text).ok).toBe(false));
  test.each(['1111', '1234', '9876', '0123456789', '8901'])('%s is the first that is tried, so nobody may have it', (text) =>
    expect(pinOf(text)).toMatchObject({ ok: false, problem: { code: 'pin' } }),
  );
  test.each([PIN, '1122', '1357', '0000001'])('%s may be one', (text) => expect(pinOf(text).ok).toBe(true));
});

describe('a session', () => {
  interface Place {
    readonly signIn: SignIn;
    readonly clock: FakeClock;
    readonly said: string[];
    readonly ended: string[];
    operator: Operator | null;
  }
  async function place(signOutMinutes = 5): Promise<Place> {
    const clock = new FakeClock();
    const pins = new Map<string, string>([[annId, PIN]]);
    const said: string[] = [];
    const panel = (id: string): Panel => ({ ...ENTITY_DEFAULTS.panel, id, name: 'Kiln', signOutMinutes }) as Panel;
    const made: Place = { clock, said, ended: [], operator: { id: annId, name: 'A. Reed', level: 3 }, signIn: null as unknown as SignIn };
    const get = (kind: string, id: string): unknown =>
      kind === 'operator' ? (id === annId ? made.operator : null) : id === panelId || id === otherPanelId ? panel(id) : null;
    const signIn = new SignIn(
      { get: get as never },
      {
        known: async () => [...pins.keys()],
        keep: async (id, pin) => void pins.set(id, pin),
        isRight: async (id, pin) => pins.get(id) === pin,
      },
      clock,
      (kind, who, what) => said.push(`${kind} ${who} ${what}`),
    );
    await signIn.load();
    signIn.onEnded((token) => made.ended.push(token));
    return Object.assign(made, { signIn });
  }
  async function token(at: Place): Promise<string> {
    const done = await at.signIn.signIn(panelId, annId, PIN);
    if (!done.ok) throw new Error(done.problem.message);
    return done.value.token;
  }

  test('gives the level of its person at its own panel, and is told of in the audit', async () => {
    const at = await place();
    const session = await token(at);
    expect(at.signIn.who(session, panelId)).toMatchObject({ name: 'A. Reed', level: 3 });
    expect([at.signIn.who(session, otherPanelId), at.signIn.who('made up', panelId), at.signIn.who(undefined, panelId)]).toEqual([null, null, null]);
    // OWASP ASVS 4.0.3, 3.2.2: at least 64 bits of entropy in a session token; 32 bytes here.
    expect(Buffer.from(session, 'base64url')).toHaveLength(32);
    expect(at.said).toEqual(['signed-in A. Reed level 3 at Kiln']);
  });

  test('ends when nobody touches the glass for the time of the panel, and each touch begins it anew', async () => {
    const at = await place(5);
    const session = await token(at);
    for (let i = 0; i < 4; i++) {
      await at.clock.pass(4 * MINUTE_MS);
      expect(at.signIn.who(session, panelId)).not.toBeNull();
    }
    await at.clock.pass(5 * MINUTE_MS - 1);
    expect(at.signIn.levelOf(session, panelId)).toBe(3);
    await at.clock.pass(1);
    expect([at.signIn.levelOf(session, panelId), at.ended]).toEqual([0, [session]]);
    expect(at.said.at(-1)).toBe('signed-out A. Reed at Kiln');
  });

  // OWASP ASVS 4.0.3, 3.3.2 (level 2): no longer than 12 hours, or 30 minutes of nothing.
  test('ends after twelve hours though somebody touches it all the time', async () => {
    const at = await place(30);
    const session = await token(at);
    for (let i = 0; i < 12 * 6 - 1; i++) {
      await at.clock.pass(10 * MINUTE_MS);
      expect(at.signIn.who(session, panelId)).not.toBeNull();
    }
    await at.clock.pass(10 * MINUTE_MS);
    expect(at.signIn.who(session, panelId)).toBeNull();
  });

  test('ends when its person has another level, is gone, or gets another PIN', async () => {
    const at = await place();
    for (const change of [
      () => void (at.operator = { id: annId, name: 'A. Reed', level: 1 }),
      () => void (at.operator = null),
      () => void at.signIn.setPin(annId, PIN),
    ]) {
      at.operator = { id: annId, name: 'A. Reed', level: 3 };
      const session = await token(at);
      change();
      at.signIn.follow();
      await until('it has ended', () => at.signIn.levelOf(session, panelId) === 0, 2000);
    }
  });

  // OWASP ASVS 4.0.3, 2.2.1: no more than 100 failed attempts an hour on one account.
  test('is not to be had by trying: of a day of tries on one person fewer than a hundred in any hour are looked at', async () => {
    const at = await place();
    const looked: number[] = [];
    for (let ms = 0; ms < 24 * HOUR_MS; ms += 5000) {
      const done = await at.signIn.signIn(panelId, annId, '9999');
      if (!done.ok && done.problem.code === 'wrong-code') looked.push(at.clock.now());
      await at.clock.pass(5000);
    }
    const worst = Math.max(...looked.map((from) => looked.filter((t) => t >= from && t < from + HOUR_MS).length));
    expect(worst).toBeLessThanOrEqual(100);
    expect(worst).toBeGreaterThan(4);
    // Also the right one has to wait, and its wait is told.
    expect(await at.signIn.signIn(panelId, annId, PIN)).toMatchObject({ ok: false, problem: { code: 'too-many', place: 'pin' } });
    await at.clock.pass(15 * MINUTE_MS);
    expect((await at.signIn.signIn(panelId, annId, PIN)).ok).toBe(true);
    // What was wrong before does not count any more.
    expect(await at.signIn.signIn(panelId, annId, '9999')).toMatchObject({ problem: { code: 'wrong-code' } });
  });

  test('tries that come together are counted one by one', async () => {
    const at = await place();
    const all = await Promise.all(Array.from({ length: 50 }, () => at.signIn.signIn(panelId, annId, '9999')));
    expect(all.filter((done) => !done.ok && done.problem.code === 'wrong-code').length).toBeLessThanOrEqual(5);
  });
});

describe('what needs a level', () => {
  let bench: Bench;
  const tagId = uuid();
  const ids = { open: uuid(), guarded: uuid(), held: uuid(), onClosed: uuid() };
  const button = (id: string, on: string, settings: object) => ({
    kind: 'element' as const,
    id,
    set: { pageId: on, kind: 'button', tagId, label: 'Count', x: 0, y: 0, w: 100, h: 60, settings: { actions: [newAction('add', { value: '1' })], ...settings } }, // prettier-ignore
  });
  const press = async (elementId: string, session?: string): Promise<string> => {
    const done = await bench.services.panels.press({ id: uuid(), panelId, elementId, writer: 'panel', session });
    return done.ok ? done.value.map(({ state }) => state).join(' ') : done.problem.code;
  };
  beforeAll(async () => {
    bench = await openBench();
    await bench.change('a panel', [
      { kind: 'tag', id: tagId, set: { name: 'count', source: { kind: 'local' }, type: 'DINT', access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: '0' } }, // prettier-ignore
      { kind: 'panel', id: panelId, set: { name: 'Kiln', units: [] } },
      { kind: 'page', id: pageId, set: { panelId, name: 'Open', position: 0 } },
      { kind: 'page', id: closedId, set: { panelId, name: 'Closed', position: 1, level: 4 } },
      button(ids.open, pageId, {}),
      button(ids.guarded, pageId, { level: 2 }),
      button(ids.held, pageId, { level: 2, actions: [newAction('hold')] }),
      button(ids.onClosed, closedId, { level: 1 }),
      { kind: 'operator', id: annId, set: { name: 'A. Reed', level: 3 } },
    ]);
    await until('it has a value', () => bench.services.engine.live.get(tagId)?.quality.level === 'good');
  });
  afterAll(() => bench.close());

  test('is refused to who has not signed in, and done by who has the level; the log says who it was', async () => {
    expect([await press(ids.open), await press(ids.guarded), await press(ids.guarded, 'made up')]).toEqual(['done', 'level', 'level']);
    expect(await bench.services.signIn.signIn(panelId, annId, PIN)).toMatchObject({ ok: false, problem: { code: 'no-pin' } });
    expect((await bench.services.signIn.setPin(annId, '1111')).ok).toBe(false);
    expect((await bench.services.signIn.setPin(annId, PIN)).ok).toBe(true);
    expect(await bench.services.signIn.signIn(panelId, annId, '2719')).toMatchObject({ ok: false, problem: { code: 'wrong-code' } });
    const signed = await bench.services.signIn.signIn(panelId, annId, PIN);
    if (!signed.ok) throw new Error(signed.problem.message);
    const { token } = signed.value;
    // The page of the third needs more than its element, and more than she has.
    expect([await press(ids.guarded, token), await press(ids.onClosed, token)]).toEqual(['done', 'level']);
    expect(bench.services.panels.held({ panelId, elementId: ids.held })).toMatchObject({ ok: false, problem: { code: 'level' } });
    const log = await bench.services.writes.log({ limit: 2 });
    expect(log.map(({ by }) => by)).toEqual(['A. Reed', '']);
    bench.services.signIn.signOut(token);
    expect(await press(ids.guarded, token)).toBe('level');
  });

  test('the PIN is nowhere to be read: salted and hashed in the database, in no project file', async () => {
    const { folder, remove } = newFolder();
    const database = await Database.open(folder, DATABASE_FILES);
    try {
      const { PinStore, pinTable } = await import('@/store/pinStore.ts');
      const pins = new PinStore(pinTable(database));
      await pins.keep(annId, PIN);
      await pins.keep(pageId, PIN);
      const rows = await database.query('select * from operator_pins');
      expect(JSON.stringify(rows)).not.toContain(PIN);
      expect(new Set(rows.map(({ hash }) => hash)).size).toBe(2);
      expect([await pins.isRight(annId, PIN), await pins.isRight(annId, '2719'), await pins.isRight(uuid(), PIN)]).toEqual([true, false, false]);
    } finally {
      await database.close();
      remove();
    }
    expect(JSON.stringify(bench.services.snapshot())).not.toContain(PIN);
  });
});
