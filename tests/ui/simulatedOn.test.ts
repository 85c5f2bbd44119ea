/** A panel names the devices that it shows simulated values of, and no others. */
import { describe, expect, test } from '@jest/globals';
import { simulatedOn } from '@/mapping/panels/simulatedOn.ts';
import type { Element, Link, Tag } from '@/core/project/entities.ts';
import type { SceneSubjects } from '@/core/panel/subjects.ts';

const real = { driver: 'modbus-tcp', settings: {} };
const links = (...simulated: readonly string[]): readonly Link[] =>
  ['a', 'b'].map((id) => ({ id, name: id, driver: 'modbus-tcp', settings: {}, real: simulated.includes(id) ? real : null }));
const DEVICES: Readonly<Record<string, string>> = { KILN: 'a', ROLLS: 'b', SPARE: 'b' };
const TAGS: Readonly<Record<string, string | null>> = { bed: 'KILN', gap: 'ROLLS', spare: 'SPARE', sum: null };
const tag = (id: string): Tag | null => {
  const deviceId = TAGS[id];
  if (deviceId === undefined) return null;
  return {
    id,
    source: deviceId === null ? { kind: 'calculated', expression: '1' } : { kind: 'point', deviceId, address: '1', order: '' },
  } as unknown as Tag;
};
const device = (id: string) => ({ name: id, linkId: DEVICES[id] ?? '' });
const value = (tagId: string): Element => ({ kind: 'value', tagId, settings: {} }) as unknown as Element;
const shown = (simulated: readonly string[], tags: readonly string[], subjects: readonly SceneSubjects[] = []) =>
  simulatedOn({ links: links(...simulated), tag, device }, () => tags.map(value), () => subjects); // prettier-ignore

describe('what a panel says of simulated devices', () => {
  test('nothing where all are real', () => expect(shown([], ['bed', 'gap'])).toEqual({ names: [], isAll: false }));
  test('their names where some are', () => expect(shown(['b'], ['bed', 'gap', 'sum'])).toEqual({ names: ['ROLLS'], isAll: false }));
  test('that there are no others', () => expect(shown(['a'], ['bed', 'sum'])).toEqual({ names: ['KILN'], isAll: true }));
  test('nothing of one that it does not show', () => expect(shown(['b'], ['bed', 'gone'])).toEqual({ names: [], isAll: false }));
  test('of the like things of a page those that may be chosen', () => {
    const subjects = { choices: [{ tags: new Map([['bed', 'spare']]) }, { tags: new Map([['bed', null]]) }] } as unknown as SceneSubjects;
    expect(shown(['b'], ['bed'], [subjects])).toEqual({ names: ['SPARE'], isAll: false });
  });
});
