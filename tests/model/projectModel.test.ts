import { ENTITY_SCHEMAS } from '@/core/project/entities.ts';
import { isPlainTag } from '@/core/project/kinds/plainTag.ts';
import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Change } from '@/core/project/command.ts';
import { ProjectModel, type PlannedChange } from '@/model/projectModel.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [PROJECT, LINK, DEVICE, OTHER, TAG, PANEL, PAGE, ELEMENT] = [0, 1, 2, 3, 4, 5, 6, 7].map(uuidOf) as [
  string,
  string,
  string,
  string,
  string,
  string,
  string,
  string,
];
const device = (linkId: string, name: string) => ({ linkId, name, settings: { unit: 1 }, dialect: {}, witnessUrl: '' });
const BASE: readonly Change[] = [
  { kind: 'project', id: PROJECT, set: { name: 'P' } },
  { kind: 'link', id: LINK, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } } },
  { kind: 'device', id: DEVICE, set: device(LINK, 'KILN') },
  { kind: 'device', id: OTHER, set: device(LINK, 'ROLLS') },
  { kind: 'tag', id: TAG, set: newTag(DEVICE, 'bed') },
  { kind: 'panel', id: PANEL, set: { name: 'Panel' } },
  { kind: 'page', id: PAGE, set: { panelId: PANEL, name: 'Page', position: 0 } },
  { kind: 'element', id: ELEMENT, set: { pageId: PAGE, kind: 'value', tagId: TAG, label: '', x: 0, y: 0, w: 200, h: 64, settings: {} } },
];

let model: ProjectModel;
const plan = (...changes: Change[]) => model.plan(changes);
const apply = (...changes: Change[]): readonly PlannedChange[] => {
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(`${planned.problem.place}: ${planned.problem.message}`);
  model.apply(planned.value);
  return planned.value;
};
const code = (...changes: Change[]): string => {
  const planned = plan(...changes);
  return planned.ok ? 'fits' : planned.problem.code;
};
const state = () => ['project', 'link', 'device', 'tag', 'scale', 'panel', 'page', 'element'].map((kind) => model.all(kind as 'tag'));

beforeEach(() => {
  model = new ProjectModel();
  apply(...BASE);
});

