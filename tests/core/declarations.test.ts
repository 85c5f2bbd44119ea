/** Lists that are declarations of a controller's program: IEC 61131-3 text, PLCopen XML, and Mill Latch's own JSON. */
import { describe, expect, test } from '@jest/globals';
import { declaredRows, type Declarations } from '@/core/taglist/declared.ts';
import { readAny } from '@/services/lists/readAny.ts';
import { looksDeclared, parseDeclarations } from '@/core/taglist/declarations/parse.ts';
import type { Layout } from '@/core/taglist/layout.ts';
import { parseOwnJson } from '@/core/taglist/ownJson.ts';
import { parsePlcOpen } from '@/core/taglist/plcopen.ts';

const rowsOf = (declarations: Declarations, layout: Layout = 'none') => declaredRows(declarations, layout);
const cellsOf = (text: string, layout: Layout = 'none'): Readonly<Record<string, Readonly<Record<string, string>>>> =>
  Object.fromEntries(rowsOf(parseDeclarations(text), layout).map((row) => [row.cells.name ?? '', { ...row.cells }]));
const problemsOf = (text: string): readonly string[] => {
  const declarations = parseDeclarations(text);
  return [...declarations.problems, ...rowsOf(declarations).flatMap((r) => r.problems ?? [])].map((p) => `${p.place}: ${p.code}`);
};
/** Words after the variable's address, where the layout gives them. */
const placesOf = (text: string, layout: Layout): Readonly<Record<string, number | null>> =>
  Object.fromEntries(rowsOf(parseDeclarations(text), layout).map((row) => [row.cells.name ?? '', row.inside ? row.inside.atBit / 16 : null]));

// Examples of the standard: IEC 61131-3, second edition, tables 12, 14 and 17 (from memory).
const STANDARD = `
{VERSION 3.1}
TYPE
  ANALOG_SIGNAL_TYPE : (SINGLE_ENDED, DIFFERENTIAL) ;
  ANALOG_SIGNAL_RANGE :
    (BIPOLAR_10V, UNIPOLAR_10V, UNIPOLAR_1_5V, UNIPOLAR_0_5V, UNIPOLAR_4_20_MA, UNIPOLAR_0_20_MA) := UNIPOLAR_1_5V ;
  FREQ : REAL := 50.0 ;
  ANALOG_DATA : INT (-4095..4095) ;
  ANALOG_16_INPUT_DATA : ARRAY [1..16] OF ANALOG_DATA := [8(-4095), 8(4095)] ;
  ANALOG_CHANNEL_CONFIGURATION :
    STRUCT
      RANGE : ANALOG_SIGNAL_RANGE ;
      MIN_SCALE : ANALOG_DATA := -4095 ;
      MAX_SCALE : ANALOG_DATA := 4095 ;
    END_STRUCT ;
  ANALOG_16_INPUT_CONFIGURATION :
    STRUCT
      SIGNAL_TYPE : ANALOG_SIGNAL_TYPE ;
      FILTER_PARAMETER : SINT (0..99) ;
      CHANNEL : ARRAY [1..16] OF ANALOG_CHANNEL_CONFIGURATION ;
    END_STRUCT ;
  CHANNEL_4_20 : ANALOG_CHANNEL_CONFIGURATION (MIN_SCALE := 0, MAX_SCALE := 4000) ;
END_TYPE
VAR_GLOBAL
  LIM_SW_S5 AT %IX27 : BOOL ;
  CONV_START AT %QX25 : BOOL ;
  TEMPERATURE AT %IW28: INT ;
  INARY AT %IW6 : ARRAY [0..9] OF INT ;
  AWORD, BWORD, CWORD : INT ;
  MYSTR: STRING[10] := 'ABC' ;
  MAINS : FREQ ;
  CARD : ANALOG_16_INPUT_CONFIGURATION ;
  RAW : ANALOG_16_INPUT_DATA ;
  LOOP : CHANNEL_4_20 ;
  THREE : ARRAY [1..2, 0..1, -1..0] OF BOOL := [1, 2(0), 5(1)] ;
END_VAR`;

