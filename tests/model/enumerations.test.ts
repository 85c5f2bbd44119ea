/** Enumerations: names said once, followed by every tag and member that had them; what has names of its own keeps them. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import type { Change } from '@/core/project/command.ts';
import type { StructureMember } from '@/core/project/entities.ts';
import type { ValueNames } from '@/core/value/valueNames.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { newTag } from '../support/newTag.ts';
import { planning } from '../support/planning.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [PROJECT, LINK, KILN, OTHER, MODE, STEP] = [0, 1, 2, 3, 4, 5].map(uuidOf) as [string, string, string, string, string, string];
const [BLOCK, A, B, OWN, INSIDE] = [6, 7, 8, 9, 10].map(uuidOf) as [string, string, string, string, string];
const NAMES: ValueNames = [
  { value: 0, name: 'off' },
  { value: 1, name: 'heating' },
];
const LATER: ValueNames = [...NAMES, { value: 7, name: 'holding' }];
let model: ProjectModel;
const { planned, apply, code } = planning(() => model);
const namesOf = (id: string): unknown => model.get('tag', id)?.names;
const tag = (id: string, name: string, more: Record<string, unknown> = {}, deviceId = KILN): Change => ({
  kind: 'tag',
  id,
  set: { ...newTag(deviceId, name, `HR${name.length}`), names: NAMES, enumerationId: MODE, ...more },
});
const member: StructureMember = {
  name: 'Mode',
  type: 'INT',
  of: '',
  length: null,
  unit: '',
  decimals: null,
  rangeLow: null,
  rangeHigh: null,
  comment: '',
  names: NAMES,
  access: null,
};

beforeEach(() => {
  model = new ProjectModel();
  apply(
    { kind: 'project', id: PROJECT, set: { name: 'Quern Hollow' } },
    { kind: 'link', id: LINK, set: { name: 'L', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } } },
    { kind: 'device', id: KILN, set: { linkId: LINK, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'device', id: OTHER, set: { linkId: LINK, name: 'OTHER', settings: { unit: 2 }, dialect: {}, witnessUrl: '' } },
    { kind: 'enumeration', id: MODE, set: { name: 'Mode', deviceId: KILN, names: NAMES } },
    { kind: 'structure', id: STEP, set: { name: 'STEP', deviceId: KILN, members: [member] } },
    { kind: 'block', id: BLOCK, set: { name: 'Step', deviceId: KILN, structureId: STEP, address: '' } },
    tag(A, 'a'),
    tag(B, 'bb'),
    tag(OWN, 'own_1', { names: [{ value: 1, name: 'hot' }] }),
    tag(INSIDE, 'Step.Mode'),
    { kind: 'member', id: INSIDE, set: { blockId: BLOCK, path: 'Mode' } },
  );
});

describe('an enumeration whose names change', () => {
  test('is followed by its tags, and by the member of a structure that they are; not by one with names of its own', () => {
    apply({ kind: 'enumeration', id: MODE, set: { names: LATER } });
    expect([A, B, INSIDE].map(namesOf)).toEqual([LATER, LATER, LATER]);
    expect(namesOf(OWN)).toEqual([{ value: 1, name: 'hot' }]);
    expect(model.get('structure', STEP)?.members[0]?.names).toEqual(LATER);
    expect(model.effective(A)).toMatchObject({ ok: true, value: { def: { names: LATER } } });
  });
  test('is undone as a whole: the change says of every tag what it was', () => {
    const plan = planned({ kind: 'enumeration', id: MODE, set: { names: LATER } });
    expect(plan.map(({ kind }) => kind).sort()).toEqual(['enumeration', 'structure', 'tag', 'tag', 'tag']);
    model.apply(plan);
    model.apply(plan.map(({ kind, id, before, after }) => ({ kind, id, before: after, after: before })));
    expect([A, B, INSIDE].map(namesOf)).toEqual([NAMES, NAMES, NAMES]);
    expect(model.get('structure', STEP)?.members[0]?.names).toEqual(NAMES);
  });
  test('leaves a tag alone that leaves it in the same command', () => {
    apply({ kind: 'tag', id: A, set: { enumerationId: null } }, { kind: 'enumeration', id: MODE, set: { names: LATER } });
    expect([namesOf(A), namesOf(B)]).toEqual([NAMES, LATER]);
  });
});

describe('an enumeration', () => {
  test('that is removed leaves its tags their names; it goes with its device', () => {
    apply({ kind: 'enumeration', id: MODE, set: null });
    expect([model.get('tag', A)?.enumerationId, namesOf(A)]).toEqual([null, NAMES]);
    apply({ kind: 'enumeration', id: MODE, set: { name: 'Mode', deviceId: KILN, names: NAMES } });
    apply({ kind: 'device', id: KILN, set: null });
    expect([model.all('enumeration').length, model.all('tag').length]).toEqual([0, 0]);
  });
  test('is of the device of its tags, and the only one of its name there', () => {
    expect(code(tag(uuidOf(20), 'far', {}, OTHER))).toBe('reference');
    expect(code({ kind: 'enumeration', id: uuidOf(21), set: { name: 'mode', deviceId: KILN, names: [] } })).toBe('name-taken');
    expect(code({ kind: 'enumeration', id: uuidOf(21), set: { name: 'mode', deviceId: OTHER, names: [] } })).toBe('fits');
    expect(code({ kind: 'enumeration', id: MODE, set: { names: [...NAMES, ...NAMES] } })).toBe('invalid');
  });
});
