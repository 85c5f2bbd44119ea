/** `npm run pictures`: starts the demo anew on free ports and takes the pictures of docs/screenshots from it. */
import { randomUUID } from 'node:crypto';
import puppeteer from 'puppeteer-core';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, endPrograms, freePort, installDebian, installPackages, root, startProgram } from './lib.mjs';

installPackages();
installDebian('chromium');
await build();
const folder = mkdtempSync(join(tmpdir(), 'mill-latch-pictures-'));
const pictures = join(root, 'docs/screenshots');
mkdirSync(pictures, { recursive: true });
const kiln = await startProgram('The simulated kiln', 'standin-kiln.mjs', [], () => undefined);
const { modbusPort, controlPort } = kiln.told;
const rolls = await startProgram('The simulated flaking stands', 'standin-rolls.mjs', [], () => undefined);
const pack = await startProgram('The simulated bagging cell', 'standin-pack.mjs', [], () => undefined);
const weigh = await startProgram('The simulated weigher', 'standin-weigh.mjs', ['--pki', join(folder, 'weigh-pki')], () => undefined);
const scratch = await startProgram('A controller on the bench', 'standin-scratch.mjs', [], () => undefined);
const server = await startProgram(
  'The server',
  'server.mjs',
  [
    '--port',
    String(await freePort(4780)),
    '--data',
    folder,
    '--demo-kiln',
    `${modbusPort},${controlPort}`,
    '--demo-rolls',
    `${rolls.told.modbusPort},${rolls.told.controlPort}`,
    '--demo-weigh',
    `${weigh.told.uaPort},${weigh.told.controlPort},${weigh.told.fingerprint}`,
    '--demo-pack',
    `${pack.told.cipPort},${pack.told.controlPort}`,
  ],
  () => undefined,
);
const browser = await puppeteer.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--lang=en-GB'],
});
const page = await browser.newPage();
await page.setViewport({ width: 1280, height: 800 });
page.setDefaultTimeout(120_000);
const rest = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const open = async (path) => {
  await page.goto(server.told.address + path, { waitUntil: 'domcontentloaded' });
  await page.waitForSelector('[aria-label="Line of work"], [data-panel]');
  await rest(1500);
};
const click = async (selector) => (await page.waitForSelector(selector, { visible: true })).click();
const press = async (name) =>
  (
    await page.waitForFunction((n) => [...document.querySelectorAll('button')].find((b) => b.innerText.trim().startsWith(n) && !b.disabled), {}, name)
  ).click();
const shoot = (name) => page.screenshot({ path: join(pictures, `${name}.png`) });