describe('declarations as the standard writes them', () => {
  const cells = cellsOf(STANDARD);
  test('give every value its own row, with type, address, range, names and initial value', () => {
    expect(problemsOf(STANDARD)).toEqual([]);
    expect(cells.LIM_SW_S5).toMatchObject({ type: 'BOOL', address: '%IX27' });
    expect(cells.MYSTR).toMatchObject({ type: 'STRING(10)', initial: "'ABC'" });
    expect(cells.MAINS).toMatchObject({ type: 'REAL', initial: '50.0' });
    expect(Object.keys(cells).filter((name) => /^.WORD$/.test(name))).toEqual(['AWORD', 'BWORD', 'CWORD']);
    expect(cells['CARD.CHANNEL[16].MIN_SCALE']).toMatchObject({ type: 'INT', low: '-4095', high: '4095', initial: '-4095' });
    expect(cells['CARD.FILTER_PARAMETER']).toMatchObject({ type: 'SINT', low: '0', high: '99' });
    expect(cells['CARD.CHANNEL[1].RANGE']).toMatchObject({
      initial: 'UNIPOLAR_1_5V',
      enumeration: '0=BIPOLAR_10V; 1=UNIPOLAR_10V; 2=UNIPOLAR_1_5V; 3=UNIPOLAR_0_5V; 4=UNIPOLAR_4_20_MA; 5=UNIPOLAR_0_20_MA',
    });
    expect([cells['RAW[8]']?.initial, cells['RAW[9]']?.initial]).toEqual(['-4095', '4095']);
    expect([cells['LOOP.MIN_SCALE']?.initial, cells['LOOP.MAX_SCALE']?.initial]).toEqual(['0', '4000']);
    expect(Object.keys(cells).filter((name) => name.startsWith('CARD.'))).toHaveLength(2 + 16 * 3);
  });
  test('the last index runs fastest', () => {
    expect(Object.keys(cells).filter((name) => name.startsWith('THREE'))).toEqual(
      ['1,0,-1', '1,0,0', '1,1,-1', '1,1,0', '2,0,-1', '2,0,0', '2,1,-1', '2,1,0'].map((i) => `THREE[${i}]`),
    );
    expect(['1,0,-1', '1,0,0', '1,1,-1', '1,1,0', '2,1,0'].map((i) => cells[`THREE[${i}]`]?.initial)).toEqual(['1', '0', '0', '1', '1']);
  });
  test('elements of whole words lie one after another; where a layout is not known, members have no address', () => {
    expect(placesOf(STANDARD, 'none')).toMatchObject({ 'INARY[0]': 0, 'INARY[9]': 9 });
    const text = 'TYPE T : STRUCT a : INT; b : INT; END_STRUCT; END_TYPE VAR_GLOBAL x AT %MW4 : T; END_VAR';
    expect(placesOf(text, 'none')).toEqual({ 'x.a': null, 'x.b': null });
    expect(rowsOf(parseDeclarations(text))[0]?.notes?.[0]).toMatch(/structures/);
  });
  test('the version of the program stands in a pragma', () => {
    expect(parseDeclarations(STANDARD).version).toBe('3.1');
  });
});

