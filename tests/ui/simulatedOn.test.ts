/** A panel names the devices that it shows simulated values of, and no others. */
import { describe, expect, test } from '@jest/globals';
import { simulatedOn } from '@/mapping/panels/simulatedOn.ts';
import type { Element, Tag } from '@/core/project/entities.ts';
import type { SceneSubjects } from '@/core/panel/subjects.ts';

const LINKS: Readonly<Record<string, string>> = { KILN: 'a', ROLLS: 'b', SPARE: 'b' };
const TAGS: Readonly<Record<string, string | null>> = { bed: 'KILN', gap: 'ROLLS', spare: 'SPARE', sum: null };
const tag = (id: string): Tag | null => {
  const deviceId = TAGS[id];
  if (deviceId === undefined) return null;
  return {
    id,
    source: deviceId === null ? { kind: 'calculated', expression: '1' } : { kind: 'point', deviceId, address: '1', order: '' },
  } as unknown as Tag;
};
/** All of a link, to say it shortly. */
const device = (simulated: readonly string[]) => (id: string) => ({ name: id, isSimulated: simulated.includes(LINKS[id] ?? '') });
const value = (tagId: string): Element => ({ kind: 'value', tagId, settings: {} }) as unknown as Element;
const shown = (simulated: readonly string[], tags: readonly string[], subjects: readonly SceneSubjects[] = []) =>
  simulatedOn({ tag, device: device(simulated) }, () => tags.map(value), () => subjects); // prettier-ignore

describe('what a panel says of simulated devices', () => {
  test('nothing where all are real', () => expect(shown([], ['bed', 'gap'])).toEqual({ names: [], isAll: false }));
  test('their names where some are', () => expect(shown(['b'], ['bed', 'gap', 'sum'])).toEqual({ names: ['ROLLS'], isAll: false }));
  test('that there are no others', () => expect(shown(['a'], ['bed', 'sum'])).toEqual({ names: ['KILN'], isAll: true }));
  test('one of a line apart', () => {
    const onlyRolls = (id: string) => ({ name: id, isSimulated: id === 'ROLLS' });
    const seen = simulatedOn({ tag, device: onlyRolls }, () => ['gap', 'spare'].map(value), () => []); // prettier-ignore
    expect(seen).toEqual({ names: ['ROLLS'], isAll: false });
  });
  test('nothing of one that it does not show', () => expect(shown(['b'], ['bed', 'gone'])).toEqual({ names: [], isAll: false }));
  test('of the like things of a page those that may be chosen', () => {
    const subjects = { choices: [{ tags: new Map([['bed', 'spare']]) }, { tags: new Map([['bed', null]]) }] } as unknown as SceneSubjects;
    expect(shown(['b'], ['bed'], [subjects])).toEqual({ names: ['SPARE'], isAll: false });
  });
});