describe('a command', () => {
  test('is planned without changing anything, and planned in slices it says the same', async () => {
    const before = JSON.stringify(state());
    const changes: Change[] = [
      { kind: 'tag', id: TAG, set: { unit: '°C' } },
      { kind: 'scale', id: TAG, set: { scale: { kind: 'power', exponent: -1 } } },
    ];
    const [atOnce, inSlices] = [plan(...changes), await model.planInSlices(changes)];
    expect(inSlices).toEqual(atOnce);
    expect(JSON.stringify(state())).toBe(before);
  });
  test('may make what it refers to, in any order of its parts that can be followed', () => {
    const [device2, tag2] = [uuidOf(20), uuidOf(21)];
    expect(code({ kind: 'tag', id: tag2, set: newTag(device2, 'late') }, { kind: 'device', id: device2, set: device(LINK, 'LATE') })).toBe('fits');
  });
  test('makes no second project, and no element with a setting that its kind has not, or of a wrong kind', () => {
    expect(code({ kind: 'project', id: uuidOf(40), set: { name: 'Other' } })).toBe('project');
    expect(code({ kind: 'element', id: ELEMENT, set: { w: 0 } })).toBe('invalid');
    expect(code({ kind: 'element', id: ELEMENT, set: { x: -20, w: 30 } })).toBe('fits');
    expect(code({ kind: 'element', id: ELEMENT, set: { settings: { actions: [] } } })).toBe('invalid');
    expect(code({ kind: 'element', id: ELEMENT, set: { settings: { decimals: 1.5 } } })).toBe('invalid');
    expect(code({ kind: 'element', id: ELEMENT, set: { kind: 'bar', settings: { low: 100, high: { by: 'KILN.bed' } } } })).toBe('fits');
    expect(code({ kind: 'element', id: ELEMENT, set: { kind: 'bar', settings: { low: 'much' } } })).toBe('invalid');
  });
  test('puts 2000 elements on a page and no more, counting those that it removes', () => {
    const put = (n: number): Change => ({ kind: 'element', id: uuidOf(1000 + n), set: { pageId: PAGE, kind: 'clock', tagId: null, label: '', x: 0, y: 0, w: 9, h: 9, settings: {} } }); // prettier-ignore
    apply(...Array.from({ length: 1999 }, (_, n) => put(n)));
    expect(code(put(2001))).toBe('too-many');
    expect(code(put(2001), { kind: 'element', id: uuidOf(1000), set: null })).toBe('fits');
  });
  test('that refers to something that it removes is refused', () => {
    expect(code({ kind: 'device', id: DEVICE, set: null }, { kind: 'tag', id: uuidOf(30), set: newTag(DEVICE, 'orphan') })).toBe('reference');
  });
  test('two tags may swap their names, and may not share one', () => {
    const second = uuidOf(31);
    apply({ kind: 'tag', id: second, set: newTag(DEVICE, 'out') });
    expect(code({ kind: 'tag', id: second, set: { name: 'BED' } })).toBe('name-taken');
    apply({ kind: 'tag', id: TAG, set: { name: 'out' } }, { kind: 'tag', id: second, set: { name: 'bed' } });
    expect([model.tagNamed('bed', DEVICE)?.id, model.tagNamed('OUT', DEVICE)?.id]).toEqual([second, TAG]);
  });
  test('two devices have different names, on any link and also when both come at once: a name begins the paths of its tags', () => {
    const [first, second, link2] = [uuidOf(50), uuidOf(51), uuidOf(52)];
    const made = (id: string, linkId: string, name: string): Change => ({ kind: 'device', id, set: device(linkId, name) });
    const another: Change = { kind: 'link', id: link2, set: { name: 'New', driver: 'modbus-tcp', settings: { host: 'localhost', port: 503 } } };
    expect(code(made(first, LINK, 'MILL'), made(second, LINK, 'mill'))).toBe('name-taken');
    expect(code(another, made(first, LINK, 'MILL'), made(second, link2, 'MILL'))).toBe('name-taken');
    expect(code(another, made(first, LINK, 'MILL'), made(second, link2, 'PRESS'))).toBe('fits');
  });
  test('a device that moves to another link in the same command does not go with its old one', () => {
    const link2 = uuidOf(40);
    apply(
      { kind: 'link', id: link2, set: { name: 'New', driver: 'modbus-tcp', settings: { host: 'localhost', port: 503 } } },
      { kind: 'device', id: DEVICE, set: { linkId: link2 } },
      { kind: 'link', id: LINK, set: null },
    );
    expect(model.get('device', DEVICE)?.linkId).toBe(link2);
    expect(model.get('tag', TAG)).not.toBeNull();
    expect(model.get('device', OTHER)).toBeNull();
  });
});

describe('what a device is known by', () => {
  test('must be a tag of its own, and is forgotten with the tag', () => {
    expect(code({ kind: 'device', id: OTHER, set: { identityTagId: TAG, identity: '1' } })).toBe('reference');
    expect(code({ kind: 'device', id: DEVICE, set: { lifeTagId: uuidOf(99) } })).toBe('reference');
    apply({ kind: 'device', id: DEVICE, set: { identityTagId: TAG, identity: '1', lifeTagId: TAG, ownLifeTagId: TAG } });
    apply({ kind: 'tag', id: TAG, set: null });
    expect(model.get('device', DEVICE)).toMatchObject({ identityTagId: null, lifeTagId: null, ownLifeTagId: null });
    expect(model.get('element', ELEMENT)?.tagId).toBeNull();
  });
  test('a tag that is followed is not missed when it goes: what followed it is read back itself', () => {
    const setpoint = uuidOf(50);
    apply({ kind: 'tag', id: setpoint, set: { ...newTag(DEVICE, 'sp'), confirm: { kind: 'follows', tagId: TAG, by: 1 } } });
    apply({ kind: 'tag', id: TAG, set: null });
    expect(model.get('tag', setpoint)?.confirm).toEqual({ kind: 'equal' });
  });
});