describe('the layout of a structure', () => {
  const text = `TYPE T : STRUCT on : BOOL; small : SINT; big : DINT; word : INT; text : STRING[5]; real : LREAL; tail : BOOL; END_STRUCT; END_TYPE
    VAR_GLOBAL x AT %MW0 : ARRAY [0..1] OF T; END_VAR`;
  test('in words: every member begins one', () => {
    expect(placesOf(text, 'words')).toMatchObject({
      'x[0].on': 0,
      'x[0].small': 1,
      'x[0].big': 2,
      'x[0].word': 4,
      'x[0].text': 5,
      'x[0].real': 8,
      'x[0].tail': 12,
      'x[1].on': 13,
    });
  });
  test('in bytes: one after another', () => {
    expect(placesOf(text, 'bytes')).toMatchObject({
      'x[0].small': 0.5,
      'x[0].big': 1,
      'x[0].word': 3,
      'x[0].text': 4,
      'x[0].real': 7,
      'x[0].tail': 11,
      'x[1].on': 11.5,
    });
  });
  test('aligned: as a C compiler lays it out (System V AMD64 ABI, 3.1.2: members at multiples of their size, padded at the end)', () => {
    // bool@0 int8@1 int32@4 int16@8 char[6]@10 double@16 bool@24, size 32
    expect(placesOf(text, 'aligned')).toMatchObject({
      'x[0].small': 0.5,
      'x[0].big': 2,
      'x[0].word': 4,
      'x[0].text': 5,
      'x[0].real': 8,
      'x[0].tail': 12,
      'x[1].on': 16,
    });
  });
  test('where the program says it, the program is believed', () => {
    // IEC 61131-3, third edition, table 11 (from memory): relative addresses in a structure
    const located = `TYPE Com1 : STRUCT head AT %B0 : INT; length AT %B2 : USINT := 26; flag1 AT %X3.0 : BOOL; end AT %B24 : INT; END_STRUCT; END_TYPE
      VAR_GLOBAL c AT %MW100 : Com1; END_VAR`;
    expect(placesOf(located, 'none')).toEqual({ 'c.head': 0, 'c.length': 1, 'c.flag1': 1.5, 'c.end': 12 });
  });
});

describe('what else a file of declarations may hold', () => {
  test('comments go to what they stand behind or before; nested ones are one comment', () => {
    const cells = cellsOf(`VAR_GLOBAL
      (* ahead (* nested *) of it *)
      a : INT;
      b : INT; // behind it
      c : INT; (* behind c *) d : INT;
    END_VAR`);
    expect([cells.a?.comment, cells.b?.comment, cells.c?.comment, cells.d?.comment]).toEqual([
      'ahead (* nested *) of it',
      'behind it',
      'behind c',
      '',
    ]);
  });
  test('a pragma with the word that the engineer named marks for panels, whatever word it is, and access paths do', () => {
    const text = `CONFIGURATION Mill
      VAR_GLOBAL {panel} a : INT; {attribute 'hmi' := 'false'} b : INT; END_VAR
      RESOURCE Line2 ON Cpu
        TASK Fast(INTERVAL := T#20ms, PRIORITY := 1);
        PROGRAM Main WITH Fast : MainProgram;
        VAR_GLOBAL CONSTANT c : INT := 5; END_VAR
        VAR_GLOBAL d : DINT; END_VAR
      END_RESOURCE
      VAR_ACCESS seen : Line2.d : DINT READ_WRITE; END_VAR
    END_CONFIGURATION`;
    const told = (mark: string): unknown =>
      Object.fromEntries(rowsOf(parseDeclarations(text, mark)).map(({ cells: c }) => [c.name, `${c.panel}/${c.access}/${c.group}`]));
    expect(told('')).toMatchObject({ a: '//', b: '//' });
    expect(told('hmi')).toMatchObject({ a: '//', b: '//' });
    expect(told('PANEL')).toEqual({
      a: 'yes//',
      b: '//',
      c: '/R/Line2',
      d: 'yes/RW/Line2',
    });
  });
  test('a mistake costs the declaration that it stands in, with its place; the others are read', () => {
    const list = readAny(
      new TextEncoder().encode(`VAR_GLOBAL
  good AT %MW1 : INT;
  bad AT %MW2 : ;
  odd§name AT %MW3 : INT;
  word AT %MW4 : STRING(8) := 'never closed;
  last AT %MW5 : REAL;
END_VAR
(* the end is missing`),
      {},
    );
    if (!list.ok) throw new Error(list.problem.message);
    const { rows, problems } = list.value;
    expect(problems).toEqual([]);
    expect(rows.filter((r) => !r.problems).map((r) => r.cells.name)).toEqual(['good', 'last']);
    expect(rows.filter((r) => r.problems).map((r) => [r.row, r.problems?.[0]?.code])).toEqual([
      [4, 'character'],
      [5, 'not-closed'],
      [8, 'not-closed'],
      [3, 'syntax'],
    ]);
  });
  test('bounds may be written with constants', () => {
    expect(Object.keys(cellsOf('VAR_GLOBAL CONSTANT N : INT := 16#3; END_VAR VAR_GLOBAL x : ARRAY [1..N - 1] OF INT; END_VAR'))).toEqual([
      'N',
      'x[1]',
      'x[2]',
    ]);
  });
  test('bodies of programs and blocks are passed over', () => {
    expect(
      Object.keys(
        cellsOf(
          'PROGRAM p VAR i : INT; END_VAR i := i + 1; END_PROGRAM FUNCTION_BLOCK b VAR_INPUT x : BOOL; END_VAR END_FUNCTION_BLOCK VAR_GLOBAL g : INT; END_VAR',
        ),
      ),
    ).toEqual(['g']);
  });
  test('an enumeration may say its width before or behind', () => {
    const cells = cellsOf('TYPE A : USINT (Off, On := 5, Fault); B : (Idle, Run) UDINT; END_TYPE VAR_GLOBAL a : A; b : B; END_VAR');
    expect([cells.a, cells.b]).toMatchObject([
      { type: 'USINT', enumeration: '0=Off; 5=On; 6=Fault' },
      { type: 'UDINT', enumeration: '0=Idle; 1=Run' },
    ]);
    expect(rowsOf(parseDeclarations('TYPE A : (Off, On); END_TYPE VAR_GLOBAL a : A; END_VAR'))[0]?.notes?.[0]).toMatch(/not confirmed/);
  });
  test('what members are part of is kept for choosing', () => {
    const [row] = rowsOf(parseDeclarations('TYPE S : STRUCT v : INT; END_STRUCT; R : STRUCT s : S; END_STRUCT; END_TYPE VAR_GLOBAL x : R; END_VAR'));
    expect(row?.within).toEqual(['R', 'S']);
  });
});

