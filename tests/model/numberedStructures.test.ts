/** Structures in numbered memory: members lie where the device's layout puts them, and follow when the structure changes. */
import { expect, test } from '@jest/globals';
import { structurePlaces } from '@/core/project/structurePlaces.ts';
import type { Device, Structure, StructureMember, Tag } from '@/core/project/entities.ts';
import type { Change } from '@/core/project/command.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { LAYOUTS } from '@/core/taglist/layout.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { makingChanges, membersIn, namesFrom, NO_SETTINGS, structuresNamedIn, whatIsMade, type MakingOn } from '@/ui/map/making.ts';
import { uuidOf } from '../support/uuidOf.ts';

const driver = describeDriver('modbus-tcp');
if (!driver) throw new Error('no driver');
const member = (name: string, type: string, more: Partial<StructureMember> = {}): StructureMember => ({ ...NO_SETTINGS, name, type, ...more });
const STAND: Structure = {
  id: uuidOf(50),
  name: 'Stand',
  deviceId: uuidOf(2),
  members: [
    member('lead', 'BYTE'),
    member('gap', 'UINT', { unit: 'mm' }),
    member('current', 'REAL'),
    member('jaw', 'INT', { length: 3 }),
    member('label', 'STRING(5)'),
  ],
};

function model(dialect: object): { readonly model: ProjectModel; readonly change: (changes: readonly Change[]) => string; readonly on: MakingOn } {
  const project = new ProjectModel();
  const change = (changes: readonly Change[]): string => {
    const planned = project.plan(changes);
    if (!planned.ok) return `${planned.problem.place}: ${planned.problem.message}`;
    project.apply(planned.value);
    return '';
  };
  change([
    { kind: 'project', id: uuidOf(0), set: { name: 'P', dialects: [] } },
    { kind: 'link', id: uuidOf(1), set: { name: 'L', driver: 'modbus-tcp', settings: { host: '127.0.0.1' } } },
    { kind: 'device', id: uuidOf(2), set: { linkId: uuidOf(1), name: 'ROLLS', settings: { unit: 1 }, dialect, witnessUrl: '' } },
    { kind: 'structure', id: STAND.id, set: { name: STAND.name, deviceId: STAND.deviceId, members: STAND.members } },
  ]);
  const [area] = driver?.memory?.areas ?? [];
  if (!driver || !area) throw new Error('no area');
  return { model: project, change, on: { device: project.get('device', uuidOf(2)) as Device, driver, area, structures: [STAND] } };
}
const placesOf = (project: ProjectModel): Record<string, string> =>
  Object.fromEntries(project.all('tag').map((tag: Tag) => [tag.name, `${addressOf(tag)} ${tag.type}${tag.unit ? ` ${tag.unit}` : ''}`]));

// Places by hand. `words`: every member takes whole words. `aligned`: at multiples of its size, the whole padded to its largest, 4 bytes.
test.each([
  ['words', { lead: 0, gap: 16, current: 32, 'jaw[0]': 64, 'jaw[1]': 80, 'jaw[2]': 96, label: 112 }, 160],
  ['bytes', { lead: 0, gap: 8, current: 24, 'jaw[0]': 56, 'jaw[1]': 72, 'jaw[2]': 88, label: 104 }, 152],
  ['even', { lead: 0, gap: 16, current: 32, 'jaw[0]': 64, 'jaw[1]': 80, 'jaw[2]': 96, label: 112 }, 160],
  ['aligned', { lead: 0, gap: 16, current: 32, 'jaw[0]': 64, 'jaw[1]': 80, 'jaw[2]': 96, label: 112 }, 160],
] as const)('members laid out in %s', (layout, atBit, bits) => {
  expect(LAYOUTS).toContain(layout);
  const places = structurePlaces(STAND, structuresNamedIn([STAND]), layout);
  expect([Object.fromEntries(places.atBit), places.bits]).toEqual([atBit, bits]);
});

