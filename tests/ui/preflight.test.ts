/** Preflight: each planted mistake is found where it is, and a clean project has none. */
import { ENTITY_DEFAULTS } from '@/core/project/entities.ts';
import { describe, expect, test } from '@jest/globals';
import { gapsOf, laidOut, nextFree, overlapsOf } from '@/core/address/memoryMap.ts';
import { MemoryRows } from '@/core/address/memoryRows.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { PointSource } from '@/core/project/tagSource.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import type { DoubtCode } from '@/mapping/preflight/doubt.ts';
import { Preflight } from '@/mapping/preflight/preflight.ts';
import fc from 'fast-check';
import { uuidOf } from '../support/uuidOf.ts';
import { projectOf, tagOf } from './project.ts';

const LINEAR: Scale = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 150 };
/** A page that shows all of the tags, so that none is unused. */
function pageOf(tags: readonly Tag[]): Partial<Snapshot> {
  return {
    panels: [{ ...ENTITY_DEFAULTS.panel, id: uuidOf(900), name: 'Kiln', units: [] }] as unknown as Snapshot['panels'],
    pages: [{ ...ENTITY_DEFAULTS.page, id: uuidOf(901), panelId: uuidOf(900), name: 'Bed', position: 0 }] as unknown as Snapshot['pages'],
    elements: tags.map((tag, i) => ({
      id: uuidOf(1000 + i),
      pageId: uuidOf(901),
      tagId: tag.id,
      kind: 'value',
      label: '',
      ...ENTITY_DEFAULTS.element,
      x: 16 + (i % 5) * 216,
      y: 16 + Math.floor(i / 5) * 80,
      w: 200,
      h: 64,
      settings: {},
    })) as unknown as Snapshot['elements'],
  };
}
const CLEAN = [
  tagOf(10, { name: 'bed_temp', address: '40011', type: 'REAL', unit: '°C', rangeLow: 0, rangeHigh: 150 }),
  tagOf(11, { name: 'gap_sp', address: '40013', access: 'readWrite', rangeLow: 0, rangeHigh: 150, unit: 'mm' }),
  tagOf(12, { name: 'status', address: '40014', type: 'WORD' }),
  tagOf(13, { name: 'running', address: '40014.0', type: 'BOOL' }),
  tagOf(14, { name: 'mode', address: '40014', type: 'UINT mask 16#00F0' }),
  tagOf(15, { name: 'fan_cmd', address: '00020', type: 'BOOL', access: 'readWrite' }),
  tagOf(16, { name: 'label', address: '40020', type: 'STRING(8)' }),
];
function doubtsOf(tags: readonly Tag[], more: Partial<Snapshot> = {}, scales: Readonly<Record<string, Scale>> = { [uuidOf(11)]: LINEAR }) {
  return new Preflight().of(projectOf(tags, scales, [], { ...pageOf(tags), ...more }));
}
const codes = (tags: readonly Tag[], more: Partial<Snapshot> = {}): DoubtCode[] => doubtsOf(tags, more).map(({ code }) => code);

test('a clean project has nothing doubtful: a bit and a field in a word that is read are none', () => {
  expect(doubtsOf(CLEAN)).toEqual([]);
});

test('an address that an index moves lies over others by intent, as do two of the same beginning; what moves it is used', () => {
  const moved = (n: number, index: string): Tag => {
    const tag = tagOf(n, { name: `moved_${n}`, address: '40012', rangeLow: 0, rangeHigh: 1 });
    return { ...tag, source: { ...(tag.source as PointSource), index: `@${uuidOf(index === '' ? 12 : 10)}` } };
  };
  expect(doubtsOf([...CLEAN, moved(40, ''), moved(41, 'other')])).toEqual([]);
});