describe('mistakes in declarations are told with line and column, and the rest is read', () => {
  test.each<[string, string, readonly string[]]>([
    ['a colon is missing', 'VAR_GLOBAL\n a INT;\n b : INT;\nEND_VAR', ['line 2, column 4: syntax']],
    ['a comment is never closed', 'VAR_GLOBAL\n a : INT; (* here\nEND_VAR', ['line 2, column 11: not-closed']],
    ['a type is not there', 'VAR_GLOBAL\n a : Motr;\n b : INT;\nEND_VAR', ['line 2, column 2: unknown-type']],
    ['bounds end before they begin', 'VAR_GLOBAL\n a : ARRAY [5..1] OF INT;\n b : INT;\nEND_VAR', ['line 2, column 13: bounds']],
    ['an array of absurd size', 'VAR_GLOBAL\n a : ARRAY [0..2000000000] OF INT;\n b : INT;\nEND_VAR', ['line 2, column 2: array-size']],
    [
      'arrays of arrays of absurd size',
      'VAR_GLOBAL\n a : ARRAY [0..9999] OF ARRAY [0..9999] OF INT;\n b : INT;\nEND_VAR',
      ['line 2, column 2: array-size'],
    ],
    [
      'arrays of nothing',
      'TYPE N : STRUCT END_STRUCT; END_TYPE\nVAR_GLOBAL\n a : ARRAY [0..99999] OF ARRAY [0..99999] OF N;\n b : INT;\nEND_VAR',
      ['line 3, column 2: array-size'],
    ],
    [
      'a type that holds itself',
      'TYPE T : STRUCT a, b : T; END_STRUCT; END_TYPE\nVAR_GLOBAL\n x AT %MW0 : T;\n b : INT;\nEND_VAR',
      ['line 3, column 2: too-deep'],
    ],
    ['an alias of itself', 'TYPE T : U; U : T; END_TYPE\nVAR_GLOBAL\n x : T;\n b : INT;\nEND_VAR', ['line 3, column 2: too-deep']],
    ['a pointer', 'VAR_GLOBAL\n p : POINTER TO INT;\n b : INT;\nEND_VAR', ['line 2, column 2: no-value']],
    ['four dimensions', 'VAR_GLOBAL\n a : ARRAY [0..1,0..1,0..1,0..1] OF INT;\n b : INT;\nEND_VAR', ['line 2, column 2: dimensions']],
    ['a constant nobody declared', 'VAR_GLOBAL\n a : ARRAY [0..N] OF INT;\n b : INT;\nEND_VAR', ['line 2, column 16: constant']],
    ['a character of another notation', 'VAR_GLOBAL\n a : INT;\n § b : INT;\nEND_VAR', ['line 3, column 2: character']],
  ])('%s', (_what, text, places) => {
    expect(problemsOf(text)).toEqual(places);
    if (!text.includes('(*') && !text.includes('§')) expect(cellsOf(text).b).toMatchObject({ type: 'INT' });
  });
  test('types that hold each other many times over do not take long', () => {
    const levels = Array.from({ length: 14 }, (_, i) => `T${i + 1} : STRUCT a, b, c, d : T${i}; END_STRUCT;`).join('\n');
    const begun = process.cpuUsage();
    expect(problemsOf(`TYPE T0 : STRUCT v : INT; END_STRUCT; ${levels} END_TYPE\nVAR_GLOBAL\nx AT %MW0 : T14;\nEND_VAR`)).toEqual([
      'line 16, column 1: array-size',
    ]);
    expect(problemsOf(`VAR_GLOBAL\n x : ${'ARRAY [0..0] OF '.repeat(5000)}INT;\nEND_VAR`)).toEqual(['line 2, column 966: too-deep']);
    // Of the processor, since other tests run beside it.
    expect(process.cpuUsage(begun).user / 1000).toBeLessThan(3000);
  });
  test('a table of tags is not taken for declarations', () => {
    expect(looksDeclared('Name,Address,Type\nstruct,40001,INT\n')).toBe(false);
    expect(looksDeclared('(* made today *)\nVAR_GLOBAL\n a : INT;\nEND_VAR')).toBe(true);
  });
});

