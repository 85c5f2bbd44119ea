/** Lists as engineers have them: shapes of columns, words and numbers. What makers write is common practice throughout. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { countsFromZero, plainNumber, ruledAddress } from '@/core/taglist/addressRule.ts';
import { draftChoicesSchema } from '@/core/taglist/choicesSchema.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { splitRows, type Split } from '@/core/taglist/splits.ts';
import { readTypeWord } from '@/core/taglist/typeWords.ts';
import { understandRows, type ListContext, type UnderstoodRow } from '@/core/taglist/understand.ts';
import { writeList } from '@/core/taglist/writeList.ts';
import { formatDataType, parseDataType } from '@/core/value/dataType.ts';
import { toEngineering } from '@/core/scaling/scale.ts';
import { asNumber } from '@/core/value/engineering.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import type { DraftChoices } from '@/core/taglist/draft.ts';
import { tagOf } from '../ui/project.ts';

const driver = describeDriver('modbus-tcp');
function context(choices: DraftChoices = {}, dialect: Record<string, unknown> = {}): ListContext {
  return {
    parseAddress: (text, type) => driver?.notation.parse(text, type, dialect) ?? { ok: false, problem: { code: 'x', message: '' } },
    isNameTaken: () => false,
    ruledAddress: (text, type) => ruledAddress(text, type, choices),
    typeWords: choices.typeWords,
    corrections: new Map((choices.corrections ?? []).map(({ name, cells }) => [nameKey(name), cells])),
  };
}
const rowsOf = (text: string, choices: DraftChoices = {}, dialect: Record<string, unknown> = {}): readonly UnderstoodRow[] =>
  understandRows(readDelimited(text, choices), context(choices, dialect));
const problemsOf = (rows: readonly UnderstoodRow[]): readonly string[] => rows.flatMap((r) => r.problems.map((p) => `${p.place}: ${p.code}`));

describe('columns that hold several things', () => {
  test.each<[string, readonly Split[], string, readonly string[]]>([
    ['at a text, into two', [{ column: 0, at: ':' }], 'a:b:c', ['a', 'b:c']],
    ['at a text, into three', [{ column: 0, at: ':', parts: 3 }], 'a:b:c', ['a', 'b', 'c']],
    ['at a text of several characters', [{ column: 0, at: ' -> ' }], 'bed -> 40001', ['bed', '40001']],
    ['into more than there are', [{ column: 0, at: ':', parts: 4 }], 'a:b', ['a', 'b', '', '']],
    ['by widths', [{ column: 0, widths: [2, 4] }], 'HR0012 REAL', ['HR', '0012', 'REAL']],
    ['by a pattern', [{ column: 0, pattern: 'DB*.W* (*)' }], 'DB12.W4 (REAL)', ['12', '4', 'REAL']],
    ['by a pattern that it is not like', [{ column: 0, pattern: 'DB*.W*' }], 'MW4', ['MW4', '']],
    [
      'a split of a split',
      [
        { column: 0, at: ';' },
        { column: 1, at: '/' },
      ],
      'bed;40001/REAL',
      ['bed', '40001', 'REAL'],
    ],
    [
      'a part of the first split once more',
      [
        { column: 0, at: ' ' },
        { column: 0, at: '.' },
      ],
      'Kiln.bed 40001',
      ['Kiln', 'bed', '40001'],
    ],
  ])('%s', (_what, splits, cell, parts) => {
    expect(splitRows([[cell, 'next']], splits)).toEqual([[...parts, 'next']]);
    expect(draftChoicesSchema().isValidSync({ splits }, { strict: true })).toBe(true);
  });
  test('a split that is none is refused', () => {
    for (const split of [
      { column: 0 },
      { column: 0, at: '' },
      { column: 0, at: ':', parts: 1 },
      { column: 0, widths: [] },
      { column: 0, pattern: 'x' },
      { column: -1, at: ':' },
    ])
      expect(draftChoicesSchema().isValidSync({ splits: [split] }, { strict: true })).toBe(false);
  });
  test('any split makes the same number of columns of every row, and loses no letter at a text', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ maxLength: 20 }), { minLength: 1 }),
        fc.constantFrom(':', ' ', '->', '.'),
        fc.integer({ min: 2, max: 5 }),
        (cells, at, parts) => {
          const rows = splitRows(
            cells.map((cell) => [cell]),
            [{ column: 0, at, parts }],
          );
          expect(new Set(rows.map((r) => r.length))).toEqual(new Set([parts]));
          const letters = (text: string): string => text.replaceAll(at, '').replace(/\s/g, '');
          rows.forEach((row, i) => expect(letters(row.join(at))).toBe(letters(cells[i] ?? '')));
        },
      ),
    );
  });
});

describe('rows and columns without headings', () => {
  test('a first row that reads like the others is a tag and is not eaten', () => {
    const list = readDelimited('bed_temp,100,REAL\nfan_speed,102,INT\nsteam,104,INT\n');
    expect([list.columns.headerAt, list.rows.length]).toEqual([-1, 3]);
  });
  test('headings that nobody knows stay headings where the rows below have numbers', () => {
    expect(readDelimited('Was,Wo,Wie\nbed,100,REAL\nfan,102,INT\n').columns.headerAt).toBe(0);
  });
  test('a last column without a heading is a column; one long row is still told', () => {
    const list = readDelimited('Name,Address,Type\na,HR1,INT,first\nb,HR2,INT,second\nc,HR3,INT,third,x\n', {
      columns: ['name', 'address', 'type', 'comment'],
    });
    expect(list.rows.map((r) => [r.cells.comment, r.surplus])).toEqual([
      ['first', 0],
      ['second', 0],
      ['third', 1],
    ]);
  });
});

describe('groups that were merged cells', () => {
  test('are carried down to the rows below, and that is told', () => {
    const rows = rowsOf('Group,Name,Address,Type\nKiln,a,HR1,INT\n,b,HR2,INT\n,c,HR3,INT\nFans,d,HR4,INT\n,e,HR5,INT\n');
    expect(rows.map((r) => r.tag?.group)).toEqual(['Kiln', 'Kiln', 'Kiln', 'Fans', 'Fans']);
    expect(rows[1]?.notes.join()).toContain('carried down');
  });
  test('are left empty where most rows have one', () => {
    const rows = rowsOf('Group,Name,Address,Type\nKiln,a,HR1,INT\n,b,HR2,INT\nFans,d,HR4,INT\n');
    expect(rows.map((r) => r.tag?.group)).toEqual(['Kiln', '', 'Fans']);
  });
});

describe('scales that a list tells', () => {
  const at = (row: UnderstoodRow | undefined, raw: number): number | null =>
    row?.tag?.scale ? asNumber(toEngineering(row.tag.scale, raw).value) : raw;
  test.each([
    ['Name,Address,Type,Raw min,Raw max,EU min,EU max\na,HR1,INT,0,27648,0,150\n', 27648, 150],
    ['Bezeichnung;Adresse;Datentyp;Rohwert von;Rohwert bis;von;bis\na;HR1;INT;4000;20000;0;10\n', 12000, 5],
    ['Name,Address,Type,Factor\na,HR1,INT,0.1\n', 235, 23.5],
    ['Name,Address,Type,Factor,Offset\na,HR1,INT,1.8,32\n', 100, 212],
    ['Name,Address,Type,Gain,Bias\na,HR1,INT,0.25,-40\n', 400, 60],
    ['Name,Address,Type,Divisor\na,HR1,INT,100\n', 2500, 25],
    ['Name,Address,Type,Divide by,Offset\na,HR1,INT,3,1\n', 6, 3],
    ['Name,Address,Type,Offset\na,HR1,INT,-273\n', 300, 27],
    ['Name,Address,Type,Raw low,Raw high,Low,High\na,HR1,INT,0,1000,100,0\n', 250, 75],
    ['Name;Adresse;Typ;Faktor\na;HR1;INT;0,05\n', 20, 1],
  ])('%s', (text, raw, eng) => {
    const [row] = rowsOf(text);
    expect(row?.problems).toEqual([]);
    expect(at(row, raw)).toBe(eng);
  });
  test('a scale that falls has a range that rises', () => {
    expect(rowsOf('Name,Address,Type,Raw low,Raw high,Low,High\na,HR1,INT,0,1000,100,0\n')[0]?.tag).toMatchObject({ rangeLow: 0, rangeHigh: 100 });
  });
  test('what cannot be used is told on the row and never dropped', () => {
    const head = 'Name,Address,Type,Raw low,Raw high,Low,High,Factor,Divisor\n';
    expect(problemsOf(rowsOf(`${head}a,HR1,INT,,,,,0,\n`))).toEqual(['row 2, column 8 (Factor): scale-factor']);
    expect(problemsOf(rowsOf(`${head}a,HR1,INT,5,5,0,10,,\n`))).toEqual(['row 2, column 5 (Raw high): scale-raw']);
    expect(problemsOf(rowsOf(`${head}a,HR1,INT,0,100,0,10,0.5,\n`))).toEqual(['row 2, column 5 (Raw high): scale-twice']);
    expect(problemsOf(rowsOf(`${head}a,HR1,INT,,,,,0.1,5\n`))).toEqual(['row 2, column 9 (Divisor): scale-twice']);
    const [only] = rowsOf(`${head}a,HR1,INT,0,27648,,,,\n`);
    expect([only?.tag?.scale, only?.notes.join()]).toEqual([null, expect.stringContaining('Raw ends without engineering ends')]);
    expect(rowsOf(`${head}a,CO1,BOOL,,,,,0.1,\n`)[0]?.notes.join()).toContain('has no scale');
    expect(rowsOf(`${head}a,HR1,INT,0,100,0,10,0.1,10\n`)[0]?.problems).toEqual([]);
  });
  test('any factor and offset scale as they say', () => {
    const number = fc.integer({ min: -9999, max: 9999 }).map((n) => n / 1000);
    fc.assert(
      fc.property(
        number.filter((n) => n !== 0),
        number,
        fc.integer({ min: -32000, max: 32000 }),
        (factor, offset, raw) => {
          const [row] = rowsOf(`Name,Address,Type,Factor,Offset\na,HR1,INT,${factor},${offset}\n`);
          expect(row?.problems).toEqual([]);
          expect(Math.abs((at(row, raw) ?? NaN) - (raw * factor + offset))).toBeLessThan(1e-6);
        },
      ),
    );
  });
});

describe('numbers as they are written', () => {
  const ends = (low: string, high: string): unknown => {
    const [row] = rowsOf(`Name;Address;Type;Low;High\na;HR1;INT;${low};${high}\nb;HR2;INT;0,5;1\n`);
    return row?.tag ? [row.tag.rangeLow, row.tag.rangeHigh] : row?.problems.map((p) => p.code);
  };
  test('a list with decimal commas may group by points', () => {
    expect(ends('1.200,5', '12.000')).toEqual([1200.5, 12000]);
    expect(ends('-3,25', '1.000.000')).toEqual([-3.25, 1_000_000]);
    expect(ends('1.20,5', '9')).toEqual(['number']);
  });
  test('a list with decimal points may group by commas where a point shows it', () => {
    const [row] = rowsOf('Name;Address;Type;Low;High\na;HR1;INT;-1,200.5;2,000.25\n');
    expect([row?.tag?.rangeLow, row?.tag?.rangeHigh]).toEqual([-1200.5, 2000.25]);
  });
});

describe('words for data types', () => {
  test.each([
    ['FLOAT32', 'REAL'],
    ['float', 'REAL'],
    ['Single', 'REAL'],
    ['DOUBLE', 'LREAL'],
    ['UINT16', 'UINT'],
    ['uint 16', 'UINT'],
    ['INT32', 'DINT'],
    ['INT64', 'LINT'],
    ['BIT', 'BOOL'],
    ['Boolean', 'BOOL'],
    ['SHORT', 'INT'],
    ['LONG', 'DINT'],
    ['U16', 'UINT'],
    ['S32', 'DINT'],
    ['WORD[2]', 'DWORD'],
    ['CHAR[12]', 'STRING(12)'],
    ['Unsigned_Int', 'UDINT'],
  ])('%s is taken for %s, and that is told on the row', (word, type) => {
    const read = readTypeWord(word);
    expect(read.ok && formatDataType(read.value)).toBe(type);
    expect(read.word).toBeDefined();
    const address = type === 'BOOL' ? 'CO1' : 'HR1';
    const [row] = rowsOf(`Name,Address,Type\na,${address},"${word}"\n`);
    expect([row?.tag?.type, row?.notes.join()]).toEqual([type, `“${word}” is read as ${type}.`]);
  });
  test('the standard’s own names are told nothing of, and a word can be chosen otherwise', () => {
    expect(readTypeWord('INT')).not.toHaveProperty('word');
    expect(rowsOf('Name,Address,Type\na,HR1,LONG\n', { typeWords: { LONG: 'LINT' } })[0]?.tag?.type).toBe('LINT');
    expect(rowsOf('Name,Address,Type\na,HR1,Analogwert\n', { typeWords: { ANALOGWERT: 'INT' } })[0]?.tag?.type).toBe('INT');
    expect(problemsOf(rowsOf('Name,Address,Type\na,HR1,Analogwert\n'))).toEqual(['row 2, column 3 (Type): unknown-type']);
  });
});

test('a heading that names or describes is the name by itself, and the comment beside a name', () => {
  expect(rowsOf('Bezeichnung,Address,Type\na,HR1,INT\n')[0]?.tag?.name).toBe('a');
  expect(rowsOf('Name,Address,Type,Bezeichnung\na,HR1,INT,Bett oben\n')[0]?.tag).toMatchObject({ name: 'a', comment: 'Bett oben' });
});

describe('addresses that say too little', () => {
  test('a plain number is read once it is said what it names, in hexadecimal too', () => {
    const text = 'Name,Address,Type\na,100,INT\nb,0x0064,REAL\nc,7,BOOL\n';
    expect(problemsOf(rowsOf(text)).length).toBe(3);
    expect(rowsOf(text, { plainNumbers: 'holding' }).map((r) => r.tag?.canonical)).toEqual(['HR100', 'HR100', 'CO7']);
    expect(rowsOf(text, { plainNumbers: 'input', countsFrom: 1 }).map((r) => r.tag?.canonical)).toEqual(['IR99', 'IR99', 'DI6']);
    expect([plainNumber('100'), plainNumber('0x64'), plainNumber('40001'), plainNumber('x')]).toEqual([100, 100, null, null]);
  });
  test('a list that counts from 0 is read on a device that counts from 1, and 40000 shows it', () => {
    const text = 'Name,Address,Type\na,40000,INT\nb,40017,REAL\n';
    expect(problemsOf(rowsOf(text))).toEqual(['row 2, column 2 (Address): address-range']);
    expect([countsFromZero('40000'), countsFromZero('300000'), countsFromZero('40001')]).toEqual([true, true, false]);
    expect(rowsOf(text, { countsFrom: 0 }).map((r) => r.tag?.canonical)).toEqual(['HR0', 'HR17']);
    const int = parseDataType('INT');
    expect(int.ok && ruledAddress('HR5', int.value, { countsFrom: 0 })).toBe('HR5');
  });
  test('an address that is refused is named as it was written, with the setting that would accept it', () => {
    const problem = rowsOf('Name,Address,Type\na,%MX0.3,BOOL\nb,D100,INT\n').map((r) => r.problems[0]);
    expect(problem[0]).toMatchObject({ message: expect.stringContaining('“%MX0.3”') as unknown as string, setting: 'locations' });
    expect(problem[1]).toMatchObject({ message: expect.stringContaining('“D100”') as unknown as string, setting: 'memoryName' });
    expect(rowsOf('Name,Address,Type\nb,D100,INT\n', {}, { memoryName: 'D' })[0]?.tag?.canonical).toBe('HR100');
  });
});

describe('a row that was put right', () => {
  test('is read by what was put right, also when it stands elsewhere in the next version', () => {
    const corrections = [{ name: 'Bed', cells: { address: 'HR7', type: 'REAL' } }];
    expect(rowsOf('Name,Address,Type\nfan,HR1,INT\nbed,HR,FLOT\n', { corrections })[1]).toMatchObject({
      tag: { canonical: 'HR7', type: 'REAL' },
      asListed: 'bed',
    });
    expect(rowsOf('Name,Type,Address\nbed,FLOT,HR\n', { corrections })[0]?.tag?.canonical).toBe('HR7');
  });
});

describe('names that look the same', () => {
  test('are one name, however they are composed and whatever cannot be seen in them', () => {
    // U+00F6 or o with U+0308; a zero width space, a soft hyphen, a byte order mark.
    expect(new Set(['Größe', 'Gro\u0308ße', 'Grö\u200bße', 'Grö\u00adße', '\ufeffGröße'].map(nameKey)).size).toBe(1);
    expect(nameKey('bed_1')).not.toBe(nameKey('bed_2'));
    const rows = rowsOf('Name,Address,Type\nGröße,HR1,INT\nGro\u0308ße,HR2,INT\n');
    expect(problemsOf(rows)).toEqual(['row 3, column 1 (Name): duplicate-name']);
  });
});

describe('what goes out as a list', () => {
  test('comes in again the same, whatever sign its texts begin with', () => {
    const text = fc
      .stringMatching(/^['=+@-]{0,3}[A-Za-z0-9 ;,"'°µäö=+-]{1,20}$/)
      .map((t) => t.trim())
      .filter((t) => t !== '');
    fc.assert(
      fc.property(fc.uniqueArray(text, { minLength: 1, maxLength: 6, selector: nameKey }), text, text, (names, comment, unit) => {
        const tags = names.map((name, i) => tagOf(i + 1, { name, comment, unit, initial: comment }));
        const rows = understandRows(readDelimited(writeList(tags)), context());
        expect(rows.map((r) => [r.tag?.name, r.tag?.comment, r.tag?.unit, r.tag?.initial])).toEqual(
          tags.map((t) => [t.name, t.comment, t.unit, t.initial]),
        );
      }),
    );
  });
});
