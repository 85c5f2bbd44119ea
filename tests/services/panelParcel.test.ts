/** What a panel host is sent: all that the panel needs, and no more. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { fileURLToPath } from 'node:url';
import { v4 as uuid } from 'uuid';
import { tagsUsedBy } from '@/core/panel/uses.ts';
import { loadProject } from '@/panelHost/loadProject.ts';
import { setUpDemo } from '@/server/demo/kiln.ts';
import { setUpLine } from '@/server/demo/line.ts';
import { setUpRolls } from '@/server/demo/rolls.ts';
import { panelParcel, type PanelParcel } from '@/services/hosting/panelParcel.ts';
import { bundleOf } from '@/mapping/panels/panelBundle.ts';
import { PanelService } from '@/services/panelService.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, type Bench } from '../support/services.ts';

const folder = fileURLToPath(new URL('../../demo', import.meta.url));
/** Nothing answers there: what is set up is looked at, not read. */
const NOWHERE = { port: 9, controlPort: 9 };
let bench: Bench;
const SECRETS = new Map<string, string>();
beforeAll(async () => {
  bench = await openBench();
  for (const setUp of [setUpDemo, setUpRolls]) {
    const made = await setUp(bench.services, folder, NOWHERE);
    if (!made.ok) throw new Error(made.problem.message);
  }
  const line = await setUpLine(bench.services);
  if (!line.ok) throw new Error(line.problem.message);
}, 60_000);
afterAll(() => bench.close());

async function parcel(panelId: string): Promise<PanelParcel> {
  const { services } = bench;
  const made = await panelParcel(panelId, '2026-12-01T08:00:00.000Z', {
    snapshot: () => services.snapshot(),
    panels: services.panels,
    pictures: { bytesOf: async () => null },
    pins: { stored: async (id) => ({ salt: `s${id}`, hash: 'h' }) },
    secrets: { reveal: (id) => SECRETS.get(id) ?? null },
  });
  if (!made.ok) throw new Error(made.problem.message);
  return made.value;
}
const panelNamed = (name: string) => bench.services.model.all('panel').find((panel) => panel.name.includes(name))?.id ?? '';

/** The panel as a host draws it that has nothing but what was sent. */
function drawnThere({ zip }: PanelParcel, panelId: string) {
  const loaded = loadProject(zip, panelId);
  if (!loaded.ok) throw new Error(loaded.problem.message);
  const nobody = { who: () => null };
  const panels = new PanelService(loaded.value.model, bench.services.engine, { writes: bench.services.writes, signIn: nobody }, () => 1);
  const scene = panels.scene(panelId);
  return { model: loaded.value.model, bundle: scene && bundleOf(scene) };
}

describe('of the demo', () => {
  test.each(['Kiln', 'Line'])('the %s panel is drawn there as it is here', async (name) => {
    const panelId = panelNamed(name);
    const here = bench.services.panels.bundle(panelId);
    const { bundle } = drawnThere(await parcel(panelId), panelId);
    expect(here.ok).toBe(true);
    expect(bundle).toEqual(here.ok && here.value);
  });

  test('the kiln panel brings no tag of the rolls, and every tag that its elements use', async () => {
    const panelId = panelNamed('Kiln');
    const { project } = await parcel(panelId);
    expect(project.panels).toHaveLength(1);
    const used = new Set(project.elements.flatMap(tagsUsedBy));
    expect(used.size).toBeGreaterThan(20);
    const ids = new Set(project.tags.map(({ id }) => id));
    expect([...used].filter((id) => !ids.has(id))).toEqual([]);
    expect(project.devices.map(({ name }) => name)).toEqual(['KILN']);
    expect(project.tags.length).toBeLessThan(bench.services.model.count('tag'));
  });

  test('the line panel brings the alarms that it shows and their tags, and is read by a host as a whole', async () => {
    const panelId = panelNamed('Line');
    const sent = await parcel(panelId);
    const { model } = drawnThere(sent, panelId);
    expect(model.all('alarm').length).toBe(bench.services.model.all('alarm').length);
    for (const tag of model.all('tag')) expect(model.effective(tag.id).ok).toBe(bench.services.model.effective(tag.id).ok);
    // Of each tag the path of its value is the same, to the digest: what was proven here is that.
    for (const tag of model.all('tag')) {
      const [here, there] = [bench.services.model.effective(tag.id), model.effective(tag.id)];
      if (here.ok && there.ok) expect(there.value.digest).toBe(here.value.digest);
    }
  });
});