const XML = (types: string, globals: string, accessVars = ''): string => `<?xml version="1.0" encoding="utf-8"?>
<project xmlns="http://www.plcopen.org/xml/tc6_0201">
  <fileHeader companyName="Quern Hollow" productName="x" productVersion="1" creationDateTime="2026-03-01T06:30:00"/>
  <contentHeader name="kiln" version="4.2"><coordinateInfo><fbd><scaling x="1" y="1"/></fbd></coordinateInfo></contentHeader>
  <types><dataTypes>${types}</dataTypes><pous><pou name="p" pouType="program"><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">a := 1;</xhtml></ST></body></pou></pous></types>
  <instances><configurations><configuration name="Mill">${accessVars}<resource name="Line2">
    <globalVars>${globals}</globalVars></resource></configuration></configurations></instances>
</project>`;

describe('PLCopen XML', () => {
  const types = `
    <dataType name="Mode"><baseType><enum><values><value name="Off"/><value name="Heat" value="5"/></values><baseType><UINT/></baseType></enum></baseType></dataType>
    <dataType name="Percent"><baseType><subrangeUnsigned><range lower="0" upper="100"/><baseType><USINT/></baseType></subrangeUnsigned></baseType></dataType>
    <dataType name="Zone"><baseType><struct>
      <variable name="Temp"><type><REAL/></type><documentation><xhtml xmlns="http://www.w3.org/1999/xhtml">bed <b>heat</b></xhtml></documentation></variable>
      <variable name="Open"><type><derived name="Percent"/></type><initialValue><simpleValue value="50"/></initialValue></variable>
    </struct></baseType></dataType>`;
  const globals = `
    <variable name="Zones" address="%MW100"><type><array><dimension lower="1" upper="2"/><baseType><derived name="Zone"/></baseType></array></type></variable>
    <variable name="Mode"><type><derived name="Mode"/></type></variable>
    <variable name="Recipe"><type><string length="20"/></type></variable>
    <variable name="Since"><type><DT/></type></variable>`;
  test('gives the same rows as the same declarations in text', () => {
    const text = `TYPE Mode : UINT (Off, Heat := 5); Percent : USINT (0..100);
      Zone : STRUCT Temp : REAL; (* bed heat *) Open : Percent := 50; END_STRUCT; END_TYPE
      VAR_GLOBAL Zones AT %MW100 : ARRAY [1..2] OF Zone; Mode : Mode; Recipe : STRING[20]; Since : DATE_AND_TIME; END_VAR`;
    const plain = (declarations: Declarations) =>
      rowsOf(declarations, 'words').map(({ cells, inside, within }) => ({ ...cells, group: '', inside, within }));
    const xml = parsePlcOpen(XML(types, globals));
    expect(xml.problems).toEqual([]);
    expect(xml.version).toBe('4.2');
    expect(plain(xml)).toEqual(plain(parseDeclarations(text)));
    const line =
      XML(types, globals)
        .split('\n')
        .findIndex((l) => l.includes('"Zones"')) + 1;
    expect(rowsOf(xml)[0]?.place).toBe(`line ${line}, column 6`);
  });
  test('access variables mark for panels', () => {
    const marked = parsePlcOpen(
      XML(
        types,
        globals,
        '<accessVars><accessVariable alias="m" instancePathAndName="Mill.Line2.Mode" direction="readWrite"><type><derived name="Mode"/></type></accessVariable></accessVars>',
      ),
    );
    expect(marked.variables.filter((v) => v.isForPanel).map((v) => `${v.name} ${v.access}`)).toEqual(['Mode RW']);
  });
  test.each<[string, string, string]>([
    ['entities that multiply', '<?xml version="1.0"?><!DOCTYPE p [<!ENTITY a "x"><!ENTITY b "&a;&a;">]><project>&b;</project>', 'doctype'],
    ['an entity from outside', '<!DOCTYPE p SYSTEM "file:///etc/hostname"><project/>', 'doctype'],
    ['an entity nobody declared', '<project>&a;</project>', 'xml'],
    ['a document of another kind', '<html></html>', 'not-plcopen'],
    ['nested without end', '<project>'.repeat(2000), 'too-deep'],
    ['a file cut off', XML(types, globals).slice(0, 1500), 'xml'],
  ])('%s is refused with the reason', (_what, text, code) => {
    const { problems } = parsePlcOpen(text);
    expect(problems[0]).toMatchObject({ code, place: expect.stringMatching(/^line \d+, column \d+$/) as unknown as string });
  });
});