test('blocks of a structure are made one after another, and change with it: a unit, a type that is wider, a new member', () => {
  const { model: project, change, on } = model({});
  const made = whatIsMade('Stand', on);
  if (!made.ok) throw new Error(made.problem.message);
  expect(made.value.bits).toBe(160);
  const changes = makingChanges(made.value, namesFrom('stand_1', 3), ['HR100', 'HR110', 'HR120'], on);
  if (!changes.ok) throw new Error(changes.problem.message);
  expect(change(changes.value)).toBe('');
  expect(placesOf(project)).toMatchObject({
    'stand_1.lead': 'HR100 BYTE',
    'stand_1.gap': 'HR101 UINT mm',
    'stand_3.current': 'HR122 REAL',
    'stand_3.jaw[2]': 'HR126 INT',
    'stand_3.label': 'HR127 STRING(5)',
  });
  // One stand has its gap elsewhere: it is its own, and stays.
  const own = project.all('tag').find(({ name }) => name === 'stand_2.gap');
  change([{ kind: 'tag', id: own?.id ?? '', set: { source: { ...own?.source, address: 'HR500' } } }]);
  const wider = STAND.members.map((m) => (m.name === 'gap' ? { ...m, type: 'UDINT', unit: 'µm' } : m));
  expect(change([{ kind: 'structure', id: STAND.id, set: { members: [...wider, member('hours', 'UDINT')] } }])).toBe('');
  expect(placesOf(project)).toMatchObject({
    'stand_1.gap': 'HR101 UDINT µm',
    'stand_1.current': 'HR103 REAL',
    'stand_1.hours': 'HR111 UDINT',
    'stand_2.gap': 'HR500 UDINT µm',
    'stand_2.jaw[0]': 'HR115 INT',
    'stand_3.label': 'HR128 STRING(5)',
  });
});

test('an array of values is a block too; what cannot be made is told', () => {
  const { model: project, change, on } = model({});
  const made = whatIsMade('REAL[4]', on);
  if (!made.ok) throw new Error(made.problem.message);
  const changes = makingChanges(made.value, ['zone'], ['HR200'], on);
  expect(changes.ok && change(changes.value)).toBe('');
  expect(placesOf(project)).toMatchObject({ 'zone.Item[0]': 'HR200 REAL', 'zone.Item[3]': 'HR206 REAL' });
  const code = (text: string): string => {
    const found = whatIsMade(text, on);
    return found.ok ? 'made' : found.problem.code;
  };
  expect([code('INT[0]'), code('INT[2000]'), code('Nowhere'), code('STRING'), code('stand')]).toEqual([
    'array-length',
    'array-length',
    'unknown-type',
    'text-length',
    'made',
  ]);
  const packed = model({ structures: 'bytes' });
  const odd = whatIsMade('Stand', packed.on);
  const split = odd.ok ? makingChanges(odd.value, ['s'], ['HR0'], packed.on) : odd;
  expect(split.ok ? '' : split.problem.code).toBe('address-split');
});

test('members are read as they are typed or pasted', () => {
  const read = membersIn('gap UINT mm\njaw[4] : REAL kN\n\nname\tSTRING(10) length-word\ninner Stand', [STAND]);
  expect(read.ok && read.value.map(({ name, type, of, length, unit }) => `${name} ${type || of} ${length ?? 1} ${unit}`.trim())).toEqual([
    'gap UINT 1 mm',
    'jaw REAL 4 kN',
    'name STRING(10) length-word 1',
    'inner Stand 1',
  ]);
  const problem = (text: string): string => {
    const found = membersIn(text, [STAND]);
    return found.ok ? '' : `${found.problem.code} ${found.problem.message.slice(0, 6)}`;
  };
  expect([problem(''), problem('gap'), problem('gap UINT\nGAP INT'), problem('a b c'), problem('ok INT\n1x INT')]).toEqual([
    'no-members A stru',
    'type Line 1',
    'name-taken Line 2',
    'unknown-type Line 1',
    'name Line 2',
  ]);
});
