/** What a panel may write on a page for many like devices: always of the subject that the person saw, never of another. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import { sceneIn } from '@/mapping/panels/panelBundle.ts';
import { openBench, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

let bench: Bench;
const [panelId, pageId, overviewId, listId, startId, entryId, wayId, speedId, choiceId] = Array.from({ length: 9 }, () => uuid()) as [
  string, string, string, string, string, string, string, string, string,
]; // prettier-ignore
const ids = new Map<string, string>();
const idOf = (name: string): string => {
  const known = ids.get(name) ?? uuid();
  ids.set(name, known);
  return known;
};
const [groupOne, groupTwo, linkId, deviceId] = [uuid(), uuid(), uuid(), uuid()];
/** Local tags in the groups of a device are their members too: what is written is there at once. */
const tag = (name: string, groupId: string | null, type = 'INT') => ({
  kind: 'tag' as const,
  id: idOf(`${groupId ?? ''} ${name}`),
  set: { name, groupId, source: { kind: 'local' }, type, access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: type === 'BOOL' ? 'off' : '0' }, // prettier-ignore
});
const element = (id: string, kind: string, tagId: string | null, settings: object, on = pageId) => ({
  kind: 'element' as const,
  id,
  set: { pageId: on, kind, tagId, label: '', x: 0, y: 0, w: 100, h: 60, settings },
});
const subject = (id: string, number: number, more: object = {}) => ({ of: 'group', id, number, text: '', find: '', put: '', renames: [], ...more });
const press = async (elementId: string, what: object): Promise<string> => {
  const done = await bench.services.panels.press({ id: uuid(), panelId, elementId, writer: 'panel', ...what });
  return done.ok ? 'done' : done.problem.code;
};
const text = (group: string, name: string): string | undefined => bench.services.engine.live.get(idOf(`${group} ${name}`))?.text;

beforeAll(async () => {
  bench = await openBench();
  await bench.change('two groups', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 1 } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'STANDS', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'group', id: groupOne, set: { name: 'Stand 1', deviceId } },
    { kind: 'group', id: groupTwo, set: { name: 'Stand 2', deviceId } },
    tag('gap', groupOne),
    tag('run', groupOne, 'BOOL'),
    tag('speed', groupOne),
    tag('roll_gap', groupTwo),
    tag('run', groupTwo, 'BOOL'),
    tag('stand', null),
  ]);
  await bench.change('a page for both', [
    { kind: 'subjectList', id: listId, set: { name: 'Stands', subjects: [subject(groupOne, 1), subject(groupTwo, 7, { renames: [{ member: 'gap', as: 'roll_gap' }] })] } }, // prettier-ignore
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    { kind: 'page', id: overviewId, set: { panelId, name: 'Overview', position: 0 } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Stand {subject}', position: 1, subjectListId: listId } },
    element(startId, 'button', idOf(`${groupOne} run`), { actions: [newAction('set')] }),
    element(entryId, 'entry', idOf(`${groupOne} gap`), {}),
    element(speedId, 'entry', idOf(`${groupOne} speed`), {}),
    element(choiceId, 'subject', null, {}),
    element(wayId, 'button', null, { actions: [newAction('subject', { pageId, value: '7' })] }, overviewId),
  ]);
  await until('values are there', () => text(groupTwo, 'roll_gap') !== undefined);
});
afterAll(() => bench.close());

test('a write goes to the subject that was seen, under whatever name it has the member', async () => {
  expect(await press(entryId, { subject: 7, value: '12' })).toBe('done');
  expect([text(groupOne, 'gap'), text(groupTwo, 'roll_gap')]).toEqual(['0', '12']);
  expect(await press(startId, { subject: 1 })).toBe('done');
  expect([text(groupOne, 'run'), text(groupTwo, 'run')]).toEqual(['on', 'off']);
});
test('without a subject, of one that is not there, or of one that has no such member nothing is written', async () => {
  expect([await press(entryId, { value: '5' }), await press(entryId, { subject: 2, value: '5' }), await press(speedId, { subject: 7, value: '5' })]).toEqual(['subject', 'subject', 'subject']); // prettier-ignore
  expect([text(groupOne, 'gap'), text(groupOne, 'speed')]).toEqual(['0', '0']);
  const held = bench.services.panels.held({ panelId, elementId: startId, subject: 2 });
  expect(held).toMatchObject({ ok: false, problem: { code: 'subject' } });
});
test('a choice writes the tag that chooses, where one does, and only the number of a subject', async () => {
  expect([await press(choiceId, { subject: 1, value: '7' }), await press(wayId, {})]).toEqual(['not-here', 'not-here']);
  await bench.change('chosen by a tag', [{ kind: 'subjectList', id: listId, set: { tagId: idOf(' stand') } }]);
  expect([await press(choiceId, { subject: 1, value: '8' }), bench.services.engine.live.get(idOf(' stand'))?.text]).toEqual(['not-offered', '0']);
  expect([await press(choiceId, { subject: 1, value: '7' }), bench.services.engine.live.get(idOf(' stand'))?.text]).toEqual(['done', '7']);
  await press(choiceId, { subject: 7, value: '1' });
  expect([await press(wayId, {}), bench.services.engine.live.get(idOf(' stand'))?.text]).toEqual(['done', '7']);
});
test('what travels to a glass comes back as the same subjects, with the tags of all of them', () => {
  const { bundle } = bench.services.panels.opening(panelId, null) ?? {};
  const whole = bench.services.panels.bundle(panelId);
  if (!bundle || !whole.ok) throw new Error('no bundle');
  const told = sceneIn(JSON.parse(JSON.stringify(whole.value)) as typeof bundle);
  const here = bench.services.panels.scene(panelId);
  expect(told.subjectsOn(pageId)).toEqual(here?.subjectsOn(pageId));
  expect([told.tag(idOf(`${groupTwo} roll_gap`))?.name, told.subjectsOn(overviewId)]).toEqual(['roll_gap', null]);
  expect(bench.services.panels.isShown(idOf(`${groupTwo} roll_gap`))).toBe(true);
});
test('a subject that is removed is said to be gone, and is not written', async () => {
  await bench.change('gone', [{ kind: 'group', id: groupTwo, set: null }]);
  expect(bench.services.panels.scene(panelId)?.subjectsOn(pageId)?.choices[1]).toMatchObject({ isThere: false, text: 'gone' });
  expect(await press(startId, { subject: 7 })).toBe('subject');
});