describe('Mill Latch JSON', () => {
  const file = (tags: readonly unknown[], more: object = {}): string => JSON.stringify({ format: 'mill-latch-tags', version: 1, tags, ...more });
  test('gives rows like a table does', () => {
    const read = parseOwnJson(
      file([{ name: 'mode', address: '40001', type: 'UINT', low: 0, high: 2, panel: true, names: [{ value: 0, name: 'off' }] }], {
        program: { version: '7' },
      }),
    );
    expect(read).toMatchObject({
      ok: true,
      value: {
        version: '7',
        rows: [{ cells: { name: 'mode', address: '40001', type: 'UINT', low: '0', high: '2', panel: 'yes', enumeration: '0=off' } }],
      },
    });
  });
  test.each<[string, string, string]>([
    ['a number for an address', file([{ name: 'a', address: 40010.1 }]), 'tag 1, address'],
    ['a field nobody knows', file([{ name: 'ok' }, { name: 'a', adress: '40001' }]), 'tag 2, '],
    ['no name', file([{ address: '40001' }]), 'tag 1, name'],
  ])('%s is told with its place, the others are read', (_what, text, place) => {
    const read = parseOwnJson(text);
    expect(read.ok && read.value.rows.flatMap((r) => r.problems ?? [])[0]?.place).toBe(place);
  });
  test.each<[string, string, string, string?]>([
    ['broken', '{"format": "mill-latch-tags",\n "tags": [,]}', 'json', 'line 2, column 11'],
    ['of something else', '[1, 2]', 'not-ours', 'format'],
    ['of a newer version', JSON.stringify({ format: 'mill-latch-tags', version: 2, tags: [] }), 'newer', 'version'],
  ])('a file %s is refused', (_what, text, code, place) => {
    expect(parseOwnJson(text)).toMatchObject({ ok: false, problem: { code, ...(place ? { place } : {}) } });
  });
});
