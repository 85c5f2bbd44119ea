/** A controller commands pages of a panel through an array of words, and checks the answers; the panel tells it what it shows. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import type { ScreenOrder } from '@/core/live/messages.ts';
import { NO_EXCHANGE, type Exchange, type Screens, type WordRole } from '@/core/panel/exchange.ts';
import type { Screen } from '@/services/panels/panelDesks.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, type Bench } from '../support/services.ts';
import { startStandin, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let caller: RunningStandin;
const [linkId, deviceId, panelId] = [uuid(), uuid(), uuid()];
/** Numbered 10, 11, 12, and one by its place. */
const pages = [uuid(), uuid(), uuid(), uuid()] as const;
const tags: Partial<Record<WordRole, string>> = {};

const word = (role: WordRole, address: string, more: object = {}) => {
  const id = uuid();
  tags[role] = id;
  return [
    { kind: 'tag' as const, id, set: { ...newTag(deviceId, role, address), type: 'UINT', ...more } },
    { kind: 'panelWord' as const, id: uuid(), set: { panelId, role, tagId: id, elementId: null } },
  ];
};

/** A screen that draws what it is sent to at once, or never. */
class FakeScreen {
  pageId: string;
  why = '';
  readonly orders: (string | null)[] = [];
  readonly screen: Screen;
  draws = true;
  level = 0;
  constructor(first: string, mayLead = true) {
    this.pageId = first;
    this.screen = { panelId, mayLead, level: () => this.level, send: (order) => this.#sent(order) };
    bench.services.desks.enter(this.screen, first);
  }
  #sent({ order, pageId, why }: ScreenOrder): void {
    this.why = why;
    this.orders.push(pageId);
    if (pageId === null || !this.draws) return;
    this.pageId = pageId;
    setTimeout(() => bench.services.desks.drew(this.screen, pageId, order), 5);
  }
  choose(pageId: string): void {
    this.pageId = pageId;
    bench.services.desks.drew(this.screen, pageId, null);
  }
}
let screens: FakeScreen[] = [];
const open = (first: string, mayLead = true): FakeScreen => {
  const screen = new FakeScreen(first, mayLead);
  screens.push(screen);
  return screen;
};
const agree = (exchange: Partial<Exchange>, how: Screens = 'apart'): Promise<void> =>
  bench.change('agreed', [{ kind: 'panel', id: panelId, set: { exchange: { ...NO_EXCHANGE, offset: 10, ...exchange }, screens: how } }]);
/** What came of commands: each as page:result. */
async function call(said: string): Promise<string> {
  await caller.set('call', said);
  await until('the program has its answers', async () => (await caller.value('waits')) === false, 20_000);
  return String(await caller.value('answers')).replaceAll(/:\d+( |$)/g, '$1');
}
const unlock = () => bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 5, writers: ['panel'] });
const told = (name: string): Promise<number | boolean | string> => caller.value(name);

beforeAll(async () => {
  [bench, caller] = await Promise.all([openBench(), startStandin('caller')]);
  await bench.change('a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    ...pages.map((id, position) => ({ kind: 'page' as const, id, set: { panelId, name: `Page ${position}`, position, number: position < 3 ? 10 + position : null } })), // prettier-ignore
    ...word('wanted', 'HR0', { access: 'read' }),
    ...word('request', 'HR1', { access: 'read' }),
    ...word('result', 'HR10'),
    ...word('answer', 'HR11'),
    ...word('page', 'HR12'),
    ...word('level', 'HR15'),
    ...word('life', 'HR13'),
    ...word('clockAsk', '00001', { type: 'BOOL', access: 'read' }),
    ...word('clock', 'HR30', { type: 'DATE_AND_TIME parts' }),
  ]);
  await until('the controller is heard', () => bench.services.engine.live.get(tags.request ?? '')?.quality.level === 'good');
  await unlock();
});
afterAll(async () => {
  await bench?.close();
  await caller?.stop();
});
beforeEach(() => {
  for (const { screen } of screens) bench.services.desks.leave(screen);
  screens = [];
  bench.services.desks.release(panelId);
});

