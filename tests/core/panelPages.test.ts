/** Arranging, multiplying, copying and filing of elements. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { newAction } from '@/core/panel/actions.ts';
import { aligned, distributed, freePlace, reordered, sameSize, stretched, withGroups } from '@/core/panel/arrange.ts';
import { clipFrom, clipText, copiesOf, pasteShift } from '@/core/panel/clip.ts';
import { contrast, THEME_COLOURS, worstContrast } from '@/core/panel/contrast.ts';
import { ELEMENT_KINDS, ELEMENTS } from '@/core/panel/kinds.ts';
import { SETTINGS_SCHEMAS } from '@/core/panel/settingSchemas.ts';
import { filled } from '@/core/panel/setting.ts';
import { countedOn, maskAfter, multiplied } from '@/core/panel/multiply.ts';
import { pageFile, pagesFrom } from '@/core/panel/pageFile.ts';
import { retagged } from '@/core/panel/retag.ts';
import { readingOrder } from '@/core/panel/scene.ts';
import { FINGER_MM, pixelsPerMm } from '@/core/panel/sizes.ts';
import { gapsIn, overlap, stateAt, type State } from '@/core/panel/states.ts';
import { tagsUsedBy, tagsWritten } from '@/core/panel/uses.ts';
import { ENTITY_DEFAULTS, ENTITY_SCHEMAS, type Element, type Page, type Panel } from '@/core/project/entities.ts';
import { uuidOf } from '../support/uuidOf.ts';

const TAG = uuidOf(1);
function element(n: number, more: Partial<Element> = {}): Element {
  return { ...(ENTITY_DEFAULTS.element as object), id: uuidOf(100 + n), pageId: uuidOf(90), kind: 'value', tagId: null, label: '', x: 0, y: 0, w: 100, h: 50, settings: {}, ...more } as Element; // prettier-ignore
}
let made = 0;
const newId = (): string => uuidOf(10_000 + made++);

const state = (at: number, to: number | null = null): State => ({ at, to, text: `S${at}`, look: 'plain', symbol: null });

describe('every kind of element', () => {
  test.each(ELEMENT_KINDS)('%s is good as it is when it is put on a page, and refuses what it has not', (kind) => {
    const { settings, w, h } = ELEMENTS[kind];
    const entry = element(1, { kind, w, h, settings: {} });
    expect(ENTITY_SCHEMAS.element.isValidSync(entry, { strict: true })).toBe(true);
    expect(SETTINGS_SCHEMAS[kind].isValidSync(filled(settings, {}), { strict: true })).toBe(true);
    expect(ENTITY_SCHEMAS.element.isValidSync({ ...entry, settings: { colour: '#fff' } }, { strict: true })).toBe(false);
    expect(ENTITY_SCHEMAS.element.isValidSync({ ...entry, settings: { visible: { by: 'x'.repeat(3000) } } }, { strict: true })).toBe(false);
  });
  test('a text of 400 characters, from right to left, or of emoji is a label like any other', () => {
    for (const label of ['x'.repeat(400), 'طاحونة الشوفان', '🌾'.repeat(60)])
      expect(ENTITY_SCHEMAS.element.isValidSync(element(1, { label }), { strict: true })).toBe(true);
    expect(ENTITY_SCHEMAS.element.isValidSync(element(1, { label: 'x'.repeat(401) }), { strict: true })).toBe(false);
  });
  test('uses the tags that it shows, writes, lists, and that its expressions name', () => {
    const [a, b, c, d] = [2, 3, 4, 5].map(uuidOf) as [string, string, string, string];
    const button = element(1, { kind: 'button', tagId: a, settings: { actions: [newAction('set', { tagId: b }), newAction('toggle')], visible: { by: `@${c} > 3` } } }); // prettier-ignore
    expect(new Set(tagsUsedBy(button))).toEqual(new Set([a, b, c]));
    expect(tagsWritten(button)).toEqual([b, a]);
    expect(tagsUsedBy(element(1, { kind: 'table', settings: { cells: [c, d] } }))).toEqual([c, d]);
    expect(tagsUsedBy(element(1, { kind: 'text', settings: { template: `Bed {@${a}} of {{{@${b} + 1}` } }))).toEqual([a, b]);
  });
});

describe('states', () => {
  test('are found by value and by range; what lies between them is told as a gap, what is two of them is refused', () => {
    const states = [state(0), state(1), state(4, 9)];
    expect([stateAt(states, 1)?.text, stateAt(states, 6)?.text, stateAt(states, 2), stateAt(states, null)]).toEqual(['S1', 'S4', null, null]);
    expect(gapsIn(states)).toEqual([2, 3]);
    expect(overlap([...states, state(9)])?.map(({ at }) => at)).toEqual([4, 9]);
    expect(ENTITY_SCHEMAS.stateList.isValidSync({ id: uuidOf(1), name: 'S', states: [...states, state(9)] }, { strict: true })).toBe(false);
  });
});

describe('arranging', () => {
  const three = [element(1, { x: 10, y: 5 }), element(2, { x: 200, y: 90, w: 60 }), element(3, { x: 500, y: 30, h: 20 })];
  test('lines follow the first that was chosen, gaps are equal, sizes are its own; what is locked stays', () => {
    expect([...aligned(three, 'right')].map(([, at]) => at)).toEqual([{ x: 50 }, { x: 10 }]);
    expect([...aligned(three, 'middle')].map(([, at]) => at)).toEqual([{ y: 5 }, { y: 20 }]);
    const [gap] = [...distributed(three, 'x').values()];
    // 10…600 are 590, the three are 260 wide: 165 between each two.
    expect(gap).toEqual({ x: 275 });
    expect([...sameSize(three).values()]).toEqual([{ w: 100, h: 50 }, { w: 100, h: 50 }]); // prettier-ignore
    expect(aligned([three[0], { ...three[1], isLocked: true }] as Element[], 'left').size).toBe(0);
  });
  test('what is stretched with its frame keeps its place in it; edges that met meet again, and what is locked stays', () => {
    const row = [element(1, { x: 0, y: 0 }), element(2, { x: 100, y: 0 }), element(3, { x: 200, y: 50, isLocked: true })];
    const frame = { x: 0, y: 0, w: 300, h: 100 };
    const moved = stretched(row, frame, { x: 10, y: 20, w: 200, h: 50 });
    // Two thirds as wide, half as high: 100 and 200 lie at 77 and 143.
    expect([...moved.values()]).toEqual([
      { x: 10, y: 20, w: 67, h: 25 },
      { x: 77, y: 20, w: 66, h: 25 },
    ]);
    expect([...stretched(row, frame, { x: 0, y: 0, w: 1, h: 1 }).values()].every(({ w = 0, h = 0 }) => w >= 1 && h >= 1)).toBe(true);
    expect(stretched(row, frame, frame).size).toBe(0);
  });
  test('the front is above all others, in the order that the chosen have', () => {
    const all = [element(1, { z: 5 }), element(2, { z: 1 }), element(3, { z: 3 })];
    const z = reordered(all, new Set([uuidOf(102), uuidOf(103)]), 'front');
    const heights = all.map(({ id, z: before }) => z.get(id)?.z ?? before);
    expect(heights).toEqual([0, 1, 2]);
  });
  test('a page is read line by line', () => {
    const page = [element(1, { x: 300, y: 4 }), element(2, { x: 0, y: 60 }), element(3, { x: 0, y: 10 })];
    expect(readingOrder(page).map(({ id }) => id)).toEqual([uuidOf(103), uuidOf(101), uuidOf(102)]);
  });
  test('what a frame encloses is read after it, before what stands beside the frame', () => {
    const frame = (n: number, x: number, label: string): Element => element(n, { kind: 'frame', label, x, y: 0, w: 200, h: 300 });
    const page = [
      element(5, { x: 20, y: 20 }),
      element(6, { x: 220, y: 20 }),
      element(7, { x: 20, y: 200 }),
      element(8, { x: 220, y: 200 }),
      frame(3, 0, 'One'),
      frame(4, 210, 'Two'),
      // One inside the other, and one that only touches it.
      element(9, { kind: 'frame', x: 0, y: 180, w: 190, h: 100 }),
      element(10, { x: 180, y: 400 }),
    ];
    expect(readingOrder(page).map(({ id }) => id)).toEqual([3, 5, 9, 7, 4, 6, 8, 10].map((n) => uuidOf(100 + n)));
  });
  test('every element of a page is read once, whatever lies around what', () => {
    const box = fc.record({
      x: fc.integer({ min: 0, max: 60 }),
      y: fc.integer({ min: 0, max: 60 }),
      w: fc.integer({ min: 8, max: 60 }),
      h: fc.integer({ min: 8, max: 60 }),
      kind: fc.constantFrom('frame' as const, 'value' as const),
    });
    fc.assert(
      fc.property(fc.array(box, { maxLength: 12 }), (boxes) => {
        const page = boxes.map((at, n) => element(n, at));
        expect(
          readingOrder(page)
            .map(({ id }) => id)
            .sort(),
        ).toEqual(page.map(({ id }) => id).sort());
      }),
    );
  });
  test('a new element lies on nothing as long as there is room', () => {
    const box = fc.record({ x: fc.integer({ min: 0, max: 700 }), y: fc.integer({ min: 0, max: 400 }), w: fc.integer({ min: 8, max: 300 }), h: fc.integer({ min: 8, max: 200 }) }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(box, { maxLength: 8 }), (taken) => {
        const at = { ...freePlace(taken, { w: 100, h: 60 }, { width: 1280, height: 760 }, 8), w: 100, h: 60 };
        const hits = taken.some((b) => at.x < b.x + b.w && b.x < at.x + at.w && at.y < b.y + b.h && b.y < at.y + at.h);
        expect(hits).toBe(false);
      }),
      { numRuns: 60 },
    );
  });
  test('what is grouped is chosen together', () => {
    const all = [element(1, { group: 'g' }), element(2, { group: 'g' }), element(3)];
    expect(withGroups(all, [uuidOf(101)])).toEqual([uuidOf(101), uuidOf(102)]);
  });
  test('a finger of 9 mm is 54 pixels on a glass of 800 × 480 at 7 inches', () => {
    // 933 pixels over 177.8 mm: 5.25 a millimetre, by arithmetic.
    expect(Math.ceil(FINGER_MM * pixelsPerMm({ width: 800, height: 480, diagonal: 7 }))).toBe(48);
  });
});

describe('the clipboard', () => {
  test('carries elements to another page with ids, groups and heights of their own; anything else is left alone', () => {
    const two = [element(1, { group: 'g', label: 'A' }), element(2, { group: 'g', x: 40, isLocked: true })];
    const back = clipFrom(clipText(two));
    if (!back?.ok) throw new Error('no clip');
    const copies = copiesOf(back.value, { pageId: uuidOf(91), top: 7, by: { x: 8, y: 8 } }, newId);
    expect(copies.map(({ pageId, z, x, isLocked }) => [pageId, z, x, isLocked])).toEqual([[uuidOf(91), 8, 8, false], [uuidOf(91), 9, 48, false]]); // prettier-ignore
    expect(new Set(copies.map(({ group }) => group)).size).toBe(1);
    expect(copies[0]?.group).not.toBe('g');
    expect([clipFrom('bed_temp\tHR1'), clipFrom('{"a":1}')]).toEqual([null, null]);
    expect(clipFrom(clipText([{ ...two[0], w: 0 } as Element]))).toMatchObject({ ok: false, problem: { code: 'clip' } });
  });
  test('is put beside what is there, and on the page', () => {
    const clip = [element(1, { x: 1200, y: 700 })];
    expect(pasteShift(clip, [], { width: 800, height: 440 }, 8)).toEqual({ x: -500, y: -310 });
    expect(pasteShift([element(1)], [element(2)], { width: 800, height: 440 }, 8)).toEqual({ x: 8, y: 8 });
  });
});

describe('one made into many', () => {
  test('the sixteen bits of a word have the masks 1, 2, 4, 8, 10h … 8000h', () => {
    // Common practice: facts of the trade, numbers in registers.
    expect(Array.from({ length: 16 }, (_, n) => maskAfter('1', n))).toEqual([
      '1',
      '2',
      '4',
      '8',
      '10h',
      '20h',
      '40h',
      '80h',
      '100h',
      '200h',
      '400h',
      '800h',
      '1000h',
      '2000h',
      '4000h',
      '8000h', // prettier-ignore
    ]);
    expect([maskAfter('16#0001', 15), maskAfter('8000h', 0), maskAfter('3', 1), maskAfter('Bit', 1)]).toEqual(['16#8000', '8000h', null, null]);
  });
  test('numbers in labels keep their width', () => {
    expect([countedOn('Input 09', 3), countedOn('Stand 1, roll 2', 1), countedOn('Bed', 4)]).toEqual(['Input 12', 'Stand 1, roll 3', 'Bed']);
  });
  test('a lamp of bit 0 becomes sixteen, in rows, each with the mask of its bit', () => {
    const lamp = element(1, { kind: 'lamp', label: 'Input 1', w: 80, h: 40, settings: { of: { by: `(@${TAG} and 16#0001) <> 0` } } });
    const spec = { rows: 4, columns: 4, gapX: 8, gapY: 8, countsLabels: true, doublesMasks: true, order: 'rows' } as const;
    const { elements } = multiplied([lamp], spec, { newId, tagAt: (id) => id });
    expect(elements).toHaveLength(15);
    const last = elements.at(-1);
    expect([last?.label, last?.x, last?.y, (last?.settings.of as { by: string }).by]).toEqual(['Input 16', 264, 144, `(@${TAG} and 16#8000) <> 0`]);
    expect((elements[0]?.settings.of as { by: string }).by).toBe(`(@${TAG} and 16#0002) <> 0`);
  });
  test('tags count on wherever they stand, and what has no next one is told', () => {
    const button = element(1, { kind: 'button', tagId: uuidOf(1), settings: { actions: [newAction('set', { tagId: uuidOf(11) })] } });
    const spec = { rows: 1, columns: 3, gapX: 0, gapY: 0, countsLabels: true, doublesMasks: false, order: 'rows' } as const;
    const tagAt = (id: string, n: number): string | null => (id === uuidOf(1) && n === 2 ? null : uuidOf((id === uuidOf(1) ? 1 : 11) + n));
    const { elements, withoutTag } = multiplied([button], spec, { newId, tagAt });
    expect(elements.map(({ tagId, settings }) => [tagId, (settings.actions as { tagId: string }[])[0]?.tagId])).toEqual([[uuidOf(2), uuidOf(12)], [null, uuidOf(13)]]); // prettier-ignore
    expect(withoutTag).toBe(1);
  });
});

test('other tags stand in the place of those that are used, and only where they are', () => {
  const bar = element(1, { kind: 'bar', tagId: TAG, settings: { high: { by: `@${TAG} + @${uuidOf(2)}` } } });
  expect(retagged(bar, (id) => (id === TAG ? uuidOf(9) : id))).toEqual({
    tagId: uuidOf(9),
    settings: { high: { by: `@${uuidOf(9)} + @${uuidOf(2)}` } },
  });
  expect(retagged(bar, (id) => id)).toBeNull();
});

describe('contrast', () => {
  test('is what WCAG 2.2 says of black, white and the grey that just passes', () => {
    // WCAG 2.2, contrast ratio; #767676 on white is the well-known grey of 4.54 to 1 (common practice).
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5);
    expect(contrast('#767676', '#ffffff')).toBeCloseTo(4.54, 2);
  });
  test('goes by the colours that the themes really have, and their texts pass on the page', () => {
    const css = readFileSync(join(process.cwd(), 'src/ui/globals.css'), 'utf8');
    const [day = '', night = ''] = css.split("@plugin 'daisyui/theme'").slice(1);
    const names = { plain: 'base-content', quiet: 'secondary', primary: 'primary', accent: 'accent', good: 'success', look: 'warning', bad: 'error', surface: 'base-100', page: 'base-200' } as const; // prettier-ignore
    for (const [theme, text] of [
      ['day', day],
      ['night', night],
    ] as const)
      for (const [tone, name] of Object.entries(names))
        expect([theme, tone, text]).toEqual([theme, tone, expect.stringContaining(`--color-${name}: ${THEME_COLOURS[theme][tone as 'plain']};`)]);
    for (const tone of ['plain', 'quiet', 'primary', 'good', 'look', 'bad'] as const)
      expect([tone, worstContrast(tone, 'page') >= 4.5]).toEqual([tone, true]);
    expect(worstContrast('accent', 'page')).toBeLessThan(4.5);
  });
});

describe('a page file', () => {
  const panel = { ...(ENTITY_DEFAULTS.panel as object), id: uuidOf(80), name: 'Kiln', startPageId: uuidOf(91) } as unknown as Panel;
  const page = (n: number, name: string): Page =>
    ({ ...(ENTITY_DEFAULTS.page as object), id: uuidOf(n), panelId: uuidOf(80), name, position: n }) as unknown as Page;
  const pages = [page(90, 'Overview'), page(91, 'Bed')];
  const [bed, gone] = [uuidOf(1), uuidOf(2)];
  const list = { id: uuidOf(70), name: 'On and off', states: [] };
  const elements = [
    element(1, { kind: 'lamp', tagId: bed, settings: { stateListId: list.id, visible: { by: `@${bed} > 3` } } }),
    element(2, {
      kind: 'button',
      tagId: null,
      settings: { actions: [newAction('page', { pageId: uuidOf(91) }), newAction('set', { tagId: gone })] },
    }),
    element(3, { kind: 'text', settings: { template: `Bed {@${bed}}, fan {@${gone}}` } }),
    element(4, { kind: 'picture', tagId: null, settings: { pictureId: uuidOf(60), states: [{ ...state(1), pictureId: uuidOf(60) }, state(2)] } }),
  ];
  const picture = { id: uuidOf(60), name: 'Kiln drum', type: 'svg' as const, width: 20, height: 10, digest: '0'.repeat(64), size: 99 };
  const names: Readonly<Record<string, string>> = { [bed]: 'KILN.Bed.temp', [gone]: 'KILN.fan' };
  const text = pageFile({
    panel,
    pages,
    elementsOn: (id) => (id === uuidOf(90) ? elements : []),
    words: [
      { id: uuidOf(50), panelId: uuidOf(80), role: 'wanted', tagId: bed, elementId: null },
      { id: uuidOf(51), panelId: uuidOf(80), role: 'key', tagId: bed, elementId: elements[1]?.id ?? '' },
      { id: uuidOf(52), panelId: uuidOf(80), role: 'page', tagId: gone, elementId: null },
    ],
    stateList: () => list,
    subjectList: () => null,
    picture: (id) => (id === picture.id ? picture : null),
    pictureData: new Map([[picture.id, 'PHN2Zy8+']]),
    pathOf: (id) => names[id] ?? null,
  });
  const here = { newId, stateListNamed: () => null, subjectListNamed: () => null, pictureNamed: () => null, panelNames: ['Kiln'], into: null };

  test('names tags by their paths, and no ids', () => {
    expect(JSON.parse(text)).toMatchObject({
      format: 'mill-latch-pages',
      version: 1,
      panel: { name: 'Kiln' },
      stateLists: [{ name: 'On and off' }],
      pictures: [{ name: 'Kiln drum', data: 'PHN2Zy8+' }],
    });
    for (const id of [bed, gone, picture.id, ...elements.map((one) => one.id)]) expect(text).not.toContain(id);
  });
  test('comes back as new things whose tags are found by name; what is missing is told, and what needs it is left out', () => {
    const done = pagesFrom(text, { ...here, tagNamed: (parts) => (parts.join('.') === 'KILN.Bed.temp' ? uuidOf(5) : null) });
    if (!done.ok) throw new Error(done.problem.message);
    expect(done.value).toMatchObject({ pageCount: 2, elementCount: 4, missing: ['KILN.fan'], pictures: [{ name: 'Kiln drum', data: 'PHN2Zy8+' }] });
    const of = (kind: string) => done.value.changes.filter((change) => change.kind === kind).map(({ set }) => set);
    expect(of('panel')[0]).toMatchObject({ name: 'Kiln 2' });
    const [lamp, button, words, drum] = of('element') as { tagId: string | null; settings: Record<string, unknown> }[];
    expect(lamp).toMatchObject({ tagId: uuidOf(5), settings: { visible: { by: 'KILN.Bed.temp > 3' }, stateListId: expect.any(String) } });
    const [, bedPage] = done.value.changes.filter(({ kind }) => kind === 'page');
    expect(button?.settings.actions).toMatchObject([
      { act: 'page', pageId: bedPage?.id },
      { act: 'set', tagId: null },
    ]);
    expect(words?.settings).toEqual({});
    const pictureId = done.value.pictures[0]?.id;
    expect(drum?.settings).toEqual({ pictureId, states: [{ ...state(1), pictureId }, state(2)] });
    expect(of('panel').at(-1)).toEqual({ startPageId: bedPage?.id });
    // The words of its controller come along, the key with its button; one whose tag is missing stays away.
    const buttonId = done.value.changes.filter(({ kind }) => kind === 'element')[1]?.id;
    expect(of('panelWord')).toEqual([
      { panelId: done.value.panelId, role: 'wanted', tagId: uuidOf(5), elementId: null },
      { panelId: done.value.panelId, role: 'key', tagId: uuidOf(5), elementId: buttonId },
    ]);
  });
  test('that is none, of a newer version, or damaged is refused and changes nothing', () => {
    const tagNamed = (): null => null;
    const code = (file: string): string => {
      const done = pagesFrom(file, { ...here, tagNamed });
      return done.ok ? 'taken' : done.problem.code;
    };
    expect([code('%PDF'), code('{"format":"other"}'), code(text.replace('"version": 1', '"version": 9')), code(text.replace('"w": 100', '"w": -1'))]).toEqual(['json', 'format', 'version', 'damaged']); // prettier-ignore
  });
});
