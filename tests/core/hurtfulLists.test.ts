import { describe, expect, test } from '@jest/globals';
import { DraftWork } from '@/services/lists/draftWork.ts';

/** Longest time that reading any of these may take; honest lists of 100 000 rows take about as long. */
const LIMIT_MS = 1000;
const DEVICE = { driver: 'modbus-tcp', dialect: {} };
const again = (text: string, length: number): string => text.repeat(Math.ceil(length / text.length)).slice(0, length);

interface Reading {
  readonly ms: number;
  readonly words: string;
  readonly places: string;
}

/** Tests run beside others: what was slow once is read again, and the quickest counts. What goes back and forth is always slow. */
function read(text: string): Reading {
  let best = readOnce(text);
  for (let tries = 1; tries < 3 && best.ms > LIMIT_MS && best.ms < 10 * LIMIT_MS; tries++) {
    const next = readOnce(text);
    if (next.ms < best.ms) best = next;
  }
  return best;
}

function readOnce(text: string): Reading {
  const begun = process.cpuUsage();
  const work = new DraftWork(new TextEncoder().encode(text), DEVICE, []);
  const done = work.read({}, () => undefined);
  work.tree(0);
  work.countingProbes();
  // Of the processor, since other tests run beside it.
  const { user, system } = process.cpuUsage(begun);
  const ms = (user + system) / 1000;
  const words = JSON.stringify(done);
  // What is told is bounded too: a page has to show it.
  expect(words.length).toBeLessThan(200_000);
  return { ms, words, places: words + JSON.stringify(work.rows('bad', 0, 3)) };
}

/** Contents that make patterns and parsers go back and forth. */
const NASTY: Readonly<Record<string, string>> = {
  digits: '7',
  'digits and points': '1.',
  'digits by threes': '123.456,',
  spaces: ' ',
  'spaces and letters': 'a ',
  letters: 'a',
  capitals: 'AB',
  'capitals and small letters': 'aB',
  'opening brackets': '[',
  brackets: '[]',
  'opening parentheses': '(',
  'line breaks in quotes': '(\n',
  dots: '.',
  'dots and letters': '.a',
  underlines: '_',
  minuses: '-',
  signs: '=:',
  'names of values': '1=a;',
  times: '1h2m',
  exponents: '1e',
  hexadecimal: '0x',
  'percent signs': '%M',
  accents: 'é',
  'combining marks': 'a\u0301',
  quotes: '""',
  'hash signs': '#',
  dollars: '$',
  commas: '0,',
};
const CELLS = [
  'Name',
  'Address',
  'Type',
  'Unit',
  'Low',
  'High',
  'Scale',
  'Group',
  'Comment',
  'Values',
  'Initial',
  'Period',
  'Access',
  'Decimals',
  'Order',
];
const GOOD = ['bed', 'HR1', 'INT', '°C', '0', '100', '0.1', 'Bed', 'of the bed', '', '', '500', 'R', '1', ''];