describe('undoing', () => {
  const back = (planned: readonly PlannedChange[]): void => model.apply(planned.map((c) => ({ ...c, before: c.after, after: c.before })));
  test('any planned command taken back leaves everything as it was, its indexes too', () => {
    const changes: fc.Arbitrary<Change> = fc.oneof(
      fc.constantFrom<Change>(
        { kind: 'link', id: LINK, set: null },
        { kind: 'device', id: DEVICE, set: null },
        { kind: 'tag', id: TAG, set: null },
        { kind: 'panel', id: PANEL, set: null },
        { kind: 'page', id: PAGE, set: null },
        { kind: 'tag', id: TAG, set: { name: 'renamed', source: newPoint(OTHER, 'HR2') } },
        { kind: 'scale', id: TAG, set: { scale: { kind: 'power', exponent: 2 } } },
        { kind: 'element', id: ELEMENT, set: { tagId: null } },
      ),
      fc.integer({ min: 100, max: 110 }).map((n): Change => ({ kind: 'tag', id: uuidOf(n), set: newTag(OTHER, `tag ${n}`) })),
    );
    fc.assert(
      fc.property(fc.array(changes, { minLength: 1, maxLength: 6 }), (all) => {
        model = new ProjectModel();
        apply(...BASE);
        const sorted = () => state().map((list) => [...list].sort((a, b) => (a.id < b.id ? -1 : 1)));
        const before = JSON.stringify(sorted());
        const planned = model.plan(all);
        if (!planned.ok) return;
        model.apply(planned.value);
        back(planned.value);
        expect(JSON.stringify(sorted())).toBe(before);
        expect(model.tagNamed('bed', DEVICE)?.id).toBe(TAG);
        expect(model.tagsOf(DEVICE).map((t) => t.id)).toEqual([TAG]);
        expect(model.elementsOf(TAG).map((e) => e.id)).toEqual([ELEMENT]);
        expect(model.effective(TAG).ok).toBe(true);
      }),
    );
  });
  test('the effective signal is made once while nothing it is made of changes, and anew when something does', () => {
    const first = model.effective(TAG);
    apply({ kind: 'panel', id: PANEL, set: { name: 'Other' } });
    expect(model.effective(TAG)).toBe(first);
    apply({ kind: 'device', id: DEVICE, set: { dialect: { order16: 'BA' } } });
    const second = model.effective(TAG);
    expect(second.ok && second.value.def.order).toBe('BA');
    expect(second.ok && first.ok && second.value.digest !== first.value.digest).toBe(true);
  });
});

describe('a tag that is told quickly to obey its schema', () => {
  const schema = ENTITY_SCHEMAS.tag.noUnknown(true);
  const good: Readonly<Record<string, unknown>> = {
    id: '01a20bcf-0000-7000-8000-000000000001',
    name: 'bed',
    groupId: null,
    source: newPoint('01a20bcf-0000-7000-8000-000000000002', 'HR1', { periodMs: 1000 }),
    type: 'INT',
    access: 'read',
    confirm: { kind: 'equal' },
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    rawRange: null,
    displayRange: null,
    limits: null,
    unavailable: null,
    comment: '',
    listId: '',
    listName: '',
    listType: '',
    isGone: false,
    names: [],
    enumerationId: null,
    initial: '',
  };
  const values: readonly unknown[] = [
    null, undefined, '', ' ', 'x', ' x', 'x ', 'x\ny', '\u007f', 'x'.repeat(81), 'x'.repeat(401), 'HR1', 'INT', 'STRING(20)', 'STRING', 'NOPE',
    0, 1, -1, 99, 100, 12, 13, 1.5, 1e9, NaN, Infinity, true, false, [], {}, { kind: 'equal' }, { kind: 'equal', by: 1 }, { kind: 'none' },
    { low: 0, high: 1 }, { low: 1, high: 1 },
    'read', 'readWrite', 'READ', '01a20bcf-0000-7000-8000-000000000003', '01a20bcf', new Date(0),
  ]; // prettier-ignore
  const obeys = (tag: Readonly<Record<string, unknown>>): boolean => {
    try {
      schema.validateSync(tag, { strict: true });
      return true;
    } catch {
      return false;
    }
  };
  test('is one that does', () => {
    expect([isPlainTag(good), obeys(good)]).toEqual([true, true]);
  });
  test('whatever stands in one field, or two, what is passed quickly is passed by the schema too', () => {
    const fields = [...Object.keys(good), 'other'];
    let passed = 0;
    for (const field of fields)
      for (const value of values) {
        const tag = { ...good, [field]: value };
        if (isPlainTag(tag)) passed++;
        if (isPlainTag(tag) && !obeys(tag)) throw new Error(`${field}: ${String(value)}`);
      }
    for (const low of values)
      for (const high of values) {
        const tag = { ...good, rangeLow: low, rangeHigh: high };
        if (isPlainTag(tag) && !obeys(tag)) throw new Error(`range ${String(low)} to ${String(high)}`);
      }
    for (const field of fields) {
      const { [field]: _left, ...rest } = good;
      if (field !== 'other') expect(isPlainTag(rest)).toBe(false);
    }
    expect(passed).toBeGreaterThan(60);
  });
});
