/** Values of local tags outlive the server, and a power cut but for its last second. */
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { appendFileSync, cpSync, readFileSync, statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { KEPT_FILE, KeptJournal } from '@/store/keptJournal.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { newFolder } from '../support/server.ts';

let folder: ReturnType<typeof newFolder>;
let clock: FakeClock;
beforeEach(() => {
  folder = newFolder();
  clock = new FakeClock('loop');
});
afterEach(() => folder.remove());
const file = (): string => join(folder.folder, KEPT_FILE);
const open = (known = new Map()): Promise<KeptJournal> => KeptJournal.open(folder.folder, clock, known);
/** Long enough for what the disk does. */
const settled = async (ms: number): Promise<void> => {
  await clock.pass(ms);
  await new Promise((resolve) => setTimeout(resolve, 50));
};

describe('a value that was kept', () => {
  test('is there again, the last one of each tag, whatever its type', async () => {
    const journal = await open();
    await journal.keep('a', 1, 10);
    await journal.keep('a', 2, 20);
    await journal.keep('b', true, 30);
    await journal.keep('c', 'early', 40);
    await journal.keep('d', 9007199254740993n, 50);
    await journal.close();
    const again = await open();
    expect([...again.values]).toEqual([['a', { value: 2, at: 20 }], ['b', { value: true, at: 30 }], ['c', { value: 'early', at: 40 }], ['d', { value: 9007199254740993n, at: 50 }]]); // prettier-ignore
    await again.close();
  });
  test('is in the file before its write is confirmed: a server that is killed loses none', async () => {
    const journal = await open();
    for (let i = 0; i < 200; i++) {
      await journal.keep('a', i, i);
      if (i % 50 === 0) expect(readFileSync(file(), 'utf8')).toContain(`"value":${i}}`);
    }
    await journal.close();
  });
  test('stands over an older one of the database, which does not force its writes', async () => {
    const journal = await open(new Map([['a', { value: 1, at: 10 }], ['b', { value: 5, at: 10 }]])); // prettier-ignore
    await journal.keep('a', 2, 20);
    await journal.close();
    // The power is cut: the database is as it was.
    const again = await open(new Map([['a', { value: 1, at: 99 }], ['b', { value: 5, at: 10 }]])); // prettier-ignore
    expect(again.values.get('a')).toEqual({ value: 2, at: 20 });
    expect(again.values.get('b')).toEqual({ value: 5, at: 10 });
    await again.close();
  });
  test('is the one before where the last line was cut at any byte, and garbage in the file hurts nothing', async () => {
    const journal = await open();
    await journal.keep('a', 1, 10);
    await journal.close();
    const whole = statSync(file()).size;
    const line = JSON.stringify({ tagId: 'a', value: { kind: 'number', value: 2 }, at: 20 });
    for (const cut of [1, 8, 15, 22, 29, 36, 43, 50, line.length - 1, line.length]) {
      const copy = newFolder();
      cpSync(file(), join(copy.folder, KEPT_FILE));
      appendFileSync(join(copy.folder, KEPT_FILE), line.slice(0, cut));
      const again = await KeptJournal.open(copy.folder, clock, new Map());
      expect(again.values.get('a')).toEqual(cut === line.length ? { value: 2, at: 20 } : { value: 1, at: 10 });
      await again.close();
      copy.remove();
    }
    appendFileSync(file(), '\0\0\0garbage\n{"tagId":"a"}\n[1]\n{"tagId":"a","value":{"kind":"number","value":7},"at":70}\n');
    const again = await open();
    expect(again.values.get('a')).toEqual({ value: 7, at: 70 });
    await again.close();
    truncateSync(file(), Math.max(0, whole - 3));
    expect((await open()).values.has('a')).toBe(false);
  });
});

describe('forcing to the disk', () => {
  test('comes at most once a second, and says when', async () => {
    const journal = await open();
    const forced: number[] = [];
    const begun = clock.now();
    for (let i = 0; i < 40; i++) {
      await journal.keep('a', i, clock.now());
      await settled(100);
      const { at } = journal.state;
      if (at !== null && forced.at(-1) !== at) forced.push(at);
    }
    expect(forced.length).toBeGreaterThan(2);
    expect(forced.length).toBeLessThanOrEqual(5);
    expect(forced.every((at, i) => i === 0 || at - (forced[i - 1] ?? 0) >= 1000)).toBe(true);
    expect((forced[0] ?? Infinity) - begun).toBeLessThanOrEqual(1000);
    await settled(1500);
    expect(journal.state).toMatchObject({ isWaiting: false, problem: '' });
    await journal.close();
  });
  test('that fails says why, and is tried again', async () => {
    const journal = await open();
    const { open: openFile } = await import('node:fs/promises');
    const handle = await openFile(file(), 'r');
    const prototype = Object.getPrototypeOf(handle) as { datasync: () => Promise<void> };
    await handle.close();
    const broken = jest.spyOn(prototype, 'datasync').mockRejectedValue(new Error('EIO: the disk'));
    await journal.keep('a', 1, 10);
    await settled(1500);
    expect(journal.state).toMatchObject({ isWaiting: true, problem: 'EIO: the disk', at: null });
    broken.mockRestore();
    await settled(2500);
    expect(journal.state).toMatchObject({ isWaiting: false, problem: '' });
    await journal.close();
  });
  test('of very many writes keeps the file short', async () => {
    const journal = await open();
    for (let i = 0; i < 20_100; i++) void journal.keep(`t${i % 3}`, i, i);
    await journal.keep('t0', 1, 1);
    await settled(1500);
    expect(readFileSync(file(), 'utf8').trim().split('\n')).toHaveLength(3);
    await journal.keep('t1', 5, 5);
    await journal.close();
    const again = await open();
    expect([...again.values].map(([, { value }]) => value)).toEqual([1, 5, 20_099]);
    await again.close();
  });
});
