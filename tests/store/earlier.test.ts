import { fromEarlierElement } from '@/core/panel/earlierElement.ts';
/** What the version before groups and sources has stored is brought over, and nothing of it is lost. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { ENTITY_DEFAULTS, type Tag } from '@/core/project/entities.ts';
import { readProjectFile } from '@/core/projectFile/projectFile.ts';
import { addressOf, deviceIdOf, pointIn } from '@/core/project/tagSource.ts';
import { groupText } from '@/core/project/tagPath.ts';
import { EARLIER, EARLIER_FILE, earlierFolder, type EarlierTag } from '../support/earlierFolder.ts';
import { openBench, type Bench } from '../support/services.ts';
import { tagNamed } from '../support/tagNamed.ts';

/** The second link led to a simulation of its devices. */
const SIMULATED = `update links set real_way = jsonb_build_object('driver', driver, 'settings', settings), settings = '{"host":"127.0.0.1","port":40123}'
  where name = 'Second cabinet'`;
let bench: Bench;
beforeAll(async () => {
  bench = await openBench(await earlierFolder([SIMULATED]));
});
afterAll(() => bench.close());

const model = () => bench.services.model;
const groupOf = (tag: Tag): string => groupText(tag.groupId, { group: (id) => model().get('group', id) });
/** A tag as it was told before. */
const before = (tag: Tag): Omit<EarlierTag, never> => ({
  id: tag.id,
  deviceId: deviceIdOf(tag) ?? '',
  name: tag.name,
  group: groupOf(tag),
  address: addressOf(tag),
  order: pointIn(tag)?.order ?? '',
  periodMs: pointIn(tag)?.periodMs ?? 0,
  sourceId: tag.listId,
});
const told = ({ id, deviceId, name, group, address, order, periodMs, sourceId }: EarlierTag): EarlierTag => ({
  id,
  deviceId,
  name,
  group,
  address,
  order,
  periodMs,
  sourceId,
});
/** Links lead where they lead: whether it is simulated is said of each device. */
const withoutReal = (link: { readonly id: string }): { readonly id: string } =>
  Object.fromEntries(Object.entries(link).filter(([field]) => field !== 'real')) as { readonly id: string };
const byId = <T extends { readonly id: string }>(all: readonly T[]): readonly T[] => [...all].sort((a, b) => (a.id < b.id ? -1 : 1));
const step = async (way: 'undo' | 'redo'): Promise<string> => {
  const done = await bench.services.projects.step(way);
  if (!done.ok) throw new Error(done.problem.message);
  return done.value.label;
};

describe('a data folder of the version before', () => {
  test('has every tag where it was, in the group it was in, with all that was set', () => {
    expect(byId(model().all('tag')).map(before)).toEqual(byId(EARLIER.snapshot.tags).map(told));
    const moved = ['deviceId', 'group', 'address', 'order', 'periodMs', 'sourceId'];
    for (const was of EARLIER.snapshot.tags) {
      const stays = Object.fromEntries(Object.entries(was).filter(([field]) => !moved.includes(field)));
      expect(model().get('tag', was.id)).toMatchObject(stays);
    }
  });

  test('has all other things as they were; the second device of one name is told from the first', () => {
    for (const [plural, kind] of [
      ['links', 'link'],
      ['scales', 'scale'],
      ['sources', 'source'],
      ['panels', 'panel'],
      ['pages', 'page'],
      ['elements', 'element'],
    ] as const)
      expect(byId(model().all(kind))).toEqual(
        byId(
          ((EARLIER.snapshot[plural] ?? []) as readonly { readonly id: string }[]).map((entity) => ({
            ...ENTITY_DEFAULTS[kind],
            ...(kind === 'element' ? (fromEarlierElement({ ...entity }) as typeof entity) : kind === 'link' ? withoutReal(entity) : entity),
          })),
        ),
      );
    expect(
      model()
        .all('device')
        .map((d) => d.name)
        .sort(),
    ).toEqual(['KILN', 'kiln (2)']);
    const led = model()
      .all('link')
      .find(({ name }) => name === 'Second cabinet')?.id;
    for (const device of model().all('device')) expect([device.name, device.isSimulated]).toEqual([device.name, device.linkId === led]);
    const kiln = model()
      .all('device')
      .find((d) => d.name === 'KILN');
    expect(kiln).toMatchObject({ identityTagId: tagNamed(model(), 'bed_temp')?.id, identity: '7' });
  });

  test('has each group once, as a thing of its own under its device', () => {
    const texts = model()
      .all('group')
      .map((group) => groupText(group.id, { group: (id) => model().get('group', id) }));
    expect(texts.sort()).toEqual([...new Set(EARLIER.snapshot.tags.map((t) => t.group).filter(Boolean))].sort());
  });

  test('keeps its proofs: no signal path has changed', () => {
    for (const [id, digest] of Object.entries(EARLIER.digests)) {
      const signal = model().effective(id);
      expect(signal.ok && signal.value.digest).toBe(digest);
    }
  });

  test('can undo and redo all that was changed there, down to the first change and up again, over a restart', async () => {
    const stood = structuredClone(byId(model().all('tag')));
    const undone: string[] = [];
    for (;;) {
      const label: string | null = await step('undo').catch((error: unknown) => {
        expect(String(error)).toContain('There is nothing to undo');
        return null;
      });
      if (label === null) break;
      undone.push(label.replace('undo: ', ''));
      for (const tag of model().all('tag')) {
        expect(tag.groupId === null || model().get('group', tag.groupId)).toBeTruthy();
        expect(deviceIdOf(tag)).not.toBeNull();
      }
    }
    expect(undone).toContain('list line2.csv imported, 600 tags');
    expect(model().all('tag')).toEqual([]);
    bench = await bench.reopen();
    expect(model().all('tag')).toEqual([]);
    for (let i = 0; i < undone.length; i++) await step('redo');
    expect(byId(model().all('tag'))).toEqual(stood);
    bench = await bench.reopen();
    expect(byId(model().all('tag'))).toEqual(stood);
  });
});

describe('a project file of the version before', () => {
  test('is read: its tags, groups and devices are those that the folder is brought over to', () => {
    const file = readProjectFile(EARLIER_FILE);
    if (!file.ok) throw new Error(`${file.problem.place}: ${file.problem.message}`);
    const of = (kind: string) => byId(file.value.entities.flatMap(({ kind: own, entity }) => (own === kind ? [entity] : [])));
    for (const kind of ['group', 'device', 'scale', 'element'] as const) expect(of(kind)).toEqual(byId(model().all(kind) as never));
    // The folder keeps the list that its tags came from, and with it the types that the list says; the file does not.
    const tags = model()
      .all('tag')
      .map((tag) => ({ ...tag, listType: '' }));
    expect(of('tag')).toEqual(byId(tags as never));
  });
});