test('its digest says whether anything that it needs has changed, and only that', async () => {
  const panelId = panelNamed('Kiln');
  const before = await parcel(panelId);
  expect((await parcel(panelId)).digest).toBe(before.digest);
  const rolls = bench.services.model.all('device').find(({ name }) => name !== 'KILN');
  await bench.change('elsewhere', [{ kind: 'tag', id: uuid(), set: newTag(rolls?.id ?? '', 'elsewhere', '39000') }]);
  expect((await parcel(panelId)).digest).toBe(before.digest);
  const [used] = before.project.tags;
  await bench.change('here', [{ kind: 'tag', id: used?.id ?? '', set: { comment: 'looked at' } }]);
  expect((await parcel(panelId)).digest).not.toBe(before.digest);
});

test('PINs and secrets go beside it, sealed, and never into the project file', async () => {
  const { model } = bench.services;
  const person = uuid();
  const secretId = uuid();
  SECRETS.set(secretId, 'a very secret word');
  const linkId = uuid();
  const deviceId = uuid();
  const tagId = uuid();
  const panelId = panelNamed('Kiln');
  const pageId = model.pagesOf(panelId)[0]?.id ?? '';
  await bench.change('with a password', [
    { kind: 'operator', id: person, set: { name: 'M. Quill', level: 2 } },
    { kind: 'link', id: linkId, set: { name: 'Weigher', driver: 'opc-ua', settings: { endpoint: 'opc.tcp://127.0.0.1:4840', user: 'password', userName: 'mill', password: secretId } } }, // prettier-ignore
    { kind: 'device', id: deviceId, set: { linkId, name: 'WEIGH', settings: {}, dialect: {}, witnessUrl: '' } },
    { kind: 'tag', id: tagId, set: newTag(deviceId, 'net', 'nsu=urn:mill;s=Net', {}) },
    { kind: 'element', id: uuid(), set: { pageId, kind: 'value', tagId, label: 'Net', x: 0, y: 0, w: 80, h: 40, settings: {} } },
  ]);
  const sent = await parcel(panelId);
  expect(sent.secrets).toEqual([{ id: secretId, secret: 'a very secret word' }]);
  expect(sent.pins).toContainEqual({ operatorId: person, salt: `s${person}`, hash: 'h' });
  const text = Buffer.from(sent.zip).toString('latin1') + JSON.stringify(sent.project);
  expect(text).not.toContain('a very secret word');
  expect(text).not.toContain(`s${person}`);
});

test('a device that is simulated here is the real one there, and that is said; what simulated tags do stays here', async () => {
  const panelId = panelNamed('Kiln');
  const kiln = bench.services.model.all('device').find(({ name }) => name === 'KILN');
  const [tag] = bench.services.model.tagsOf(kiln?.id ?? '');
  await bench.change('simulated', [
    { kind: 'device', id: kiln?.id ?? '', set: { isSimulated: true } },
    { kind: 'simulation', id: tag?.id ?? '', set: { behaviour: { kind: 'hold', value: '1' }, runTagId: null } },
  ]);
  const sent = await parcel(panelId);
  expect(sent.notes).toContain("KILN is simulated here; on the panel host it is the machine's.");
  expect(sent.project.devices.every(({ witnessUrl, isSimulated }) => witnessUrl === '' && !isSimulated)).toBe(true);
  expect(sent.project.simulations).toEqual([]);
});
