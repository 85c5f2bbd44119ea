/** Edits of many cells at once: what they come to, and what of them does not fit. */
import { describe, expect, test } from '@jest/globals';
import { countedOn, maskMoved, seriesAfter, stepBetween } from '@/core/grid/countOn.ts';
import { cellsOf, textOfCells } from '@/core/grid/pasted.ts';
import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { MAP_COLUMNS, type ColumnKey, type MapColumn } from '@/ui/map/columns.ts';
import { countOnDown, duplicate, fillDown, paste, replaceIn, setAll } from '@/ui/map/gridActions.ts';
import { changesOf, type PlannedEdits } from '@/ui/map/gridEdits.ts';
import { uuidOf } from '../support/uuidOf.ts';
import { projectOf, tagOf } from './project.ts';

const columnOf = (key: ColumnKey): MapColumn => {
  const found = MAP_COLUMNS.find((c) => c.key === key);
  if (!found) throw new Error(key);
  return found;
};
const at = (key: ColumnKey): number => MAP_COLUMNS.indexOf(columnOf(key));
const cellsIn = ({ rows }: PlannedEdits): string[] =>
  rows.map(({ cells, problem }) => `${cells.map(({ after }) => after).join(' ')}${problem ? ` ! ${problem.message}` : ''}`);
const tags = (...over: Partial<Tag & { address: string }>[]): Tag[] =>
  over.map((each, i) => tagOf(10 + i, { name: `gap_${i + 1}`, address: `4000${i + 1}`, ...each }));

describe('texts count on', () => {
  test.each([
    ['stand_1', 1, 'stand_2'],
    ['stand_09', 2, 'stand_11'],
    ['M007', -7, 'M000'],
    ['Codes[9]', 1, 'Codes[10]'],
    ['pump', 1, null],
    ['a1', -2, null],
    ['t999999999999999999', 1, 't1000000000000000000'],
  ])('%s by %d is %s', (text, by, next) => {
    expect(countedOn(text, by)).toBe(next);
  });
  test('two of them say the step', () => {
    expect(stepBetween('w 100', 'w 104')).toBe(4);
    expect(stepBetween('w 100', 'x 104')).toBeNull();
    expect(seriesAfter(['HR2', 'HR7'], 3)).toEqual(['HR12', 'HR17', 'HR22']);
  });
  // The sixteen masks of a word: common practice.
  test('masks double to the end of the word', () => {
    expect(seriesAfter(['16#0001'], 16)).toEqual([
      '16#0002', '16#0004', '16#0008', '16#0010', '16#0020', '16#0040', '16#0080', '16#0100',
      '16#0200', '16#0400', '16#0800', '16#1000', '16#2000', '16#4000', '16#8000', null,
    ]); // prettier-ignore
    expect(seriesAfter(['UINT mask 16#000F'], 2)).toEqual(['UINT mask 16#00F0', 'UINT mask 16#0F00']);
    expect(maskMoved('0x00ff', 4)).toBe('0x0ff0');
  });
});

describe('cells of a spreadsheet', () => {
  test('go to the clipboard and come back, whatever is in them', () => {
    const rows = [
      ['a', 'with\ttab', 'with "quotes"'],
      ['two\nlines', '', '°C'],
    ];
    expect(cellsOf(textOfCells(rows))).toEqual(rows);
    expect(cellsOf('a\tb\r\nc\td\r\n')).toEqual([
      ['a', 'b'],
      ['c', 'd'],
    ]);
  });
});

