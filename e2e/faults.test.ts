import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { once } from 'node:events';
import type { Browser } from 'puppeteer-core';
import { WebSocket } from 'ws';
import { SILENCE_MS } from '@/core/live/messages.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { axeFinds } from './axe.ts';
import { openBrowser, Screen } from './browser.ts';

/** The demo project under faults: what cannot be known is never shown as good, and everything comes back by itself. */
let browser: Browser;
let kiln: RunningStandin;
let server: RunningServer;
let bench: Screen;
const data = newFolder();

beforeAll(async () => {
  [browser, kiln] = await Promise.all([openBrowser(), startKiln()]);
  server = await startServer(data.folder, await freePort(), ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`]);
  bench = await Screen.open(browser, `${server.address}/map`);
  await bench.fill('Find tags', 'bed_');
  await (await bench.find('[data-tag="bed_temp"] [data-column="name"]')).click();
  await until('values are good', async () => (await quality()) === 'good');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop()]);
  data.remove();
});

const quality = (tag = 'bed_temp'): Promise<string> =>
  bench.page.$eval(`[data-tag="${tag}"] [data-quality]`, (e) => e.getAttribute('data-quality') ?? '');
const value = (): Promise<string> => bench.cell('bed_temp', 'value');

/** What the page shows as good must be what the controller has, within what it can move in a period. */
async function isTrue(): Promise<boolean> {
  const [level, shown, real] = [await quality(), await value(), Number(await kiln.value('bed_temp'))];
  if (level === 'bad') return true;
  return Math.abs(Number(shown) - real) < 1.5;
}

describe('truth under faults', () => {
  test('a killed controller turns its values bad at once, and good again without a click when it is back', async () => {
    const { modbusPort, controlPort } = kiln;
    await kiln.stop();
    const began = Date.now();
    await until('the value is bad', async () => (await quality()) === 'bad', 4000);
    // Promised: one period (500 ms) plus all time-outs (1 s and one retry); a closed socket is seen sooner.
    expect(Date.now() - began).toBeLessThan(2500);
    expect(await value()).toBe('–');
    await bench.sees('The path breaks at the wire', '[data-finding]');
    kiln = await startKiln(modbusPort, controlPort);
    await until('the value is good again', async () => (await quality()) === 'good', 10_000);
    expect(await isTrue()).toBe(true);
  });

  test('a frozen controller turns its values bad within one period plus all its time-outs', async () => {
    kiln.process.kill('SIGSTOP');
    const began = Date.now();
    await until('the value is bad', async () => (await quality()) === 'bad', 6000);
    // 500 ms period, 1000 ms time-out, one retry, the batch to the page, and room for this machine.
    expect(Date.now() - began).toBeLessThan(500 + 2 * 1000 + 800);
    kiln.process.kill('SIGCONT');
    await until('the value is good again', async () => (await quality()) === 'good', 10_000);
    expect(await isTrue()).toBe(true);
  });

  test('a frozen server makes an open page mark its values bad by itself, and no old value comes back as good', async () => {
    server.process.kill('SIGSTOP');
    const began = Date.now();
    await until('the value is bad', async () => (await quality()) === 'bad', 6000);
    expect(Date.now() - began).toBeLessThan(SILENCE_MS + 1000);
    await bench.sees('The server does not answer');
    expect(await value()).toBe('–');
    await new Promise((resolve) => setTimeout(resolve, 6000));
    server.process.kill('SIGCONT');
    const samples: boolean[] = [];
    await until('the value is good again', async () => {
      samples.push(await isTrue());
      return (await quality()) === 'good';
    });
    for (let i = 0; i < 10; i++) samples.push(await isTrue());
    expect(samples).not.toContain(false);
  });

  test('a tag whose address the controller does not have is refused, and its neighbours keep their values', async () => {
    await bench.page.keyboard.press('Escape');
    await bench.fill('Find tags', '');
    await bench.press('Tag', 'main');
    await bench.fill('Name', 'in_the_hole', 'form');
    await bench.fill('Address', 'HR101', 'form');
    await bench.press('Make tag', 'form');
    await bench.press('Close', 'form');
    await bench.fill('Find tags', 'in_the_hole');
    await until('the refusal is shown', async () => (await bench.cell('in_the_hole', 'state')).includes('refused'));
    await bench.sees('illegal data address', '[data-finding]');
    await bench.fill('Find tags', 'bed_');
    await until('the neighbours are good', async () => (await quality('bed_temp_mid')) === 'good');
  });
});

describe('lists that cannot be taken', () => {
  const cases: readonly (readonly [string, string, string])[] = [
    ['nothing at all', '', 'The file is empty.'],
    ['no address column', 'Name,Type\nx1,INT\n', 'No column holds the address.'],
    ['an unknown type and a bad address', 'Name,Address,Type\nx1,40001,FLOATY\nx2,77777,INT\nx3,40003,INT\n', '2 not'],
    ['a name that is there already', 'Name,Address,Type,Group\nbed_temp,40001,INT,Bed\n', 'The device has a tag “bed_temp” in this group already.'],
  ];
  test.each(cases)('%s', async (_what, text, said) => {
    await bench.go('Lists');
    const before = ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: unknown[] }).tags.length;
    await bench.page.evaluate((content) => {
      const input = document.querySelector<HTMLInputElement>('input[type=file]');
      const files = new DataTransfer();
      files.items.add(new File([content], 'wrong.csv', { type: 'text/csv' }));
      if (input) input.files = files.files;
      input?.dispatchEvent(new Event('change', { bubbles: true }));
    }, text);
    await bench.sees(said);
    expect(await bench.page.$$eval('button', (all) => all.filter((b) => b.innerText.startsWith('Import') && !b.disabled).length)).toBe(0);
    expect(((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: unknown[] }).tags).toHaveLength(before);
  });
});

describe('for everybody', () => {
  test.each([
    ['links', 'oat'],
    ['lists', 'kiln'],
    ['map', 'oat'],
    ['map', 'kiln'],
    ['scale', 'oat'],
    ['panels', 'kiln'],
    ['check', 'oat'],
    ['check', 'kiln'],
    ['writes', 'oat'],
  ])('axe finds nothing serious on %s (%s)', async (step, theme) => {
    await bench.page.evaluate((t) => localStorage.setItem('mill-latch.theme', t), theme);
    await bench.page.goto(`${server.address}/${step}`, { waitUntil: 'domcontentloaded' });
    await bench.page.waitForSelector('nav[aria-label="Line of work"]');
    await new Promise((resolve) => setTimeout(resolve, 1200));
    expect(await axeFinds(bench.page)).toEqual([]);
  });
});

describe('the end of the server', () => {
  test('while a press is still on its way to a slow machine lets go before it ends', async () => {
    const project = (await (await fetch(`${server.address}/api/v1/project`)).json()) as {
      readonly [list in 'tags' | 'devices' | 'pages']: readonly { id: string; name: string; panelId: string }[];
    } & { readonly elements: readonly { id: string; tagId: string; pageId: string; kind: string }[] };
    const tagId = project.tags.find((t) => t.name === 'belt_jog')?.id;
    const button = project.elements.find((e) => e.tagId === tagId && e.kind === 'button');
    const panelId = project.pages.find((p) => p.id === button?.pageId)?.panelId;
    const sign = JSON.stringify({ kind: 'hold', hold: 'h1', panelId, elementId: button?.id });
    const unlocked = await fetch(`${server.address}/api/v1/guard/unlock`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ deviceId: project.devices.find((d) => d.name === 'KILN')?.id, who: 'R. Vale', minutes: 5, writers: ['panel'] }),
    });
    expect(unlocked.status).toBe(200);
    // Slower than the time-out: what is sent is done, and is not known to be.
    await kiln.order({ faults: { delayMs: 900 } });
    const socket = new WebSocket(server.address.replace('http', 'ws') + '/api/v1/live', { origin: server.address });
    await once(socket, 'open');
    const signs = setInterval(() => socket.readyState === WebSocket.OPEN && socket.send(sign), 60);
    await until('the belt creeps', async () => (await kiln.value('belt_jog')) === true);
    await server.stop();
    clearInterval(signs);
    socket.terminate();
    await until('the belt stands', async () => (await kiln.value('belt_jog')) === false, 2000);
  });
});
