import { describe, expect, test } from '@jest/globals';
import { differencesOf, mergeLists, silentFields } from '@/core/taglist/merge.ts';
import { nameLikeness } from '@/core/taglist/renames.ts';
import { declaredRows } from '@/core/taglist/declared.ts';
import { parseDeclarations } from '@/core/taglist/declarations/parse.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { listHistory } from '../support/listHistory.ts';

describe('two versions of a list', () => {
  test.each([1, 2, 3, 4, 5, 6])('renames that can be known are found, and hardly a wrong one is proposed (history %i)', (seed) => {
    const { before, after, renamed, ambiguous } = listHistory(4000, 0.2, seed);
    const { proposals } = mergeLists(before, after);
    const clear = proposals.filter((p) => p.alternatives.length === 0);
    const found = clear.filter((p) => renamed.get(p.from.listName) === p.to.listName).length;
    // A name that was used again is not gone, so what had it cannot be proposed as renamed.
    const old = new Set(after.map((t) => t.listName));
    const findable = [...renamed.keys()].filter((name) => !old.has(name)).length;
    expect(findable).toBeGreaterThan(100);
    expect(found / findable).toBeGreaterThanOrEqual(0.95);
    expect((clear.length - found) / proposals.length).toBeLessThanOrEqual(0.01);
    for (const p of clear) expect(ambiguous).not.toContain(p.from.listName);
    const told = new Set(proposals.filter((p) => p.alternatives.length > 0).map((p) => p.from.listName));
    for (const name of ambiguous) expect(told).toContain(name);
  });
  test('every tag of both versions has its place, and the new version follows from the old one by it', () => {
    const { before, after, deleted } = listHistory(2000, 0.3, 9);
    const { same, changed, added, gone } = mergeLists(before, after);
    expect(same.length + changed.length + added.length).toBe(after.length);
    expect(same.length + changed.length + gone.length).toBe(before.length);
    for (const name of deleted) expect(gone.map((t) => t.listName)).toContain(name);
    for (const { before: was, after: is, differences } of changed) {
      expect(differences.length).toBeGreaterThan(0);
      expect(differencesOf({ ...was, ...Object.fromEntries(differences.map((d) => [d.field, d.to])), canonical: is.canonical }, is)).toEqual([]);
    }
  });
  test('where names are the addresses, a tag that stands between the same neighbours was renamed, and a new one at the end is new', () => {
    const tags = listHistory(1, 0, 1).before.slice(0, 1);
    const named = (names: readonly string[], types: readonly string[] = []) =>
      names.flatMap((name, row) =>
        tags.map((t) => ({ ...t, row, listName: name, name, address: name, canonical: name.toLowerCase(), comment: '', type: types[row] ?? 'REAL' })),
      );
    const proposed = (before: ReturnType<typeof named>, after: ReturnType<typeof named>) =>
      mergeLists(before, after).proposals.map((p) => [p.kind, p.from.listName, p.to.listName]);
    const before = named(['Speed', 'Belt_SP', 'Bagger[0].Bags', 'Bagger[0].Weight', 'Film']);
    expect(proposed(before, named(['Speed', 'Belt_Set_Point', 'Bagger[0].Bags', 'Bagger[0].Weight', 'Film']))).toEqual([
      ['renamed', 'Belt_SP', 'Belt_Set_Point'],
    ]);
    expect(proposed(before, named(['Speed', 'Belt_SP', 'Filler[0].Bags', 'Filler[0].Weight', 'Film']))).toEqual([
      ['renamed', 'Bagger[0].Bags', 'Filler[0].Bags'],
      ['renamed', 'Bagger[0].Weight', 'Filler[0].Weight'],
    ]);
    expect(proposed(before, named(['Speed', 'Bagger[0].Bags', 'Bagger[0].Weight', 'Film', 'Belt_Set_Point']))).toEqual([]);
    expect(proposed(before, named(['Speed', 'Belt_SP_Limit', 'Spare', 'Film', 'Bagger[0].Bags', 'Bagger[0].Weight']))).toEqual([
      ['renamed', 'Belt_SP', 'Belt_SP_Limit'],
    ]);
    expect(proposed(before, named(['Speed', 'Other', 'Bagger[0].Bags', 'Bagger[0].Weight', 'Film']))).toEqual([]);
    expect(proposed(before, named(['Speed', 'Belt_Set_Point', 'Bagger[0].Bags', 'Bagger[0].Weight', 'Film'], ['REAL', 'DINT']))).toEqual([]);
  });
  test('a list compared with itself in another order has nothing to tell', () => {
    const { before } = listHistory(500, 0, 3);
    expect(mergeLists(before, [...before].reverse())).toMatchObject({ changed: [], added: [], gone: [], proposals: [] });
  });
  test('names are the same by any case, and an address is the same in any notation', () => {
    const { before } = listHistory(1, 0, 1);
    const after = before.map((t) => ({ ...t, listName: t.listName.toUpperCase(), address: '400001' }));
    expect(mergeLists(before, after).same).toHaveLength(1);
  });
  test('another type is a change of bytes, another comment is none', () => {
    const { before } = listHistory(2, 0, 1);
    const [a, b] = before.map((t, i) => (i === 0 ? { ...t, type: 'LINT' } : { ...t, comment: 'other' }));
    expect(
      mergeLists(
        before,
        [a, b].flatMap((t) => t ?? []),
      ).changed.map((c) => [c.changesBytes, c.differences.map((d) => d.field)]),
    ).toEqual([
      [true, ['type']],
      [false, ['comment']],
    ]);
  });
  test('what has another type is never taken for a renamed one, whatever else agrees', () => {
    const { before } = listHistory(1, 0, 1);
    expect(
      mergeLists(
        before,
        before.map((t) => ({ ...t, listName: `${t.listName}_x`, type: 'REAL' })),
      ).proposals,
    ).toEqual([]);
  });
  test.each([
    ['RollStand2.motorCurrent', 'roll_stand_2.motor_current', 1],
    ['Kiln.Temp', 'Kiln.Temperature', 0.5],
    ['a', 'b', 0],
  ])('%s and %s are alike by %d', (a, b, likeness) => {
    expect(nameLikeness(a, b)).toBeCloseTo(likeness);
  });
});