describe('a controller commands pages', () => {
  // Common practice: a controller counts from 0, the panel's pages start at 10.
  test('with an offset, 0, 1, 2 are the pages 10, 11, 12, and each is answered once it is drawn', async () => {
    await agree({});
    const screen = open(pages[0]);
    expect(await call('1 2 0')).toBe('1:1 2:1 0:1');
    expect(screen.orders.filter(Boolean)).toEqual([pages[1], pages[2], pages[0]]);
    expect([await told('page'), await told('result')]).toEqual([0, 1]);
  });
  test('a page that needs a level is shown once somebody with it is signed in, and the level is told', async () => {
    await agree({});
    await bench.change('a level', [{ kind: 'page', id: pages[1], set: { level: 3 } }]);
    const screen = open(pages[0]);
    expect(await call('1')).toBe('1:6');
    screen.level = 3;
    bench.services.desks.signed(panelId);
    expect(await call('1')).toBe('1:1');
    await until('the level is told', async () => (await told('level')) === 3);
    screen.level = 0;
    bench.services.desks.signed(panelId);
    await until('that nobody is there is told', async () => (await told('level')) === 0);
    await bench.change('no level', [{ kind: 'page', id: pages[1], set: { level: 0 } }]);
  });
  test('the same page again is a command again, where requests are counted', async () => {
    await agree({});
    const screen = open(pages[0]);
    expect(await call('1')).toBe('1:1');
    screen.choose(pages[2]);
    expect(await call('1')).toBe('1:1');
    expect(screen.pageId).toBe(pages[1]);
  });
  test('is told why not: no such page, no screen, a screen that does not draw it, a person who is there', async () => {
    await agree({});
    expect(await call('2')).toBe('2:4');
    const screen = open(pages[0]);
    expect(await call('9')).toBe('9:2');
    screen.draws = false;
    expect(await call('2')).toBe('2:5');
    screen.draws = true;
    await agree({ whenBoth: 'person', personSeconds: 1 });
    screen.choose(pages[0]);
    expect(await call('1')).toBe('1:3');
    expect(screen.pageId).toBe(pages[0]);
    await new Promise((resolve) => setTimeout(resolve, 1100));
    expect(await call('1')).toBe('1:1');
  }, 20_000);
  test('a page without a number of its own has that of its place', async () => {
    await agree({ offset: 0 });
    open(pages[0]);
    expect(await call('4 11')).toBe('4:1 11:1');
  });
  test('a page that the controller keeps cannot be left, until it wants none', async () => {
    await agree({ whenBoth: 'controller', noWish: 90 });
    const screen = open(pages[0]);
    expect(await call('1')).toBe('1:1');
    expect(screen.why).toContain('The controller keeps this page');
    bench.services.desks.drew(screen.screen, pages[2], null);
    expect(screen.orders.at(-1)).toBe(pages[1]);
    expect(await call('90')).toBe('90:1');
    expect(screen.why).toBe('');
    screen.choose(pages[2]);
    await until('it is told', async () => (await told('page')) === 2);
  });
  test('of a thousand commands within a second the last counts, and the panel is not flooded', async () => {
    await agree({});
    const screen = open(pages[0]);
    const before = screen.orders.length;
    await caller.set('storm', 1000);
    await until('the last one is answered', async () => (await told('answer')) === (await told('request')), 10_000);
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect([await told('answer'), screen.pageId]).toEqual([await told('request'), pages[1]]);
    expect(screen.orders.length - before).toBeLessThan(60);
  }, 20_000);
});