describe('a planted mistake is found', () => {
  const extra = (over: Partial<Tag & { address: string; order: string }>): Tag => tagOf(30, { name: 'planted', ...over });
  test.each<[string, DoubtCode, Tag]>([
    ['a value over the second register of another', 'overlap', extra({ address: '40012' })],
    ['the same place in another type', 'two-types', extra({ address: '40013', type: 'UINT' })],
    ['the same place in another order', 'two-types', extra({ address: '40011', type: 'REAL', order: 'CDAB' })],
    ['the same place in another unit', 'two-meanings', extra({ address: '40011', type: 'REAL', unit: '°F' })],
    ['the same place written twice', 'written-twice', extra({ address: '00020', type: 'BOOL', access: 'readWrite' })],
    ['a write to an input', 'read-only-place', extra({ address: '30005', access: 'readWrite', rangeLow: 0, rangeHigh: 1 })],
    ['a written number without a range', 'no-range', extra({ address: '40100', access: 'readWrite' })],
    ['a range that the type never reaches', 'range-beyond-type', extra({ address: '40100', type: 'INT', rangeLow: 0, rangeHigh: 100_000 })],
    ['a whole number with a unit and no scale', 'no-scale', extra({ address: '40100', unit: 'bar' })],
    ['a type that its list says otherwise', 'type-disagrees', extra({ address: '40100', type: 'UDINT', listType: 'TIME' })],
    ['a tag that its list no longer has', 'gone-from-list', extra({ address: '40100', isGone: true })],
    ['settings that do not fit', 'unfit', extra({ address: 'HR70000' })],
    ['names that look alike', 'alike-names', extra({ name: 'Bed-Temp', address: '40100', groupId: null })],
    [
      'units that clash in a calculation',
      'calculation',
      tagOf(30, { name: 'sum', type: 'LREAL', source: { kind: 'calculated', expression: `@${uuidOf(10)} + @${uuidOf(11)}` } }),
    ],
  ])('%s: %s', (_what, code, planted) => {
    const found = doubtsOf([...CLEAN, planted]);
    expect(found.map((doubt) => [doubt.code, doubt.about.id])).toEqual([[code, planted.id]]);
    expect(found[0]?.message).toContain(planted.name);
  });

  test('a scale that comes to another unit than is written beside it, with the one that is meant', () => {
    const planted = tagOf(30, { name: 'planted', address: '40100', unit: '°F' });
    const found = new Preflight()
      .of(projectOf([planted], { [planted.id]: { kind: 'platinum', r0: 100 } }))
      .filter(({ code }) => code === 'scale-unit');
    expect(found).toMatchObject([{ severity: 'error', remedy: { changes: [{ kind: 'tag', id: planted.id, set: { unit: '°C' } }] } }]);
  });

  test('a bit that is written in a word that is written too', () => {
    const word = tagOf(30, { name: 'command', address: '40100', type: 'WORD', access: 'readWrite', rangeLow: 0, rangeHigh: 9 });
    const bit = tagOf(31, { name: 'start', address: '40100.3', type: 'BOOL', access: 'readWrite' });
    const device = { ...projectOf([]).devices[0], dialect: { bitWrites: 'mask' } };
    expect(codes([...CLEAN, word, bit], { devices: [device] as never })).toEqual(['bit-of-written-word']);
  });

  test('an element without a tag, an empty page, a device twice, a device without tags, a link without a device, tags that nobody uses', () => {
    const page = pageOf(CLEAN);
    const [element] = page.elements ?? [];
    expect(codes(CLEAN, { elements: [...(page.elements ?? []), { ...element, id: uuidOf(77), tagId: null }] as never })).toEqual(['no-tag-shown']);
    expect(codes(CLEAN, { elements: [] })).toEqual(['empty-page', 'unused']);
    const [device] = projectOf([]).devices;
    expect(codes(CLEAN, { devices: [device, { ...device, id: uuidOf(5), name: 'KILN 2' }] as never })).toEqual(['same-party', 'no-tags']);
    const [link] = projectOf([]).links;
    expect(codes(CLEAN, { links: [link, { ...link, id: uuidOf(6), name: 'Spare' }] as never })).toEqual(['no-devices']);
  });

  test('an entry or button whose tag is only read, and a unit that the tag does not convert into', () => {
    const page = pageOf(CLEAN);
    const [element] = page.elements ?? [];
    const shown = (over: object): Partial<Snapshot> => ({
      elements: [...(page.elements ?? []), { ...element, id: uuidOf(77), label: 'Bed', ...over }] as unknown as Snapshot['elements'],
    });
    const ofUnits = (units: object[]): Partial<Snapshot> => ({
      panels: [{ ...ENTITY_DEFAULTS.panel, id: uuidOf(900), name: 'Kiln', units }] as unknown as Snapshot['panels'],
    });
    expect(doubtsOf(CLEAN, shown({ kind: 'entry' })).map(({ message }) => message)).toEqual([
      'Kiln, Bed: “Bed” writes to bed_temp, which is only read.',
    ]);
    expect(codes(CLEAN, shown({ kind: 'entry', tagId: uuidOf(11) }))).toEqual([]);
    expect(codes(CLEAN, shown({ settings: { unit: '°F' } }))).toEqual([]);
    expect(codes(CLEAN, shown({ settings: { unit: 'bar' } }))).toEqual(['element-unit']);
    expect(codes(CLEAN, ofUnits([{ from: '°C', to: '°F' }]))).toEqual([]);
    expect(codes(CLEAN, ofUnits([{ from: '°C', to: 'm' }]))).toEqual(['element-unit']);
  });

  test('what is wrong with a panel: pages that nothing leads to or from, a way to nowhere, a value that cannot be written, pictures, gaps, sizes, two writers', () => {
    const page = pageOf(CLEAN);
    const [element] = page.elements ?? [];
    const with_ = (over: object, more: Partial<Snapshot> = {}): DoubtCode[] =>
      codes(CLEAN, { elements: [...(page.elements ?? []), { ...element, id: uuidOf(77), label: 'Bed', y: 300, ...over }] as never, ...more });
    const act = (what: object) => ({
      kind: 'button',
      tagId: uuidOf(15),
      settings: { actions: [{ pageId: null, value: '', tagId: null, act: 'toggle', ...what }] },
    });
    const panels = [{ ...(page.panels?.[0] ?? {}), hasBar: false }] as never;
    const pages = [...(page.pages ?? []), { ...(page.pages?.[0] ?? {}), id: uuidOf(902), name: 'Lost', position: 1 }] as never;
    const there = { ...element, id: uuidOf(78), pageId: uuidOf(902), y: 300 };
    expect(with_(act({}))).toEqual([]);
    expect(with_(act({ act: 'page', pageId: uuidOf(999) }))).toEqual(['page-gone']);
    expect(with_(act({ act: 'write', value: 'much' }))).toEqual(['element-writes']);
    expect(with_({ ...act({}), settings: { ...act({}).settings, level: 3 } })).toEqual(['nobody-may']);
    expect(with_({ ...act({}), settings: { ...act({}).settings, level: 3 } }, { operators: [{ id: uuidOf(60), name: 'A', level: 3 }] })).toEqual([]);
    expect(with_({ kind: 'picture', tagId: null })).toEqual(['no-picture']);
    expect(with_({ kind: 'picture', tagId: null, settings: { pictureId: uuidOf(5) } })).toEqual(['picture-gone']);
    expect(with_({ kind: 'lamp', settings: { states: [0, 2].map((at) => ({ at, to: null, text: 'S', look: 'on', symbol: null })) } })).toEqual([
      'state-gaps',
    ]);
    expect(with_({ x: 1200 })).toEqual(['element-outside']);
    expect(with_({ ...act({}), h: 20 })).toEqual(['element-small']);
    expect(with_({ tagId: uuidOf(998) })).toEqual(['element-tag-gone']);
    expect(with_({ settings: { of: { by: 'nothing >' } }, tagId: null })).toEqual(['element-expression']);
    expect(with_({ w: 30 })).toEqual(['element-cut']);
    expect(with_({ kind: 'text', tagId: null, settings: { template: 'x', tone: 'line' } })).toEqual(['element-contrast']);
    const entry = { ...element, id: uuidOf(79), kind: 'entry', tagId: uuidOf(11), y: 400 };
    const both = [...(page.elements ?? []), entry, { ...entry, id: uuidOf(80), x: 400 }];
    expect(codes(CLEAN, { elements: both as never })).toEqual(['two-writers']);
    expect(codes(CLEAN, { elements: [...both.slice(0, -1), { ...entry, id: uuidOf(80) }] as never })).toEqual(['element-overlap', 'two-writers']);
    expect(codes(CLEAN, { panels, pages, elements: [...(page.elements ?? []), there] as never })).toEqual([
      'page-no-way',
      'page-unreached',
      'page-no-way',
    ]);
    const leads = { ...element, id: uuidOf(81), y: 380, ...act({ act: 'page', pageId: uuidOf(902) }) };
    const back = { ...there, id: uuidOf(82), y: 380, ...act({ act: 'back' }) };
    expect(codes(CLEAN, { panels, pages, elements: [...(page.elements ?? []), there, leads, back] as never })).toEqual([]);
  });

  test('a remedy that is certain is offered', () => {
    const [doubt] = doubtsOf([...CLEAN, tagOf(30, { name: 'planted', address: '30005', access: 'readWrite', rangeLow: 0, rangeHigh: 1 })]);
    expect(doubt?.remedy?.changes).toEqual([{ kind: 'tag', id: uuidOf(30), set: { access: 'read' } }]);
    const narrow = tagOf(30, { name: 'planted', address: '40100', type: 'INT', order: 'BA', listType: 'REAL' });
    const [other] = doubtsOf([...CLEAN, narrow]);
    // An order of two bytes means nothing for four.
    expect(other?.remedy?.changes).toEqual([{ kind: 'tag', id: uuidOf(30), set: { type: 'REAL', source: { ...narrow.source, order: '' } } }]);
  });
});

