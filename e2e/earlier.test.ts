/** A data folder and a project file of the version before groups and sources, opened by the page: nothing of them is lost. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { EARLIER, EARLIER_FILE, earlierFolder } from '../tests/support/earlierFolder.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

let browser: Browser;
let server: RunningServer;
let fresh: RunningServer;
const other = newFolder();

beforeAll(async () => {
  const [folder, one, two] = [await earlierFolder(), await freePort(), await freePort()];
  [browser, server, fresh] = await Promise.all([openBrowser(), startServer(folder, one), startServer(other.folder, two)]);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), fresh?.stop()]);
  other.remove();
});

interface Project {
  readonly tags: readonly { id: string; name: string; groupId: string | null; source: { deviceId: string; address: string; order: string } }[];
  readonly groups: readonly { id: string; name: string }[];
  readonly [list: string]: readonly object[];
}
const project = async ({ address }: RunningServer): Promise<Project> => (await (await fetch(`${address}/api/v1/project`)).json()) as Project;
/** Tags as they were told before, by their ids. */
const told = ({ tags }: Project): string[] => tags.map(({ id, name, source }) => `${id} ${name} ${source.deviceId} ${source.address}`).sort();
const before = EARLIER.snapshot.tags.map(({ id, name, deviceId, address }) => `${id} ${name} ${deviceId} ${address}`).sort();

const step = async ({ page }: Screen, how: 'undo' | 'redo'): Promise<void> => {
  await page.keyboard.down('Control');
  if (how === 'redo') await page.keyboard.down('Shift');
  await page.keyboard.press('z');
  if (how === 'redo') await page.keyboard.up('Shift');
  await page.keyboard.up('Control');
};

describe('a data folder of the version before', () => {
  test('opens with its two machines of one name told apart, its tags in their groups, its lists and its panel', async () => {
    const bench = await Screen.open(browser, server.address);
    await bench.go('Links');
    await bench.sees('Kiln cabinet');
    await bench.sees('Second cabinet');
    await bench.go('Map');
    await bench.sees(`${before.length} tags`);
    await bench.find('[role=row][data-tag="bed_temp"]');
    const grouped = EARLIER.snapshot.tags.find((tag) => tag.name === 'heat_cmd');
    await bench.fill('Find tags', 'heat_cmd');
    await bench.sees(grouped?.group ?? '', '[role=row][data-tag="heat_cmd"]');
    await bench.go('Lists');
    await bench.sees('line2.csv');
    await bench.go('Panels');
    await bench.sees('Bed');
    expect(bench.complaints).toEqual([]);
    expect(told(await project(server))).toEqual(before);
  });
  test('its changes can be undone and redone by the page', async () => {
    const bench = await Screen.open(browser, server.address);
    await bench.go('Map');
    await bench.sees(`${before.length} tags`);
    await step(bench, 'undo');
    await until('it is undone', async () => JSON.stringify(told(await project(server))) !== JSON.stringify(before));
    await step(bench, 'redo');
    await until('it is back', async () => JSON.stringify(told(await project(server))) === JSON.stringify(before));
    expect(bench.complaints).toEqual([]);
  });
});

test('a project file of the version before is compared, taken over, and gives the same tags and groups', async () => {
  const bench = await Screen.open(browser, fresh.address);
  const file = join(other.folder, 'earlier.zip');
  writeFileSync(file, EARLIER_FILE);
  await bench.press('Project file and backups');
  const input = (await bench.field('Project file', 'dialog')) as unknown as { uploadFile(path: string): Promise<void> };
  await input.uploadFile(file);
  await bench.press('Import it', 'dialog');
  await until('it is in', async () => JSON.stringify(told(await project(fresh))) === JSON.stringify(before));
  const groups = (of: Project): string[] => of.groups.map(({ id, name }) => `${id} ${name}`).sort();
  expect(groups(await project(fresh))).toEqual(groups(await project(server)));
  expect(bench.complaints).toEqual([]);
});
