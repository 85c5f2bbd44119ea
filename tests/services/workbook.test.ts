/** Lists in workbooks, written by another library than the one that reads them. */
import { describe, expect, test } from '@jest/globals';
import { zipSync } from 'fflate';
import writeXlsxFile from 'write-excel-file/node';
import { readAny } from '@/services/lists/readAny.ts';
import { readWorkbook } from '@/services/lists/workbook.ts';

type Cell =
  | string
  | number
  | boolean
  | null
  | { readonly value: string; readonly type: 'Formula' }
  | { readonly value: string; readonly columnSpan?: number; readonly rowSpan?: number };
async function workbook(sheets: Readonly<Record<string, readonly (readonly Cell[])[]>>): Promise<Uint8Array> {
  const cell = (c: Cell): unknown =>
    c === null
      ? null
      : typeof c === 'object'
        ? 'type' in c
          ? c
          : { ...c, type: String }
        : { value: c, type: typeof c === 'string' ? String : typeof c === 'number' ? Number : Boolean };
  const data = Object.entries(sheets).map(([sheet, rows]) => ({ sheet, data: rows.map((row) => row.map(cell)) }));
  return new Uint8Array(await writeXlsxFile(data as never).toBuffer());
}
const HEADINGS = ['Name', 'Address', 'Type', 'Low', 'Comment'] as const;

describe('a workbook', () => {
  test('gives the same rows as the table in it', async () => {
    const list = readWorkbook(
      await workbook({ Tags: [HEADINGS, ['bed_temp', 40018, 'REAL', 20.5, 'Wärme °C'], ['fan', '00001', 'BOOL', null, 'two\nlines']] }),
    );
    expect(list.problems).toEqual([]);
    expect(list.rows.map((r) => [r.row, r.cells])).toEqual([
      [2, { name: 'bed_temp', address: '40018', type: 'REAL', low: '20.5', comment: 'Wärme °C' }],
      [3, { name: 'fan', address: '00001', type: 'BOOL', low: '', comment: 'two\nlines' }],
    ]);
  });
  test('is read at the sheet that holds a list, and at any other that is named', async () => {
    const bytes = await workbook({
      Cover: [['Made in spring'], ['2026']],
      Tags: [HEADINGS, ['a', '40001', 'INT', null, '']],
      Old: [
        ['Name', 'Address'],
        ['b', '40002'],
      ],
    });
    expect([readWorkbook(bytes).sheet, readWorkbook(bytes).sheets]).toEqual(['Tags', ['Cover', 'Tags', 'Old']]);
    expect(readWorkbook(bytes, { sheet: 'Old' }).rows[0]?.cells.name).toBe('b');
    expect(readWorkbook(bytes, { sheet: 'Nope' }).problems[0]?.code).toBe('sheet');
  });
  test('that keeps 40010.10 as a number is refused there: it became 40010.1', async () => {
    const list = readWorkbook(
      await workbook({
        Tags: [HEADINGS, ['ten', 40010.1, 'BOOL', null, ''], ['two', '40010.2', 'BOOL', null, ''], ['word', 40010, 'INT', null, '']],
      }),
    );
    expect(list.rows.map((r) => r.problems?.map((p) => `${p.place}: ${p.code}`) ?? [])).toEqual([['row 2, column 2: number-cell'], [], []]);
  });
  test('with a formula in a cell that is used is refused there, in one that is not it is no matter', async () => {
    const sum = { value: '=40000+1', type: 'Formula' } as const;
    const list = readWorkbook(
      await workbook({
        Tags: [
          [...HEADINGS, 'Checked'],
          ['a', sum, 'INT', null, '', ''],
          ['b', '40002', 'INT', null, '', sum],
        ],
      }),
    );
    expect(list.rows.map((r) => r.problems?.map((p) => `${p.place}: ${p.code}`) ?? [])).toEqual([['row 2, column 2: formula-cell'], []]);
  });
  test('with merged headings says which, where a column is missing for it', async () => {
    const list = readWorkbook(
      await workbook({
        Tags: [
          [{ value: 'Name', columnSpan: 2 }, null, 'Type'],
          ['a', '40001', 'INT'],
          ['b', '40002', 'INT'],
        ],
      }),
    );
    // The addresses are told by their contents; what was merged is no matter then.
    expect([list.columns.byKey.get('address'), list.problems]).toEqual([1, []]);
    const without = readWorkbook(
      await workbook({
        Tags: [
          [{ value: 'Name', columnSpan: 2 }, null, 'Type'],
          ['a', 'x1', 'INT'],
          ['b', 'x2', 'INT'],
        ],
      }),
    );
    expect(without.problems.map((p) => p.code)).toEqual(['missing-column', 'merged-heading']);
  });
  test('with a group merged over several rows gives it to each of them', async () => {
    const list = readWorkbook(
      await workbook({
        Tags: [
          ['Group', 'Name', 'Address', 'Type'],
          [{ value: 'Kiln', rowSpan: 2 }, 'a', '40001', 'INT'],
          [null, 'b', '40002', 'INT'],
          ['Fans', 'c', '40003', 'INT'],
        ],
      }),
    );
    expect(list.rows.map((r) => r.cells.group)).toEqual(['Kiln', 'Kiln', 'Fans']);
  });
});

describe('what is no workbook, or one made to harm', () => {
  test('a zip that unpacks to more than the limit is given up there, whatever sizes it names', () => {
    const bomb = zipSync({ 'xl/worksheets/sheet1.xml': new Uint8Array(20_000_000) });
    expect(bomb.length).toBeLessThan(50_000);
    const lying = Uint8Array.from(bomb);
    // The sizes stand in the directory at the end of the file: 24 bytes into its entry.
    const entry = Buffer.from(lying).indexOf(Buffer.from('PK\x01\x02'));
    lying.set([10, 0, 0, 0], entry + 24);
    for (const bytes of [bomb, lying])
      expect(readWorkbook(bytes, {}, 10_000_000).problems[0]).toMatchObject({
        code: 'too-large',
        message: expect.stringContaining('10 MB') as unknown as string,
      });
  });
  test.each<[string, Uint8Array, string]>([
    ['cut off', zipSync({ 'xl/workbook.xml': new Uint8Array(5000).map((_, i) => i * 7) }).slice(0, 600), 'workbook'],
    ['a zip of something else', zipSync({ 'readme.txt': Uint8Array.of(65) }), 'workbook'],
  ])('%s is told to be damaged', (_what, bytes, code) => {
    expect(readWorkbook(bytes).problems[0]?.code).toBe(code);
  });
  test('a workbook of before 2007 is named as that', () => {
    expect(readAny(Uint8Array.of(0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1), {})).toMatchObject({
      ok: false,
      problem: { code: 'old-workbook' },
    });
  });
});
