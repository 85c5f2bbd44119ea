/** Lists keep the structures that their tags are members of, from a device's own list, a program and a file; what is set here stays. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { Structure, StructureMember } from '@/core/project/entities.ts';
import { structuredIn } from '@/core/taglist/structured.ts';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { tagNamed } from '../support/tagNamed.ts';
import { listHistory } from '../support/listHistory.ts';

let bench: Bench;
let deviceId = '';
beforeEach(async () => {
  bench = await openBench(newFolder().folder);
  ({ deviceId } = await smallProject(bench, 9));
});
afterEach(() => bench.close());

interface Row {
  readonly name: string;
  readonly address: string;
  readonly type: string;
  readonly unit?: string;
  readonly within?: readonly string[];
}
const bagger = (at: number, unit = 'kg'): readonly Row[] => [
  { name: `Bagger[${at}].Weight`, address: `HR${100 + 20 * at}`, type: 'REAL', unit, within: ['BAGGER'] },
  { name: `Bagger[${at}].Jaw[0].Temp`, address: `HR${102 + 20 * at}`, type: 'REAL', unit: '°C', within: ['BAGGER', 'JAW'] },
  { name: `Bagger[${at}].Jaw[1].Temp`, address: `HR${104 + 20 * at}`, type: 'REAL', unit: '°C', within: ['BAGGER', 'JAW'] },
];
const listText = (rows: readonly Row[]): string => JSON.stringify({ format: 'mill-latch-tags', version: 1, tags: rows });
const sourceId = uuid();
const bring = async (rows: readonly Row[]): Promise<void> => {
  const done = await bench.services.lists.commit({ commandId: uuid(), sourceId, deviceId, fileName: 'pack.json', text: listText(rows) });
  if (!done.ok) throw new Error(done.problem.message);
};
const structure = (name: string): Structure => {
  const found = bench.services.model.all('structure').find((s) => s.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
};
const shape = (): unknown => ({
  structures: bench.services.model
    .all('structure')
    .map(({ name, members }) => [name, members.map((m) => [m.name, m.type || m.of, m.length, m.unit])]),
  blocks: bench.services.model.all('block').map(({ name, structureId }) => [name, bench.services.model.get('structure', structureId)?.name]),
  members: bench.services.model
    .all('member')
    .map(({ id, path }) => [bench.services.model.get('tag', id)?.name, path])
    .sort(),
});
const ROWS: readonly Row[] = [{ name: 'Speed', address: 'HR90', type: 'INT' }, ...bagger(0), ...bagger(1)];
const edit = (name: string, of: string, more: Partial<StructureMember>) =>
  bench.change('structure changed', [
    { kind: 'structure', id: structure(name).id, set: { members: structure(name).members.map((m) => (m.name === of ? { ...m, ...more } : m)) } },
  ]);
const unitOf = (name: string): string | undefined => tagNamed(bench.services.model, name)?.unit;

describe('a list with structures', () => {
  test('brings them, their blocks, and which tag is which member; undo takes all of it away, redo brings it back', async () => {
    await bring(ROWS);
    const brought = {
      structures: [
        [
          'BAGGER',
          [
            ['Weight', 'REAL', null, 'kg'],
            ['Jaw', 'JAW', 2, ''],
          ],
        ],
        ['JAW', [['Temp', 'REAL', null, '°C']]],
      ],
      blocks: [
        ['Bagger[0]', 'BAGGER'],
        ['Bagger[1]', 'BAGGER'],
      ],
      members: [0, 1].flatMap((at) => [
        [`Bagger[${at}].Jaw[0].Temp`, 'Jaw[0].Temp'],
        [`Bagger[${at}].Jaw[1].Temp`, 'Jaw[1].Temp'],
        [`Bagger[${at}].Weight`, 'Weight'],
      ]),
    };
    expect(shape()).toEqual(brought);
    await bench.services.projects.step('undo');
    expect(shape()).toEqual({ structures: [], blocks: [], members: [] });
    await bench.services.projects.step('redo');
    expect(shape()).toEqual(brought);
    bench = await bench.reopen();
    expect(shape()).toEqual(brought);
  });

  test('is followed by its tags, and its next version leaves what was set here', async () => {
    await bring(ROWS);
    await edit('BAGGER', 'Weight', { unit: 'g', comment: 'Net' });
    expect(['Bagger[0].Weight', 'Bagger[1].Weight'].map(unitOf)).toEqual(['g', 'g']);
    await bring([...ROWS, ...bagger(2, 'g')]);
    expect(bench.services.model.all('block')).toHaveLength(3);
    expect(structure('BAGGER').members[0]).toMatchObject({ unit: 'g', comment: 'Net' });
    expect(['Bagger[0].Weight', 'Bagger[2].Weight'].map(unitOf)).toEqual(['g', 'g']);
  });

  test('goes into a project file and comes out of it as it was', async () => {
    await bring(ROWS);
    const before = shape();
    const file = await bench.services.projectFiles.exportFile();
    if (!file.ok) throw new Error(file.problem.message);
    const zip = new Uint8Array(await new Response(file.value.zip).arrayBuffer());
    await bench.services.projects.step('undo');
    const done = await bench.services.projectFiles.importFile(zip, uuid());
    expect(done).toMatchObject({ ok: true });
    expect(shape()).toEqual(before);
  });
});

test('a tag whose name has fewer steps than it has structures around it is a member of none', () => {
  const [tag] = listHistory(1, 0, 1).before;
  expect(
    structuredIn(
      tag
        ? [
            { ...tag, listName: 'Weight', within: ['BAGGER'] },
            { ...tag, listName: 'plain' },
          ]
        : [],
    ),
  ).toEqual({ enumerations: [], structures: [], blocks: [] });
});

describe('a list with enumerations', () => {
  const program = (values: string): string => `
TYPE MODE : (${values}) INT; END_TYPE
TYPE STEP : STRUCT Mode : MODE; END_STRUCT; END_TYPE
VAR_GLOBAL
  state AT %MW1 : MODE;
  other AT %MW2 : MODE;
  count AT %MW3 : INT;
END_VAR`;
  const importing = async (values: string): Promise<void> => {
    const done = await bench.services.lists.commit({ commandId: uuid(), sourceId, deviceId, fileName: 'kiln.st', text: program(values) });
    if (!done.ok) throw new Error(done.problem.message);
  };
  const names = (name: string): unknown =>
    tagNamed(bench.services.model, name)
      ?.names.map((n) => `${n.value}=${n.name}`)
      .join(' ');
  const own = () => bench.services.model.all('enumeration').map((e) => `${e.name}: ${e.names.map((n) => `${n.value}=${n.name}`).join(' ')}`);

  beforeEach(() => bench.change('words', [{ kind: 'device', id: deviceId, set: { dialect: { locations: 'words' } } }]));

  test('brings them; a new version that renames a value reaches each tag but one with names of its own', async () => {
    await importing('off, heating := 5');
    expect(own()).toEqual(['MODE: 0=off 5=heating']);
    const [state, other] = ['state', 'other'].map((name) => tagNamed(bench.services.model, name));
    expect([state?.enumerationId, tagNamed(bench.services.model, 'count')?.enumerationId]).toEqual([other?.enumerationId, null]);
    expect(state?.enumerationId).toEqual(expect.any(String));
    await bench.change('own', [{ kind: 'tag', id: other?.id ?? '', set: { names: [{ value: 5, name: 'hot' }] } }]);
    await importing('off, warming := 5, holding := 7');
    expect([own(), names('state')]).toEqual([['MODE: 0=off 5=warming 7=holding'], '0=off 5=warming 7=holding']);
    await bench.services.projects.step('undo');
    expect([own(), names('state'), names('other')]).toEqual([['MODE: 0=off 5=heating'], '0=off 5=heating', '5=hot']);
  });

  test('what was named here stays when the same list comes again', async () => {
    await importing('off, heating := 5');
    const [enumeration] = bench.services.model.all('enumeration');
    const changed = [{ value: 5, name: 'Heizen' }];
    await bench.change('named', [{ kind: 'enumeration', id: enumeration?.id ?? '', set: { names: changed } }]);
    expect(names('state')).toBe('5=Heizen');
    await importing('off, heating := 5');
    expect([own(), names('state')]).toEqual([['MODE: 5=Heizen'], '5=Heizen']);
    bench = await bench.reopen();
    expect([own(), names('state')]).toEqual([['MODE: 5=Heizen'], '5=Heizen']);
  });
});