describe('a version that does not speak of a field', () => {
  const { before } = listHistory(3, 0, 1);
  const told = before.map((tag) => ({ ...tag, unit: '', comment: 'another', access: 'read' as const }));
  const known = before.map((tag) => ({ ...tag, unit: '°C', access: 'readWrite' as const }));
  test('leaves it as the version before has it; one that says it is empty empties it', () => {
    const silent = mergeLists(known, told, ['unit', 'access']);
    expect(silent.changed.map((c) => c.differences.map((d) => d.field))).toEqual([['comment'], ['comment'], ['comment']]);
    expect(silent.changed[0]?.after).toMatchObject({ unit: '°C', access: 'readWrite', comment: 'another' });
    expect(mergeLists(known, told).changed[0]?.differences.map((d) => d.field)).toEqual(['access', 'unit', 'comment']);
  });
  test('is one without the column, or of declarations, that never tell it', () => {
    const table = readDelimited('Name,Address,Type,Unit\na,40001,INT,\n');
    expect(silentFields(table)).not.toContain('unit');
    expect(silentFields(table)).toEqual(expect.arrayContaining(['access', 'rangeLow', 'rangeHigh', 'scale', 'comment']));
    const rows = declaredRows(parseDeclarations('VAR_GLOBAL a AT %MW1 : INT; (* said *) END_VAR'), 'none');
    const silent = silentFields({ columns: { byKey: new Map(), unknown: [], header: [], headerAt: -1, guesses: [] }, rows });
    expect([silent.includes('comment'), silent.includes('unit'), silent.includes('access')]).toEqual([false, true, true]);
  });
});