test('after any changes it finds what a look from the beginning finds', () => {
  const place = fc.constantFrom('40011', '40012', '40013', '00020', '40014.3', '30007', 'HR70000');
  const change = fc.record({
    at: fc.nat(9),
    isGone: fc.boolean(),
    address: place,
    type: fc.constantFrom('INT', 'REAL', 'BOOL', 'WORD', 'UDINT'),
    name: fc.constantFrom('bed_temp', 'Bed-Temp', 'gap', 'status'),
    calculated: fc.option(fc.nat(9), { nil: null }),
    unit: fc.constantFrom('', 'bar'),
  });
  fc.assert(
    fc.property(fc.array(change, { maxLength: 12 }), (changes) => {
      const kept = new Preflight();
      let project = projectOf(CLEAN, {}, [], pageOf(CLEAN));
      kept.of(project);
      for (const { at, isGone, address, type, name, calculated, unit } of changes) {
        const id = uuidOf(10 + at);
        const source = calculated === null ? {} : { source: { kind: 'calculated', expression: `@${uuidOf(10 + calculated)} + 1` } as const };
        const after = isGone ? null : tagOf(10 + at, { name: `${name}${at % 3 === 0 ? '' : at}`, address, type, unit, ...source });
        project = project.withChanges(project.revision + 1, [{ kind: 'tag', id, after }]);
        const sortedTexts = (found: readonly { message: string }[]) => found.map(({ message }) => message).sort();
        const fresh = new Preflight().of(project);
        // Of two that look alike either may be told first.
        expect(kept.of(project)).toHaveLength(fresh.length);
        const told = (found: typeof fresh) =>
          sortedTexts(found.filter(({ code }) => !['alike-names', 'overlap', 'two-types', 'two-meanings'].includes(code)));
        expect(told(kept.of(project))).toEqual(told(fresh));
      }
    }),
    { numRuns: 60 },
  );
});