describe('a block of cells', () => {
  const three = tags({ unit: 'mm' }, {}, {});
  const project = projectOf(three);

  test('is filled with its first row', () => {
    expect(cellsIn(fillDown(project, three, [columnOf('unit'), columnOf('value')]))).toEqual(['mm', 'mm']);
  });

  test('counts on: names by one, addresses by what a value takes', () => {
    const reals = tags({ type: 'REAL', address: '40001' }, { type: 'REAL' }, { type: 'REAL' });
    expect(cellsIn(countOnDown(projectOf(reals), reals, [columnOf('address')], null))).toEqual(['40003', '40005']);
    expect(cellsIn(countOnDown(projectOf(reals), reals, [columnOf('address')], 100))).toEqual(['40101', '40201']);
    const bits = tags(
      { type: 'BOOL', address: '40001.14' },
      { type: 'BOOL', address: '40002.0' },
      { type: 'BOOL', address: '40003.0' },
      { type: 'BOOL', address: '40004.0' },
    );
    expect(cellsIn(countOnDown(projectOf(bits), bits, [columnOf('address')], null))).toEqual(['40001.15', '40002.0', '40002.1']);
  });

  test('that would take a name twice, or an address that is none, says so at each row', () => {
    const all = setAll(project, three, columnOf('name'), 'gap_1');
    expect(cellsIn(all)).toEqual(['gap_1 ! A tag named “gap_1” is there already.', 'gap_1 ! A tag named “gap_1” is there already.']);
    const wrong = setAll(project, three, columnOf('address'), 'nowhere');
    expect(wrong.rows.every(({ problem }) => problem !== null)).toBe(true);
    expect(changesOf(wrong)).toEqual([]);
  });

  test('is searched and replaced', () => {
    const planned = replaceIn(project, three, { find: 'GAP', with: 'roller_gap', column: null, isCaseHeld: false });
    expect(cellsIn(planned)).toEqual(['roller_gap_1', 'roller_gap_2', 'roller_gap_3']);
    expect(replaceIn(project, three, { find: 'GAP', with: '', column: 'name', isCaseHeld: true }).rows).toEqual([]);
    // A text with signs that mean something in patterns is a text.
    expect(
      cellsIn(
        replaceIn(projectOf(tags({ comment: 'a.b $1' })), tags({ comment: 'a.b $1' }), {
          find: '.b $1',
          with: '$&',
          column: 'comment',
          isCaseHeld: true,
        }),
      ),
    ).toEqual(['a$&']);
  });

  test('a new group is made once for all that name it', () => {
    const planned = setAll(project, three, columnOf('group'), 'Stand 1/Rolls');
    expect(planned.groups.map(({ set }) => (set as { name: string }).name)).toEqual(['Stand 1', 'Rolls']);
    expect(new Set(planned.rows.map(({ set }) => set.groupId)).size).toBe(1);
    expect(changesOf(planned)).toHaveLength(5);
  });

  test('ten thousand rows of which three hundred are wrong: the wrong ones are known, the others can be kept', () => {
    const many = Array.from({ length: 10_000 }, (_, i) => tagOf(i + 100, { name: `t${i}`, address: `HR${i}` }));
    const large = projectOf(many);
    const cells = many.map((_, i) => (i % 33 === 0 && i < 9900 ? ['x', 'HR70000'] : ['x', `IR${i}`]));
    const planned = paste(
      large,
      many,
      MAP_COLUMNS,
      { row: 0, column: at('address') - 1, rows: 1, columns: 1 },
      cells.map(([, address]) => ['', address ?? '']),
    );
    const wrong = planned.rows.filter(({ problem }) => problem !== null);
    expect([planned.rows.length, wrong.length]).toEqual([10_000, 300]);
    expect(wrong[0]?.problem?.message).toContain('70000');
    expect(changesOf(planned)).toHaveLength(9700);
  });

  test('pasted rows beyond the last tag become tags like it', () => {
    const planned = paste(project, three, MAP_COLUMNS, { row: 2, column: 0, rows: 1, columns: 1 }, [
      ['gap_3', '', '', '40003'],
      ['gap_4', '', '', '40004'],
      ['gap_4', '', '', '40005'],
    ]);
    expect(planned.rows.map(({ isNew, set, problem }) => [isNew, set.name, problem?.code])).toEqual([
      [true, 'gap_4', undefined],
      [true, 'gap_4', 'name-taken'],
    ]);
    expect(planned.rows.map(({ set }) => set.source && addressOf({ source: set.source }))).toEqual(['40004', '40005']);
  });

  test('one pasted cell fills the block', () => {
    expect(cellsIn(paste(project, three, MAP_COLUMNS, { row: 1, column: at('unit'), rows: 2, columns: 1 }, [['bar']]))).toEqual(['bar', 'bar']);
  });
});