describe('a panel tells its controller', () => {
  test('the page at each change, and nothing while writing is locked: then how things are', async () => {
    await agree({});
    const screen = open(pages[0]);
    await until('page 0', async () => (await told('page')) === 0);
    bench.services.guard.lock(deviceId);
    screen.choose(pages[1]);
    screen.choose(pages[2]);
    await new Promise((resolve) => setTimeout(resolve, 600));
    expect(await told('page')).toBe(0);
    expect(bench.services.status().panels.find((panel) => panel.panelId === panelId)?.untold).toMatch(/locked/i);
    const { length: before } = await bench.services.writes.log({ limit: 500 });
    await unlock();
    await until('page 2', async () => (await told('page')) === 2);
    let log: readonly WriteRecord[] = [];
    await until('its entry is completed', async () => {
      log = await bench.services.writes.log({ limit: 500 });
      return log.find(({ tagName }) => tagName === 'page')?.state !== 'sent';
    });
    // The page between is not made up for. (The life counter has an entry of its own.)
    expect(log.slice(0, log.length - before).filter(({ tagName }) => tagName === 'page')).toHaveLength(1);
    expect(log.find(({ tagName }) => tagName === 'page')).toMatchObject({ origin: 'panel', who: 'R. Vale', state: 'done' });
  });
  test('that it lives, as long as a screen shows it', async () => {
    await agree({});
    const screen = open(pages[0]);
    const first = Number(await told('life'));
    await until('it counts', async () => Number(await told('life')) !== first, 5000);
    bench.services.desks.leave(screen.screen);
    await new Promise((resolve) => setTimeout(resolve, 1200));
    const last = await told('life');
    await new Promise((resolve) => setTimeout(resolve, 2200));
    expect(await told('life')).toBe(last);
  }, 15_000);
  test('the time when it is asked for, as the clock on the wall shows it', async () => {
    await caller.set('askTime', false);
    await new Promise((resolve) => setTimeout(resolve, 400));
    await caller.set('askTime', true);
    await until('it has the time', async () => String(await told('time')) !== '0 0 0 0 0 0', 5000);
    const [year = 0, month = 0, day = 0, hour = 0, minute = 0, second = 0] = String(await told('time'))
      .split(' ')
      .map(Number);
    expect(Math.abs(new Date(year, month - 1, day, hour, minute, second).getTime() - Date.now())).toBeLessThan(10_000);
    await caller.set('askTime', false);
  });
});

describe('several screens of a panel', () => {
  test('apart, each shows its own page, and the controller is told that of the first', async () => {
    await agree({});
    const [one, two] = [open(pages[0]), open(pages[1])];
    two.choose(pages[2]);
    await until('page 0', async () => (await told('page')) === 0);
    expect([one.pageId, two.pageId]).toEqual([pages[0], pages[2]]);
    expect(await call('1')).toBe('1:1');
    expect([one.pageId, two.pageId]).toEqual([pages[1], pages[1]]);
  });
  test('together, whoever chooses a page chooses it for all, but who may only read', async () => {
    await agree({}, 'together');
    const [one, two, phone] = [open(pages[0]), open(pages[1]), open(pages[2], false)];
    expect([two.pageId, phone.pageId]).toEqual([pages[0], pages[0]]);
    // Before it has said that it went where it was sent.
    two.choose(pages[2]);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect([one.pageId, two.pageId, phone.pageId]).toEqual([pages[2], pages[2], pages[2]]);
    expect([one.why, phone.why]).toEqual(['', 'This screen follows the others: it may only read.']);
    bench.services.desks.drew(phone.screen, pages[1], null);
    expect([phone.pageId, one.pageId]).toEqual([pages[2], pages[2]]);
  });
  test('with a leader the others follow, and once it is gone the next one leads', async () => {
    await agree({}, 'leader');
    const [one, two] = [open(pages[0]), open(pages[1])];
    expect(two.why).toBe('This screen follows another one.');
    one.choose(pages[1]);
    expect(two.pageId).toBe(pages[1]);
    bench.services.desks.leave(one.screen);
    expect(two.why).toBe('');
    two.choose(pages[2]);
    await until('page 2', async () => (await told('page')) === 2);
  });
});

test('after a start nothing is written, and what stands in the words is no command', async () => {
  await agree({});
  expect(await call('1')).toBe('1:4');
  const [log, request] = [(await bench.services.writes.log({ limit: 500 })).length, await told('request')];
  bench = await bench.reopen();
  const screen = open(pages[0]);
  await until('the controller is heard', () => bench.services.engine.live.get(tags.request ?? '')?.quality.level === 'good');
  await new Promise((resolve) => setTimeout(resolve, 700));
  expect([screen.pageId, await told('request')]).toEqual([pages[0], request]);
  expect((await bench.services.writes.log({ limit: 500 })).length).toBe(log);
}, 30_000);