describe('a list made to hurt is read or refused within a second', () => {
  test.each(Object.entries(NASTY))(
    '80 000 characters of %s in each cell in turn, and as a heading',
    (_what, piece) => {
      const long = `"${again(piece, 80_000).replaceAll('"', '""')}"`;
      const slow: string[] = [];
      for (const [at, heading] of CELLS.entries()) {
        const cells = GOOD.map((cell, i) => (i === at ? long : cell));
        const { ms, words } = read(`${CELLS.join(',')}\n${GOOD.join(',')}\n${cells.join(',')}\n`);
        if (ms > LIMIT_MS) slow.push(`${heading} ${Math.round(ms)} ms ${words.slice(0, 200)}`);
      }
      const { ms } = read(`${CELLS.join(',')},${long}\n${GOOD.join(',')},x\n`);
      if (ms > LIMIT_MS) slow.push(`heading ${Math.round(ms)} ms`);
      expect(slow).toEqual([]);
    },
    60_000,
  );
  // Line breaks make many rows of it, which is no line.
  test.each(Object.entries(NASTY).filter(([, piece]) => !piece.includes('\n')))(
    'one line of 250 000 characters of %s, alone and after declarations',
    (_what, piece) => {
      const slow: string[] = [];
      const long = again(piece, 250_000);
      const texts = {
        alone: long,
        'before a list': `${long}\nName,Address,Type\na,HR1,INT\n`,
        'a comment': `VAR_GLOBAL\n(* ${long} *)\na : INT;\nEND_VAR\n`,
        'an open comment': `VAR_GLOBAL\n(* ${long} \na : INT;\nEND_VAR\n`,
        'a name': `VAR_GLOBAL\n${long} : INT;\nEND_VAR\n`,
        'a type': `VAR_GLOBAL\na : ${long};\nEND_VAR\n`,
        'a bound': `VAR_GLOBAL\na : ARRAY[0..${long}] OF INT;\nEND_VAR\n`,
        'a value': `VAR_GLOBAL\na : INT := ${long};\nEND_VAR\n`,
        XML: `<?xml version="1.0"?><project xmlns="http://www.plcopen.org/xml/tc6_0201"><types><dataTypes><dataType name="a">${long}</dataType></dataTypes></types></project>`,
        JSON: `[{"name": ${JSON.stringify(long)}, "address": "HR1", "type": "INT"}]`,
      };
      for (const [where, text] of Object.entries(texts)) {
        const { ms, words } = read(text);
        if (ms > LIMIT_MS) slow.push(`${where} ${Math.round(ms)} ms ${words.slice(0, 200)}`);
      }
      expect(slow).toEqual([]);
    },
    60_000,
  );
  test.each([
    ['ARRAY[0..1] OF ', '', 'INT'],
    ['ARRAY[0..0] OF ', '', 'INT'],
    ['STRUCT a : ', '; END_STRUCT', 'INT'],
    ['POINTER TO ', '', 'INT'],
    ['(', ')', 'INT'],
    ['INT(', ')', '0'],
  ])('10 000 times %s, one in the other', (open, close, inside) => {
    const nested = open.repeat(10_000) + inside + close.repeat(10_000);
    for (const text of [`VAR_GLOBAL a : ${nested}; END_VAR`, `TYPE t : ${nested}; END_TYPE VAR_GLOBAL a : t; END_VAR`]) {
      const { ms, places } = read(text);
      expect([ms < LIMIT_MS, places]).toEqual([true, expect.stringContaining('line 1') as unknown as string]);
    }
  });
  test.each([
    [
      'types that stand for each other',
      (n: number) => `TYPE ${Array.from({ length: n }, (_, i) => `t${i} : t${i + 1};`).join(' ')} t${n} : INT; END_TYPE VAR_GLOBAL a : t0; END_VAR`,
    ],
    [
      'structures that hold each other twice',
      (n: number) =>
        `TYPE ${Array.from({ length: n }, (_, i) => `t${i} : STRUCT a : t${i + 1}; b : t${i + 1}; END_STRUCT;`).join(' ')} t${n} : INT; END_TYPE VAR_GLOBAL a : t0; END_VAR`,
    ],
    ['a structure that holds itself', () => 'TYPE t : STRUCT a : t; END_STRUCT; END_TYPE VAR_GLOBAL a : t; END_VAR'],
    ['arrays of a billion', () => 'VAR_GLOBAL a : ARRAY[0..999999999] OF INT; b : ARRAY[0..9999, 0..9999] OF INT; END_VAR'],
    ['minus signs in a bound', (n: number) => `VAR_GLOBAL a : ARRAY[0..${'-'.repeat(n)}1] OF INT; END_VAR`],
    ['sums in a bound', (n: number) => `VAR_GLOBAL a : ARRAY[0..${'1+'.repeat(n)}1] OF INT; END_VAR`],
    ['names before one colon', (n: number) => `VAR_GLOBAL ${Array.from({ length: n }, (_, i) => `a${i}`).join(',')} : INT; END_VAR`],
    ['groups in groups', (n: number) => `${Array.from({ length: n }, (_, i) => `NAMESPACE n${i}`).join('\n')} VAR_GLOBAL a : INT; END_VAR`],
    [
      'values of an enumeration',
      (n: number) => `TYPE e : (${Array.from({ length: n }, (_, i) => `v${i}`).join(',')}); END_TYPE VAR_GLOBAL a : e; END_VAR`,
    ],
    ['initial values in brackets', (n: number) => `VAR_GLOBAL a : ARRAY[0..1] OF INT := ${'['.repeat(n)}1${']'.repeat(n)}; END_VAR`],
    ['repeated initial values', (n: number) => `VAR_GLOBAL a : ARRAY[0..9] OF INT := [${n}(${n}(${n}(1)))]; END_VAR`],
    ['comments one after the other', (n: number) => `VAR_GLOBAL ${'(* a *) {b} '.repeat(3 * n)} a : INT; END_VAR`],
    ['comments in comments', (n: number) => `VAR_GLOBAL ${'(*'.repeat(n)} a : INT; END_VAR`],
    ['open comments one after the other', (n: number) => `VAR_GLOBAL a : INT; END_VAR\n${'{ '.repeat(n)}`],
    ['spaces in a comment that speaks of a version', (n: number) => `VAR_GLOBAL // version${' '.repeat(10 * n)}!\na : INT; END_VAR`],
    ['lines with a sign that is none', (n: number) => `VAR_GLOBAL\n${'$\n'.repeat(n)}a : INT; END_VAR`],
    ['open quotes', (n: number) => `VAR_GLOBAL a : INT; END_VAR\n${`'a "b `.repeat(n)}`],
  ])('10 000 %s', (_what, make) => {
    const { ms, words } = read(make(10_000));
    expect([ms < LIMIT_MS, words.slice(0, 600), Math.round(ms)]).toEqual([true, expect.anything(), expect.anything()]);
  });
  test.each([
    ['250 000 empty lines', `${'\n'.repeat(250_000)}Name,Address,Type\na,HR1,INT\n`],
    ['JSON in JSON', `[{"name": ${'['.repeat(10_000)}1${']'.repeat(10_000)}}]`],
    ['an object of 100 000 fields', `[{${Array.from({ length: 100_000 }, (_, i) => `"f${i}":1`).join(',')}}]`],
    ['XML in XML', `<?xml version="1.0"?><project>${'<a>'.repeat(10_000)}${'</a>'.repeat(10_000)}</project>`],
    ['100 000 attributes', `<?xml version="1.0"?><project ${Array.from({ length: 100_000 }, (_, i) => `f${i}="1"`).join(' ')}></project>`],
    [
      'entities in entities',
      `<?xml version="1.0"?><!DOCTYPE p [<!ENTITY a "1234567890">${Array.from({ length: 20 }, (_, i) => `<!ENTITY a${i} "${(i === 0 ? '&a;' : `&a${i - 1};`).repeat(10)}">`).join('')}]><project>&a19;</project>`,
    ],
    ['100 000 columns', `Name,Address,Type${',x'.repeat(100_000)}\na,HR1,INT${',1'.repeat(100_000)}\n`],
    ['100 000 headings of one name', `${'Name,'.repeat(100_000)}Address,Type\n`],
    ['one cell that is never closed', `Name,Address,Type\n"${'a,HR1,INT\n'.repeat(25_000)}`],
    ['quotes in the middle of every cell', `Name,Address,Type\n${'a"b,HR"1,I"NT\n'.repeat(5000)}`],
    ['rows of one name', `Name,Address,Type\n${'same,HR1,INT\n'.repeat(10_000)}`],
    [
      'names that differ in their last digit',
      `Name,Address,Type\n${Array.from({ length: 5000 }, (_, i) => `${'n'.repeat(100)}${i},HR${i},INT`).join('\n')}\n`,
    ],
  ])('%s', (_what, text) => {
    const { ms, words } = read(text);
    expect([ms < LIMIT_MS, words.slice(0, 600), Math.round(ms)]).toEqual([true, expect.anything(), expect.anything()]);
  });
});