describe('memory', () => {
  test('overlaps are those that two of a pair, looked at bit by bit, have', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(40), fc.integer({ min: 1, max: 8 })), { maxLength: 8 }), (places) => {
        const spans = places.map(([from, bits], i) => ({ key: String(i), from, to: from + bits }));
        const found = new Set(overlapsOf(spans, Infinity).map(({ one, other }) => [one.key, other.key].sort().join()));
        const wanted = new Set<string>();
        for (const a of spans)
          for (const b of spans)
            if (a.key < b.key && [...Array(50).keys()].some((bit) => [a, b].every((s) => bit >= s.from && bit < s.to)))
              wanted.add(`${a.key},${b.key}`);
        expect(found).toEqual(wanted);
        const free = new Set(gapsOf(spans, 50).flatMap(({ from, to }) => [...Array(to - from).keys()].map((i) => from + i)));
        for (let bit = 0; bit < 50; bit++) expect(free.has(bit)).toBe(spans.every((s) => bit < s.from || bit >= s.to));
      }),
    );
  });
  test('a row shows what lies in its cells: cut at its ends, bits of a cell as one, overlaps one above the other', () => {
    const rows = new MemoryRows(
      [
        { key: 'text', from: 8 * 16, to: 13 * 16 },
        { key: 'bit 0', from: 2 * 16, to: 2 * 16 + 1 },
        { key: 'bit 3', from: 2 * 16 + 3, to: 2 * 16 + 4 },
        { key: 'word', from: 2 * 16, to: 3 * 16 },
        { key: 'real', from: 4 * 16, to: 6 * 16 },
        { key: 'over', from: 5 * 16, to: 6 * 16 },
      ],
      16,
    );
    const shown = (first: number) =>
      rows.row(first, 10).map(({ keys, from, to, lane, isCut }) => `${keys.join('+')} ${from}-${to} lane ${lane}${isCut ? ' cut' : ''}`);
    expect(shown(0)).toEqual(['word 2-3 lane 0', 'bit 0+bit 3 2-3 lane 1', 'real 4-6 lane 0', 'over 5-6 lane 1', 'text 8-10 lane 0 cut']);
    expect(shown(10)).toEqual(['text 0-3 lane 0 cut']);
    expect([shown(20), rows.first]).toEqual([[], 2]);
  });

  // Strings of five words each from word 2: common practice.
  test('values laid out one after another', () => {
    expect(laidOut(2, 5, 5)).toEqual([2, 7, 12, 17, 22]);
    expect(laidOut(0, 5, 3, 4)).toEqual([0, 8, 16]);
  });
  test('the next free place is one of its alignment, in a gap that is large enough', () => {
    const spans = [
      { key: 'a', from: 0, to: 16 },
      { key: 'b', from: 32, to: 48 },
    ];
    expect(nextFree(spans, 16, 16, 0, 160)).toBe(16);
    expect(nextFree(spans, 32, 16, 0, 160)).toBe(48);
    expect(nextFree(spans, 32, 32, 0, 160)).toBe(64);
    expect(nextFree(spans, 200, 16, 0, 160)).toBeNull();
  });
});
