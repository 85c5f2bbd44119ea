/** Groups: a tree under devices and the project, whose settings hold for what is below unless it says something itself. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Change } from '@/core/project/command.ts';
import { DEEPEST_GROUP } from '@/core/project/inherited.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import { groupParts, groupText } from '@/core/project/tagPath.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [PROJECT, LINK, KILN, ROLLS, ZONE, BED, TAG] = [0, 1, 2, 3, 4, 5, 6].map(uuidOf) as [string, string, string, string, string, string, string];
let model: ProjectModel;
const apply = (...changes: readonly Change[]): void => {
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(`${planned.problem.place}: ${planned.problem.message}`);
  model.apply(planned.value);
};
const code = (...changes: readonly Change[]): string => {
  const planned = model.plan(changes);
  return planned.ok ? 'fits' : planned.problem.code;
};
const device = (name: string) => ({ linkId: LINK, name, settings: { unit: 1 }, dialect: {}, witnessUrl: '' });
const group = (id: string, set: Record<string, unknown>): Change => ({ kind: 'group', id, set });
const signal = () => {
  const made = model.effective(TAG);
  if (!made.ok) throw new Error(made.problem.message);
  return made.value;
};

beforeEach(() => {
  model = new ProjectModel();
  apply(
    { kind: 'project', id: PROJECT, set: { name: 'P' } },
    { kind: 'link', id: LINK, set: { name: 'L', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } } },
    { kind: 'device', id: KILN, set: device('KILN') },
    { kind: 'device', id: ROLLS, set: device('ROLLS') },
    group(ZONE, { name: 'Zone 1', deviceId: KILN }),
    group(BED, { name: 'Bed', deviceId: KILN, parentId: ZONE }),
    { kind: 'tag', id: TAG, set: { ...newTag(KILN, 'temp_out'), access: null, source: newPoint(KILN, 'HR2'), groupId: BED } },
  );
});

describe('settings of groups', () => {
  test('come from the nearest above that says something; what a tag says itself goes first', () => {
    expect([signal().periodMs, signal().access, signal().writable]).toEqual([1000, 'read', false]);
    apply(group(ZONE, { periodMs: 5000, access: 'readWrite' }));
    expect([signal().periodMs, signal().access, signal().writable]).toEqual([5000, 'readWrite', true]);
    apply(group(BED, { periodMs: 200 }));
    expect([signal().periodMs, signal().access]).toEqual([200, 'readWrite']);
    expect(model.inheritedBy({ groupId: BED }).saidBy).toEqual({ periodMs: BED, reads: null, access: ZONE, unavailable: null, witnessUrl: null });
    apply({ kind: 'tag', id: TAG, set: { access: 'read', source: newPoint(KILN, 'HR2', { periodMs: 100 }) } });
    expect([signal().periodMs, signal().access]).toEqual([100, 'read']);
  });

  test('leave the signal of a tag as it is, to the object, where they say nothing else than before', () => {
    const before = signal();
    apply(group(ZONE, { name: 'Zone one' }), group(uuidOf(20), { name: 'Other', deviceId: KILN, periodMs: 100 }));
    expect(signal().digest).toBe(before.digest);
    apply(group(uuidOf(20), { periodMs: 200 }));
    const second = signal();
    apply(group(uuidOf(20), { periodMs: 500 }));
    expect(signal()).toBe(second);
  });

  test('put prefixes before an address, the outermost first; a proof of another place ends with it', () => {
    const before = signal().digest;
    apply(group(ZONE, { prefix: 'H' }), group(BED, { prefix: 'R' }), { kind: 'tag', id: TAG, set: { source: newPoint(KILN, '7') } });
    expect(signal().canonical).toBe('HR7');
    expect(signal().digest).not.toBe(before);
  });
});

describe('the tree', () => {
  test('is the path of a tag; a name that holds a dot stands in quotation marks', () => {
    const path = (): string => model.pathOf(model.get('tag', TAG) as never);
    expect(path()).toBe('KILN.Zone 1.Bed.temp_out');
    apply(group(BED, { name: 'Bed 1.5"' }));
    expect(path()).toBe('KILN.Zone 1."Bed 1.5""".temp_out');
    apply({ kind: 'tag', id: TAG, set: { groupId: null } });
    expect(path()).toBe('KILN.temp_out');
    apply({ kind: 'tag', id: TAG, set: { source: { kind: 'local' } } });
    expect(path()).toBe('temp_out');
  });

  test('has a name once among siblings, and as often as it likes elsewhere', () => {
    const [second, third] = [uuidOf(30), uuidOf(31)];
    const named = (id: string, deviceId: string, groupId: string | null): Change => ({
      kind: 'tag',
      id,
      set: { ...newTag(deviceId, 'TEMP_OUT'), groupId },
    });
    expect(code(named(second, KILN, BED))).toBe('name-taken');
    apply(named(second, KILN, ZONE), named(third, ROLLS, null));
    expect(code({ kind: 'tag', id: second, set: { groupId: BED } })).toBe('name-taken');
    expect(code(group(uuidOf(32), { name: 'zone 1', deviceId: KILN }))).toBe('name-taken');
    expect(code(group(uuidOf(32), { name: 'zone 1', deviceId: ROLLS }))).toBe('fits');
  });

  test('is one: no group in itself, none of another device, none too deep, none without a name of its own', () => {
    expect(code(group(ZONE, { parentId: BED }))).toBe('group');
    expect(code(group(ZONE, { deviceId: ROLLS }))).toBe('group');
    expect(code(group(uuidOf(40), { name: 'X', deviceId: ROLLS, parentId: BED }))).toBe('group');
    expect(code(group(uuidOf(40), { name: 'a/b', deviceId: ROLLS }))).toBe('invalid');
    expect(code({ kind: 'tag', id: TAG, set: { source: newPoint(ROLLS, 'HR2') } })).toBe('group');
    expect(code(group(uuidOf(40), { name: 'X', deviceId: ROLLS, parentId: uuidOf(99) }))).toBe('reference');
    let above = BED;
    for (let depth = 3; depth <= DEEPEST_GROUP; depth++) {
      apply(group(uuidOf(50 + depth), { name: 'deeper', deviceId: KILN, parentId: above }));
      above = uuidOf(50 + depth);
    }
    expect(code(group(uuidOf(49), { name: 'too deep', deviceId: KILN, parentId: above }))).toBe('group');
  });

  test('of the project may hold tags of any device', () => {
    apply(group(uuidOf(60), { name: 'Hall' }), { kind: 'tag', id: TAG, set: { groupId: uuidOf(60) } });
    apply({ kind: 'tag', id: uuidOf(61), set: { ...newTag(ROLLS, 'gap'), groupId: uuidOf(60) } });
    expect(model.pathOf(model.get('tag', TAG) as never)).toBe('Hall.temp_out');
    expect([...model.tagIdsIn(uuidOf(60))]).toEqual([TAG, uuidOf(61)]);
  });

  test('of the project and a device are never named alike: both begin paths', () => {
    expect(code(group(uuidOf(62), { name: 'kiln' }))).toBe('name-taken');
    apply(group(uuidOf(62), { name: 'Hall' }));
    expect(code({ kind: 'device', id: ROLLS, set: { name: 'HALL' } })).toBe('name-taken');
    expect(code(group(uuidOf(63), { name: 'ROLLS', deviceId: KILN }))).toBe('fits');
  });

  test('goes with its device; a group that is removed leaves its tags, right under the device', () => {
    apply({ kind: 'group', id: BED, set: null });
    expect(model.get('tag', TAG)?.groupId).toBeNull();
    apply({ kind: 'tag', id: TAG, set: { groupId: ZONE } }, { kind: 'device', id: KILN, set: null });
    expect([model.get('group', ZONE), model.get('tag', TAG)]).toEqual([null, null]);
  });
});

describe('texts of groups', () => {
  test('name those that are there, whatever the case, and make each other one once', () => {
    const { ids, changes } = groupsNamed(model, KILN, ['zone 1/BED', 'Zone 1', 'Zone 2/Bed', ' zone 2 / Bed /', '', 'Zone 2']);
    expect([ids.get('zone 1/BED'), ids.get('Zone 1'), ids.get('')]).toEqual([BED, ZONE, undefined]);
    expect(changes.map(({ set }) => set?.name)).toEqual(['Zone 2', 'Bed']);
    expect(ids.get('Zone 2/Bed')).toBe(ids.get(' zone 2 / Bed /'));
    apply(...changes);
    expect(groupsNamed(model, KILN, ['Zone 2/Bed']).changes).toEqual([]);
  });
  test('of any names come back as they were made', () => {
    const part = fc.string({ minLength: 1, maxLength: 20 }).filter((s) => !/[/\p{C}]/u.test(s) && s.trim() === s && s !== '');
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 4 }), (parts) => {
        model = new ProjectModel();
        const text = parts.join('/');
        const { ids, changes } = groupsNamed(model, null, [text]);
        apply({ kind: 'project', id: PROJECT, set: { name: 'P' } }, ...changes);
        expect(groupText(ids.get(text) ?? null, { group: (id) => model.get('group', id) })).toBe(groupParts(text).join('/'));
      }),
    );
  });
});
