/** The plain files of a panel host: what a kill, a power cut or a full disk leaves of them. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readdirSync, readFileSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { v4 as uuid } from 'uuid';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { AlarmLog } from '@/store/files/alarmLog.ts';
import { SetFile } from '@/store/files/hostFiles.ts';
import { isObject, JsonFile } from '@/store/files/jsonFile.ts';
import { JsonLines, type Line } from '@/store/files/jsonLines.ts';
import { WriteLog } from '@/store/files/writeLog.ts';
import { NORMAL } from '@/core/alarm/alarmState.ts';
import { newFolder } from '../support/server.ts';

let folder = '';
let remove = (): void => undefined;
beforeEach(() => void ({ folder, remove } = newFolder()));
afterEach(() => remove());

const all = async (log: JsonLines, after = 0): Promise<Line[]> => {
  const lines: Line[] = [];
  for await (const line of log.after(after)) lines.push(line);
  return lines;
};
const write = (n: number, state: WriteRecord['state'] = 'sent'): WriteRecord => ({
  id: uuid(),
  at: new Date(1_796_000_000_000 + n).toISOString(),
  tagId: uuid(),
  tagName: `tag ${n}`,
  deviceName: 'ROLLS',
  origin: 'panel',
  who: 'R. Vale',
  by: '',
  host: '',
  old: null,
  asked: { kind: 'number', value: n } as never,
  sent: { kind: 'number', value: n } as never,
  held: null,
  state,
  note: '',
});

describe('lines', () => {
  test('are numbered on over files and starts; the oldest files go', async () => {
    const options = { linesInFile: 10, files: 3 };
    let { log } = await JsonLines.open(folder, 'x', options);
    for (let n = 1; n <= 25; n++) await log.append({ n });
    await log.close();
    ({ log } = await JsonLines.open(folder, 'x', options));
    await Promise.all(Array.from({ length: 20 }, (_, i) => log.append({ n: 26 + i })));
    expect(log.lastSeq).toBe(45);
    const lines = await all(log);
    expect(lines.map(({ seq, n }) => [seq, n])).toEqual(lines.map(({ seq }) => [seq, seq]));
    expect(lines.at(-1)?.seq).toBe(45);
    expect(readdirSync(folder)).toHaveLength(3);
    expect((await all(log, 43)).map(({ seq }) => seq)).toEqual([44, 45]);
    await log.close();
  });

  test('cut at any byte, all whole lines are there, and what is added afterwards is too', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 20 }), fc.nat(2000), async (count, cut) => {
        const own = newFolder();
        try {
          let { log } = await JsonLines.open(own.folder, 'x', { linesInFile: 1000, files: 3 });
          for (let n = 1; n <= count; n++) await log.append({ n, text: 'a \u00e9 \u2192 b' });
          await log.close();
          const file = join(own.folder, readdirSync(own.folder)[0] ?? '');
          const bytes = readFileSync(file);
          const kept = Math.min(cut, bytes.length);
          truncateSync(file, kept);
          const whole = bytes.subarray(0, kept).toString('latin1').split('\n').length - 1;
          ({ log } = await JsonLines.open(own.folder, 'x', { linesInFile: 1000, files: 3 }));
          await log.append({ n: 'added' });
          const lines = await all(log);
          // Of a line of which only its end is missing all is there.
          expect(lines.length - 1 === whole || lines.length - 1 === whole + 1).toBe(true);
          expect(lines.at(-1)?.n).toBe('added');
          expect(new Set(lines.map(({ seq }) => seq)).size).toBe(lines.length);
          await log.close();
        } finally {
          own.remove();
        }
      }),
      { numRuns: 40 },
    );
  });

  test('on a full disk adding fails, and says so', async () => {
    const { log } = await JsonLines.open(folder, 'x', { linesInFile: 10, files: 3 });
    symlinkSync('/dev/full', join(folder, 'x-000000000001.jsonl'));
    await expect(log.append({ n: 1 })).rejects.toMatchObject({ code: 'ENOSPC' });
    await log.close();
  });
});

describe('the log of writes', () => {
  test('a write whose reply never came is one of which nobody knows after a restart', async () => {
    let log = await WriteLog.open(folder);
    const [done, open] = [write(1), write(2)];
    await log.addWrite(done);
    await log.completeWrite(done.id, 'done', null, 'The controller took it.');
    await log.addWrite(open);
    await log.close();
    log = await WriteLog.open(folder);
    await log.settleOrphans();
    expect((await log.writes({ limit: 9 })).map(({ id, state }) => [id, state])).toEqual([
      [open.id, 'unknown'],
      [done.id, 'done'],
    ]);
    expect(await log.addWrite(open)).toBe(false);
    await log.close();
  });

  test('what is fetched after a number is what came or was completed since', async () => {
    const log = await WriteLog.open(folder);
    const [a, b] = [write(1), write(2)];
    await log.addWrite(a);
    const first = await log.after(0, 100);
    await log.completeWrite(a.id, 'done', null, '');
    await log.addWrite(b);
    const second = await log.after(first.seq, 100);
    expect(second.entries.map(({ id, state }) => [id, state])).toEqual([
      [a.id, 'done'],
      [b.id, 'sent'],
    ]);
    expect((await log.after(second.seq, 100)).entries).toEqual([]);
    // A portion at a time it is the same.
    const portions = [await log.after(0, 1), await log.after(1, 1), await log.after(2, 1)];
    expect(portions.flatMap(({ entries }) => entries.map(({ id }) => id))).toEqual([a.id, a.id, b.id]);
    await log.close();
  });
});

describe('alarms', () => {
  test('stand after a restart as they stood, over any number of files', async () => {
    let log = await AlarmLog.open(folder);
    const event = { at: '2026-12-01T08:00:00.000Z', kind: 'came' as const, text: 'hot', priority: 'low' as const, group: '', by: '', note: '' };
    await log.keep('first', { ...NORMAL, count: 3 }, event);
    await Promise.all(Array.from({ length: 12_000 }, (_, i) => log.keep(`other ${i % 7}`, { ...NORMAL, count: i }, event)));
    log.forget('other 1');
    await log.close();
    log = await AlarmLog.open(folder);
    const standings = await log.standings();
    expect(standings.get('first')?.count).toBe(3);
    expect(standings.get('other 0')?.count).toBe(11_998 - ((11_998 - 0) % 7));
    expect(standings.has('other 1')).toBe(false);
    expect((await log.records({ limit: 5 })).map(({ text }) => text)).toEqual(Array(5).fill('hot'));
    await log.close();
  });
});

describe('a small file', () => {
  test('that is damaged is put aside, and what it held begins anew', async () => {
    const path = join(folder, 'f.json');
    writeFileSync(path, '{"a":');
    const file = await JsonFile.open(path, { a: 1 }, isObject);
    expect(file.value).toEqual({ a: 1 });
    expect(readFileSync(`${path}.damaged`, 'utf8')).toBe('{"a":');
    await file.change(() => ({ a: 2 }));
    expect((await JsonFile.open(path, { a: 1 }, isObject)).value).toEqual({ a: 2 });
  });

  test('a change that cannot be written changes nothing', async () => {
    const path = join(folder, 'f.json');
    const file = await JsonFile.open(path, { a: 1 }, isObject);
    await file.change(() => ({ a: 2 }));
    symlinkSync('/dev/full', `${path}.new-${process.pid}`);
    await expect(file.change(() => ({ a: 3 }))).rejects.toMatchObject({ code: 'ENOSPC' });
    expect(file.value).toEqual({ a: 2 });
    expect(JSON.parse(readFileSync(path, 'utf8'))).toEqual({ a: 2 });
  });

  test('sets of values are by name, upper and lower case alike, and one takes the place of the one of its name', async () => {
    const sets = await SetFile.open(folder);
    const set = (name: string, v: string) => ({ id: uuid(), name, at: '', by: '', values: { v } as never });
    await sets.keep('Oats', set('thick', '1'));
    await sets.keep('oats', set('Thick', '2'));
    await sets.keep('Oats', set('fine', '3'));
    expect((await (await SetFile.open(folder)).list('OATS')).map(({ name, values }) => [name, values])).toEqual([
      ['fine', { v: '3' }],
      ['Thick', { v: '2' }],
    ]);
    const [first] = await sets.list('oats');
    await sets.remove(first?.id ?? '');
    expect((await sets.list('oats')).map(({ name }) => name)).toEqual(['Thick']);
  });
});