try {
  await open('/map');
  await page.waitForSelector('[role="row"][data-tag]');
  await page.$eval('[role="grid"]', (grid) => (grid.scrollTop = 310));
  await click('[data-tag="bed_temp_out"] [data-column="name"]');
  await rest(1500);
  await shoot('map');
  await press('Tag');
  await page.select('form[aria-label="New tag"] select', 'calculated');
  await page.type('form[aria-label="New tag"] input[name="name"]', 'bed_drop');
  await click('[data-expression] .cm-content');
  await page.keyboard.type('average(KILN.Bed.bed_temp_in, 60) - KILN.Bed.bed_temp');
  await page.keyboard.press('Escape');
  await rest(1500);
  await shoot('expression');
  await press('Close');
  await open('/map/preflight');
  await shoot('preflight');
  await open('/links');
  await shoot('links');
  const command = (label, changes) =>
    fetch(`${server.told.address}/api/v1/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ id: randomUUID(), label, changes }),
    });
  const [linkId, deviceId] = [randomUUID(), randomUUID()];
  const settings = { host: '127.0.0.1', port: scratch.told.modbusPort };
  await command('a controller on the bench', [
    { kind: 'link', id: linkId, set: { name: 'Bench', driver: 'modbus-tcp', settings } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'SCRATCH', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
  ]);
  await click('[aria-label="Learn how SCRATCH lays out memory"]');
  await rest(500);
  const program = await page.$eval('dialog pre', (pre) => pre.textContent);
  const layout = {
    order32: 'CDAB',
    order64: 'GHEFCDAB',
    orderText: 'BA',
    structures: 'aligned',
    flags: 'bytes',
    texts: 'length-byte',
    bitFrom: 'most',
  };
  await fetch(`http://127.0.0.1:${scratch.told.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ set: { layout, program } }) });
  await press('Read the block');
  await page.waitForSelector('[data-evidence]');
  await rest(500);
  await shoot('learn');
  await command('the bench is empty again', [{ kind: 'link', id: linkId, set: null }]);
  await open('/map/memory');
  await click('input[type=checkbox]');
  await rest(3500);
  await shoot('memory');
  await open('/links');
  const order = (faults) => fetch(`http://127.0.0.1:${rolls.told.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ faults }) });
  await order({ silence: [6] });
  await rest(4000);
  await (await page.waitForSelector('[data-device="ROLLS 6"] .btn-outline')).click();
  await page.waitForSelector('dialog [data-state="failed"]');
  await rest(1500);
  await shoot('test');
  await order({});
  await open('/links');
  await click('a[href^="/links/trace"]');
  await page.waitForSelector('[aria-label="Frames"] [role=option]');
  await rest(1500);
  await press('Pause');
  await page.$$eval('[aria-label="Frames"] [role=option]', (rows) => rows.at(-3)?.click());
  await rest(500);
  await shoot('trace');
  await open('/links');
  await click('a[href^="/links/bus"]');
  await rest(6000);
  await shoot('bus');
  await open('/lists');
  await (await page.$('input[type=file]')).uploadFile(join(root, 'docs/formats/examples/stands.st'));
  await page.waitForSelector('[data-preview-count]');
  await press('Selection');
  await click('[role=tree] button');
  await rest(500);
  await shoot('lists');
  await open('/lists');
  const next = await page.$('input[aria-label="New version of kiln-process.csv"]');
  await next.uploadFile(join(root, 'demo/second/kiln-process.xlsx'));
  await page.waitForSelector('[data-preview-count]');
  await page.$$eval('[role=tab]', (tabs) => tabs.find((tab) => tab.innerText.startsWith('Changed'))?.click());
  await rest(800);
  await shoot('lists-again');
  await open('/map');
  await click('[data-tag="bed_temp_mid"] [data-column="name"]');
  await open('/scale');
  await page.click('input[role=combobox]');
  await page.keyboard.type('bin_level');
  await rest(400);
  await page.keyboard.press('Enter');
  await rest(600);
  await page.type('[aria-label="Calculator"] input', '11248');
  await rest(600);
  await shoot('scale');
  await open('/scale/shared');
  const fields = await page.$$('form[aria-label="Shared scale"] input');
  await fields[4].click({ count: 3 });
  await page.keyboard.type('160');
  await page.mouse.move(1, 1);
  await rest(800);
  await shoot('shared');
  await open('/panels');
  const kilnPanel = await page.evaluate(() => {
    const choice = [...document.querySelectorAll('select')].find((s) => [...s.options].some((o) => o.text.startsWith('Kiln')));
    return {
      label: choice?.getAttribute('aria-label') ?? '',
      value: [...(choice?.options ?? [])].find((o) => o.text.startsWith('Kiln'))?.value ?? '',
    };
  });
  await page.select(`select[aria-label="${kilnPanel.label}"]`, kilnPanel.value);
  await rest(500);
  await click('[data-box][aria-label^="Bed temperature"]');
  await rest(500);
  await shoot('panels');
  await open('/check');
  await page.type('input[placeholder="Your name"]', 'R. Vale');
  await page.select('select[aria-label="Against whom"]', 'channel');
  await page.evaluate(() => {
    const scope = document.querySelector('select[aria-label="What to check"]');
    const kiln = [...(scope?.options ?? [])].find((option) => option.text === 'KILN');
    kiln?.setAttribute('data-kiln', '');
  });
  await page.select('select[aria-label="What to check"]', await page.$eval('[data-kiln]', (option) => option.value));
  await press('Begin a run of');
  await page.waitForSelector('[data-run]');
  await press('Run by itself');
  await page.waitForSelector('[data-explanations]');
  await rest(800);
  await shoot('check');
  const { devices, tags } = await (await fetch(`${server.told.address}/api/v1/project`)).json();
  const post = (path, body) =>
    fetch(`${server.told.address}/api/v1${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  await post('/guard/unlock', { deviceId: devices.find((d) => d.name === 'KILN').id, minutes: 5, who: 'R. Vale' });
  for (const [name, value] of [
    ['moisture_sp', '9.8'],
    ['bed_temp_sp', '101.5'],
    ['lamp_test', 'on'],
    ['lamp_test', 'off'],
    ['recipe_name', 'THIN ROLLED 02'],
  ])
    await post(`/tags/${tags.find((t) => t.name === name).id}/write`, { id: randomUUID(), value, origin: 'engineer' });
  await post('/guard/lock', {});
  await open('/writes');
  await shoot('writes');
  const { panels } = await (await fetch(`${server.told.address}/api/v1/panels`)).json();
  const line = panels.find(({ name }) => name === 'Line panel');
  await open(`/panel/${line.id}?page=${line.pages.find(({ name }) => name.startsWith('Stand {')).id}`);
  await press('3');
  await rest(6000);
  await shoot('panel');
  await order({ silence: [3] });
  await rest(9000);
  await open(`/panel/${line.id}?page=${line.pages.find(({ name }) => name === 'Alarms').id}`);
  await rest(1500);
  await shoot('alarms');
  await order({});
  await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'dark' }]);
  await page.evaluate(() => localStorage.removeItem('mill-latch.theme'));
  await open(`/panel/${line.id}`);
  await page.evaluate(() => (document.documentElement.dataset.theme = 'kiln'));
  await rest(4000);
  await shoot('line-night');
} finally {
  await browser.close();
  await endPrograms(server.child, [kiln.child, rolls.child, weigh.child, pack.child, scratch.child]);
  rmSync(folder, { recursive: true, force: true });
}
