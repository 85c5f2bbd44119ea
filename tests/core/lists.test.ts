/** Trees and rules, tables of JSON, and readers that must bear anything. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { EVERYTHING, isChosen, type ChoosingRule } from '@/core/taglist/choose.ts';
import { declaredRows } from '@/core/taglist/declared.ts';
import { parseDeclarations } from '@/core/taglist/declarations/parse.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { LAYOUTS } from '@/core/taglist/layout.ts';
import { parseOwnJson } from '@/core/taglist/ownJson.ts';
import { parsePlcOpen } from '@/core/taglist/plcopen.ts';
import { TagTree, withPattern, type TreeNode } from '@/core/taglist/tree.ts';
import { understandRows } from '@/core/taglist/understand.ts';
import { fromColumns, toColumns, type JsonColumns } from '@/core/jsonColumns.ts';
import { fromTable, toTable } from '@/core/jsonTable.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { atOnce } from '@/core/inSlices.ts';
import { sorting } from '@/core/sortInSteps.ts';
import { notation } from '@/drivers/modbus/notation.ts';

const tag = (listName: string, group = '', within: readonly string[] = []) => ({ listName, group, within, isForPanel: false });
const TAGS = [
  tag('Line1.a'),
  tag('Line2.Motor[1].Speed', '', ['Motor']),
  tag('Line2.Motor[2].Speed', '', ['Motor']),
  tag('Line2.x'),
  tag('free', 'Hall/Air'),
  tag('other', 'Hall'),
];
const treeOf = (rule: ChoosingRule): TagTree => {
  const tree = new TagTree();
  for (const t of TAGS) tree.add(t, isChosen(rule, t));
  return tree;
};
const find = (tree: TagTree, ...labels: readonly string[]): TreeNode => {
  let found: TreeNode | undefined;
  for (const label of labels) {
    found = tree.under(found?.index ?? 0).find((n) => n.label === label);
    if (!found) throw new Error(`no ${label}`);
  }
  if (!found) throw new Error('nothing asked for');
  return found;
};

describe('the tree of a list', () => {
  test('has groups, structures and arrays with their counts', () => {
    const tree = treeOf(EVERYTHING);
    expect(tree.under(0).map((n) => [n.label, n.kind, n.count])).toEqual([
      ['Line1', 'structure', 1],
      ['Line2', 'structure', 3],
      ['Hall', 'group', 2],
    ]);
    expect(find(tree, 'Line2', 'Motor')).toMatchObject({ kind: 'array', pattern: 'Line2.Motor[*', count: 2 });
    expect(find(tree, 'Hall', 'Air')).toMatchObject({ kind: 'group', pattern: 'Hall/Air/*', count: 1 });
  });
  test.each([['Line2'], ['Line2', 'Motor'], ['Line2', 'Motor', '[1]'], ['Hall'], ['Hall', 'Air'], ['Line2', 'x']])(
    'a click on %s %s leaves out everything under it and nothing else; another takes it in again',
    (...labels) => {
      const { pattern, count } = find(treeOf(EVERYTHING), ...labels);
      const out = withPattern(undefined, pattern, false);
      expect(TAGS.filter((t) => !isChosen(out, t))).toHaveLength(count);
      expect(find(treeOf(out), ...labels).chosen).toBe(0);
      expect(withPattern(out, pattern, true)).toEqual(EVERYTHING);
      const only = withPattern({ ...EVERYTHING, include: ['nothing'] }, pattern, true);
      expect(TAGS.filter((t) => isChosen(only, t))).toHaveLength(count);
    },
  );
  test('everything of a type is named with a colon', () => {
    expect(TAGS.filter((t) => isChosen({ ...EVERYTHING, include: [':motor'] }, t)).map((t) => t.listName)).toEqual([
      'Line2.Motor[1].Speed',
      'Line2.Motor[2].Speed',
    ]);
  });
});

describe('a table of JSON', () => {
  test('gives the same objects back', () => {
    const shape = fc.record({
      a: fc.constantFrom(1, 2),
      b: fc.string(),
      c: fc.constant({ kind: 'equal' }),
      d: fc.option(fc.double({ noNaN: true })),
    });
    fc.assert(
      fc.property(fc.array(shape, { minLength: 1, maxLength: 30 }), (items) => {
        const table = toTable(items);
        const back = table ? fromTable(JSON.parse(JSON.stringify(table)) as typeof table) : [];
        const wanted = (JSON.parse(JSON.stringify(items)) as unknown[]).map(sortedJson);
        expect(back.map(sortedJson)).toEqual(wanted);
        expect(fromColumns(JSON.parse(JSON.stringify(toColumns(items))) as JsonColumns).map(sortedJson)).toEqual(wanted);
      }),
    );
  });
  test('is none where the objects have other fields', () => {
    expect(fromColumns(toColumns([]))).toEqual([]);
    expect(() => toColumns([{ a: 1 }, { b: 1 }])).toThrow('different fields');
    expect([toTable([{ a: 1 }, { b: 1 }]), toTable([{ a: 1 }, { a: 1, b: 2 }]), toTable([])]).toEqual([null, null, null]);
  });
});

test('sorting in steps is sorting', () => {
  fc.assert(
    fc.property(fc.array(fc.record({ key: fc.integer({ min: 0, max: 50 }), n: fc.integer() }), { maxLength: 3000 }), (list) => {
      expect(atOnce(sorting(list, (a, b) => a.key - b.key))).toEqual([...list].sort((a, b) => a.key - b.key));
    }),
    { numRuns: 30 },
  );
});

describe('readers bear anything: they end, and say what is wrong', () => {
  const words = [
    'TYPE',
    'END_TYPE',
    'VAR_GLOBAL',
    'END_VAR',
    'STRUCT',
    'END_STRUCT',
    'ARRAY',
    '[',
    ']',
    '..',
    'OF',
    'INT',
    'T',
    ':',
    ':=',
    ';',
    '(',
    ')',
    ',',
    '1',
    '%MW3',
    'AT',
    '(*',
    '*)',
    '{',
    '}',
    "'",
    'x',
    '\n',
  ];
  test('declarations', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...words), { maxLength: 60 }), fc.constantFrom(...LAYOUTS), (parts, layout) => {
        const declarations = parseDeclarations(parts.join(' '));
        for (const { place } of declarations.problems) expect(place).toMatch(/^line \d+, column \d+$/);
        declaredRows(declarations, layout);
      }),
      { numRuns: 1500 },
    );
  });
  test('XML', () => {
    const tags = [
      '<project>',
      '</project>',
      '<types>',
      '<dataTypes>',
      '<dataType name="T">',
      '<baseType>',
      '<struct>',
      '<array>',
      '<dimension lower="1" upper="9999999999"/>',
      '<INT/>',
      '&lt;',
      '<!--',
      '-->',
      '<variable name="a">',
      '</variable>',
      '"',
      '<instances><configurations><configuration><globalVars>',
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...tags), { maxLength: 30 }), (parts) => {
        declaredRows(parsePlcOpen(`<?xml version="1.0"?>${parts.join('')}`), 'aligned');
      }),
      { numRuns: 800 },
    );
  });
  test('JSON', () => {
    fc.assert(
      fc.property(fc.anything(), (any) => {
        let text = '';
        try {
          text = JSON.stringify({ format: 'mill-latch-tags', version: 1, tags: [any, { name: 'ok' }] }) ?? '';
        } catch {
          return;
        }
        const read = parseOwnJson(text);
        expect(read.ok && read.value.rows.at(-1)?.cells.name).toBe('ok');
      }),
    );
  });
  test('delimited text, and what is understood of it', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 200 }), fc.constantFrom('Name,Address,Type\n', 'Name;Address\n', ''), (text, head) => {
        const list = readDelimited(head + text);
        understandRows(list, { parseAddress: (address, type) => notation.parse(address, type, {}), isNameTaken: () => false });
      }),
      { numRuns: 500 },
    );
  });
});

test('lines may end in several ways in one file', () => {
  const list = readDelimited('Name,Address,Type\r\na,40001,INT\nb,40002,INT\rc,40003,"INT"\r\nd,40004,INT');
  expect(list.rows.map((r) => `${r.row} ${r.cells.name} ${r.cells.type}`)).toEqual(['2 a INT', '3 b INT', '4 c INT', '5 d INT']);
});
test('a column that holds several things is split, and each part is told', () => {
  const text = 'Tag,Where\nbed,40018 REAL\nfan,40024 UINT\n';
  expect(readDelimited(text).columns.guesses.map((g) => g.key)).toEqual(['name', null]);
  const split = readDelimited(text, { splits: [{ column: 1, at: ' ' }] });
  expect(split.rows.map((r) => r.cells)).toEqual([
    { name: 'bed', address: '40018', type: 'REAL' },
    { name: 'fan', address: '40024', type: 'UINT' },
  ]);
});
test('columns chosen by hand are found by their headings when they stand in another order', () => {
  const choices = { headerAt: 0, headings: ['Ding', 'Wo', 'Art'], columns: ['name', 'address', 'type'] as const };
  const read = readDelimited('Art,Extra,Ding,Wo\nINT,x,a,40001\n', { ...choices, columns: [...choices.columns] });
  expect(read.rows[0]?.cells).toEqual({ name: 'a', address: '40001', type: 'INT' });
});