describe('duplicates', () => {
  test('“seven more stands, each 100 words on”: names, addresses and scales count on', () => {
    const stand = tags({ name: 'stand_1_gap', address: '40010', type: 'REAL' }, { name: 'stand_1_bit', address: '40012.3', type: 'BOOL' });
    const planned = duplicate(projectOf(stand), stand, { copies: 7, offset: 100, counts: 'first' });
    expect(planned.rows).toHaveLength(14);
    expect(planned.rows.every(({ isNew, problem }) => isNew && problem === null)).toBe(true);
    expect(planned.rows.slice(-2).map(({ set }) => [set.name, set.source && addressOf({ source: set.source })])).toEqual([
      ['stand_8_gap', '40710'],
      ['stand_8_bit', '40712.3'],
    ]);
  });
  test('what has no number gets one', () => {
    const pump = tags({ name: 'pump' });
    expect(duplicate(projectOf(pump), pump, { copies: 2, offset: 1, counts: 'last' }).rows.map(({ set }) => set.name)).toEqual(['pump_2', 'pump_3']);
  });
});

describe('scales in cells', () => {
  const shared = {
    id: uuidOf(90),
    name: 'Card of 0–20 mA',
    scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 20 },
    unit: 'mA',
    decimals: 2,
  } as const;
  const inputs = tags({}, {}, {}, { type: 'BOOL', address: '00001' });
  const project = projectOf(inputs, { [inputs[0]?.id ?? '']: { kind: 'linear', rawA: 0, engA: 0, rawB: 4095, engB: 10 } }, [], {
    sharedScales: [shared],
  });
  const column = columnOf('scale');
  const of = (planned: PlannedEdits): unknown[] => changesOf(planned).map(({ kind, set }) => [kind, set]);

  test('the name of a shared one is given to every row, by paste and at once; what is no number is left out with its reason', () => {
    const planned = setAll(project, inputs, column, 'card of 0–20 ma');
    expect(of(planned)).toEqual([1, 2, 3].map(() => ['scale', { scale: shared.scale, sharedId: shared.id }]));
    expect(cellsIn(planned)[3]).toContain('only numbers are scaled');
    const columnAt = MAP_COLUMNS.indexOf(column);
    const pasted = paste(project, inputs.slice(0, 2), MAP_COLUMNS, { row: 0, column: columnAt, rows: 2, columns: 1 }, [[shared.name], ['× 0.1']]);
    expect(of(pasted)).toEqual([
      ['scale', { scale: shared.scale, sharedId: shared.id }],
      ['scale', { scale: { kind: 'gain', gain: 0.1, offset: 0 }, sharedId: null }],
    ]);
  });
  test('a line of its own is filled down as it is written', () => {
    expect(column.edit?.text(inputs[0] as Tag, project)).toBe('0…4095 → 0…10');
    expect(of(fillDown(project, inputs.slice(0, 2), [column]))).toEqual([
      ['scale', { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 4095, engB: 10 }, sharedId: null }],
    ]);
    expect(of(setAll(project, inputs.slice(0, 1), column, ''))).toEqual([['scale', null]]);
  });
  test.each([
    ['0 to 27648 -> -50...150', { kind: 'linear', rawA: 0, engA: -50, rawB: 27_648, engB: 150 }],
    ['×10^-2', { kind: 'power', exponent: -2 }],
    ['* 0.1 - 40', { kind: 'gain', gain: 0.1, offset: -40 }],
    ['x 2', { kind: 'gain', gain: 2, offset: 0 }],
  ])('“%s” is a line', (text, scale) => {
    expect(of(setAll(project, inputs.slice(1, 2), column, text))).toEqual([['scale', { scale, sharedId: null }]]);
  });
  test.each(['nobody', '0…0 → 0…10', '× 0', '5…10'])('“%s” is refused, and nothing is changed', (text) => {
    const planned = setAll(project, inputs.slice(1, 2), column, text);
    expect([planned.rows[0]?.problem === null, changesOf(planned)]).toEqual([false, []]);
  });
  test('a copy of a tag shares what the tag shares', () => {
    const first = inputs[0] as Tag;
    const sharing = projectOf([first], {}, [], { sharedScales: [shared], scales: [{ id: first.id, scale: shared.scale, sharedId: shared.id }] });
    const made = duplicate(sharing, [first], { copies: 2, offset: 1, counts: 'last' });
    expect(made.scales.map(({ set }) => set)).toEqual([1, 2].map(() => ({ scale: shared.scale, sharedId: shared.id })));
  });
});
