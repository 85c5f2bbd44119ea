/** Structures: said once, followed by the members of every block; what a tag has of its own stays. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Change } from '@/core/project/command.ts';
import type { Structure, StructureMember, Tag } from '@/core/project/entities.ts';
import { leavesOf, memberAt, ownFields } from '@/core/project/structureTree.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { newTag } from '../support/newTag.ts';
import { planning } from '../support/planning.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [PROJECT, LINK, PACK, OTHER, BAGGER, JAW, FIRST, SECOND] = [0, 1, 2, 3, 4, 5, 6, 7].map(uuidOf) as [
  string,
  string,
  string,
  string,
  string,
  string,
  string,
  string,
];
let model: ProjectModel;
const { planned, apply, code } = planning(() => model);
const member = (name: string, type: string, more: Partial<StructureMember> = {}): StructureMember => ({
  name,
  type,
  of: '',
  length: null,
  unit: '',
  decimals: null,
  rangeLow: null,
  rangeHigh: null,
  comment: '',
  names: [],
  access: null,
  ...more,
});
const MEMBERS = [
  member('Weight', 'REAL', { unit: 'kg', rangeLow: 0, rangeHigh: 30 }),
  member('Bags', 'DINT'),
  member('Jaw', '', { of: 'JAW', length: 2 }),
];
const change = (id: string, members: readonly StructureMember[]): Change => ({ kind: 'structure', id, set: { members } });
const edited = (name: string, more: Partial<StructureMember>): readonly StructureMember[] =>
  MEMBERS.map((m) => (m.name === name ? { ...m, ...more } : m));
const tagId = (block: number, at: number): string => uuidOf(100 * block + at);
const PATHS = ['Weight', 'Bags', 'Jaw[0].Temp', 'Jaw[1].Temp'];
const tag = (id: string): Tag => {
  const found = model.get('tag', id);
  if (!found) throw new Error('no tag');
  return found;
};

beforeEach(() => {
  model = new ProjectModel();
  const device = (name: string) => ({ linkId: LINK, name, settings: {}, dialect: {}, witnessUrl: '' });
  apply(
    { kind: 'project', id: PROJECT, set: { name: 'P' } },
    { kind: 'link', id: LINK, set: { name: 'L', driver: 'ethernet-ip', settings: { host: '127.0.0.1', port: 44818 } } },
    { kind: 'device', id: PACK, set: device('PACK') },
    { kind: 'device', id: OTHER, set: device('OTHER') },
    { kind: 'structure', id: JAW, set: { name: 'JAW', deviceId: PACK, members: [member('Temp', 'REAL', { unit: '°C' })] } },
    { kind: 'structure', id: BAGGER, set: { name: 'BAGGER', deviceId: PACK, members: MEMBERS } },
    ...[FIRST, SECOND].flatMap((block, b): Change[] => [
      { kind: 'block', id: block, set: { name: `Bagger[${b}]`, deviceId: PACK, structureId: BAGGER, address: `Bagger[${b}]` } },
      ...PATHS.flatMap((path, at): Change[] => {
        const [type, unit] = at === 1 ? ['DINT', ''] : ['REAL', at === 0 ? 'kg' : '°C'];
        const range = at === 0 ? { rangeLow: 0, rangeHigh: 30 } : {};
        const set = { ...newTag(PACK, `Bagger[${b}].${path}`), access: null, source: newPoint(PACK, `Bagger[${b}].${path}`), type, unit, ...range };
        return [
          { kind: 'tag', id: tagId(b + 1, at), set },
          { kind: 'member', id: tagId(b + 1, at), set: { blockId: block, path } },
        ];
      }),
    ]),
  );
});

describe('a change of a structure', () => {
  test('reaches the member in every block, and leaves what a tag has of its own', () => {
    apply({ kind: 'tag', id: tagId(2, 0), set: { unit: 'lb' } });
    apply(change(BAGGER, edited('Weight', { unit: 'g', decimals: 1, rangeHigh: 30_000 })));
    expect([tag(tagId(1, 0)), tag(tagId(2, 0))].map(({ unit, decimals, rangeHigh }) => [unit, decimals, rangeHigh])).toEqual([
      ['g', 1, 30_000],
      ['lb', 1, 30_000],
    ]);
  });

  test('of a structure inside reaches the elements of arrays in blocks of the outer one', () => {
    apply(change(JAW, [member('Temp', 'REAL', { unit: '°F' })]));
    expect([2, 3].flatMap((at) => [1, 2].map((b) => tag(tagId(b, at)).unit))).toEqual(['°F', '°F', '°F', '°F']);
  });

  test('is one plan, so that undoing it is one too', () => {
    const plan = planned(change(BAGGER, edited('Bags', { comment: 'Since January' })));
    expect(plan.map(({ kind }) => kind)).toEqual(['structure', 'tag', 'tag']);
    model.apply(plan);
    model.apply(plan.map(({ kind, id, before, after }) => ({ kind, id, before: after, after: before })));
    expect(tag(tagId(1, 1)).comment).toBe('');
  });

  test('that would make a tag unfit is refused as a whole', () => {
    expect(code(change(BAGGER, edited('Weight', { rangeLow: 5, rangeHigh: 5 })))).not.toBe('fits');
    expect(code(change(BAGGER, edited('Weight', { type: 'NOPE' })))).not.toBe('fits');
    expect(code(change(BAGGER, [...MEMBERS, member('weight', 'REAL')]))).not.toBe('fits');
    expect(tag(tagId(1, 0)).type).toBe('REAL');
  });

  test('that adds a member gives every block a tag for it, at its place; one that goes leaves its tags standing for themselves', () => {
    apply(change(BAGGER, [...MEMBERS, member('Speed', 'REAL', { unit: '1/min' })]));
    const made = model.tagsOf(PACK).filter(({ name }) => name.endsWith('.Speed'));
    expect(made.map(({ name, unit, source }) => [name, unit, source.kind === 'point' ? source.address : ''])).toEqual([
      ['Bagger[0].Speed', '1/min', 'Bagger[0].Speed'],
      ['Bagger[1].Speed', '1/min', 'Bagger[1].Speed'],
    ]);
    apply(change(BAGGER, MEMBERS));
    expect(made.map(({ id }) => [model.get('tag', id)?.name, model.get('member', id)])).toEqual([
      ['Bagger[0].Speed', null],
      ['Bagger[1].Speed', null],
    ]);
    apply(change(BAGGER, [member('Bags', 'DINT')]));
    expect(tag(tagId(1, 0)).name).toBe('Bagger[0].Weight');
  });
});

describe('a member that its structure gets', () => {
  const withSpeed = change(BAGGER, [...MEMBERS, member('Speed', 'REAL')]);
  const speed = (block: number): Change => ({
    kind: 'tag',
    id: uuidOf(70 + block),
    set: { ...newTag(PACK, `Bagger[${block}].Speed`), source: newPoint(PACK, `Bagger[${block}].Speed`), type: 'REAL' },
  });

  test('is a tag that is there already by its name', () => {
    apply(speed(0));
    apply(withSpeed);
    expect(model.get('member', uuidOf(70))).toEqual({ id: uuidOf(70), blockId: FIRST, path: 'Speed' });
    expect(model.tagsOf(PACK).filter(({ name }) => name.endsWith('.Speed'))).toHaveLength(2);
  });

  test('by a list has the tags that the list brings, and no others', () => {
    const list: Change = {
      kind: 'source',
      id: uuidOf(80),
      set: { deviceId: PACK, fileName: 'pack.json', importedAt: '2026-03-01T06:00:00.000Z', rowCount: 1 },
    };
    apply(withSpeed, list, speed(1), { kind: 'member', id: uuidOf(71), set: { blockId: SECOND, path: 'Speed' } });
    expect(
      model
        .tagsOf(PACK)
        .filter(({ name }) => name.endsWith('.Speed'))
        .map(({ name }) => name),
    ).toEqual(['Bagger[1].Speed']);
  });
});

describe('what belongs together', () => {
  test('goes together: a device takes its structures along, a structure its blocks, a block no tag', () => {
    apply({ kind: 'structure', id: BAGGER, set: null });
    expect([model.all('block').length, model.all('member').length, model.tagsOf(PACK).length]).toEqual([0, 0, 8]);
    apply({ kind: 'device', id: PACK, set: null });
    expect([model.all('structure').length, model.all('tag').length]).toEqual([0, 0]);
  });

  test('is of one device', () => {
    expect(code({ kind: 'block', id: uuidOf(50), set: { name: 'x', deviceId: OTHER, structureId: BAGGER, address: '' } })).toBe('reference');
    apply({ kind: 'tag', id: uuidOf(60), set: { ...newTag(OTHER, 't'), source: newPoint(OTHER, 't') } });
    expect(code({ kind: 'member', id: uuidOf(60), set: { blockId: FIRST, path: 'Weight' } })).toBe('reference');
    expect(code({ kind: 'structure', id: uuidOf(61), set: { name: 'bagger', deviceId: PACK, members: [] } })).toBe('name-taken');
    expect(code({ kind: 'structure', id: uuidOf(61), set: { name: 'bagger', deviceId: OTHER, members: [] } })).toBe('fits');
  });
});

describe('the tree of a structure', () => {
  const named = (name: string): Structure | null => model.all('structure').find((s) => s.name === name) ?? null;

  test('has each value once, and each is found at its path', () => {
    const bagger = named('BAGGER');
    if (!bagger) throw new Error('no structure');
    expect(leavesOf(bagger, named).map(([path]) => path)).toEqual(PATHS);
    for (const [path, leaf] of leavesOf(bagger, named)) expect(memberAt(bagger, path, named)).toBe(leaf);
    for (const path of ['Jaw', 'Jaw[0]', 'Jaw[2].Temp', 'Jaw.Temp', 'Weight[0]', 'Weight.Temp', 'Nothing'])
      expect(memberAt(bagger, path, named)).toBeNull();
    expect(memberAt(bagger, 'weight', named)?.unit).toBe('kg');
  });

  test('that holds itself ends', () => {
    const loop: Structure = { id: JAW, name: 'LOOP', deviceId: PACK, members: [member('Next', '', { of: 'LOOP' }), member('Value', 'INT')] };
    expect(leavesOf(loop, () => loop).length).toBeLessThan(20);
  });

  test('what a tag has of its own is what its member does not say', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 5 }), fc.option(fc.nat(5), { nil: null }), (unit, decimals) => {
        const own = ownFields({ ...tag(tagId(1, 0)), unit, decimals }, MEMBERS[0] ?? member('', ''));
        expect(own).toEqual([...(unit === 'kg' ? [] : ['unit']), ...(decimals === null ? [] : ['decimals'])]);
      }),
    );
  });
});
