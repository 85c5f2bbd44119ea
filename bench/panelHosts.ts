/** A panel host: its memory, its first page, a day of it, and what is sent to it, whole or interrupted. */
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import puppeteer, { type Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { compared, pairOver, sendOver } from '../tests/support/pairHost.ts';
import { interruptions } from '../tests/support/interruptions.ts';
import { newFolder, freePort, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import type { Figure } from './figure.ts';
import type { HourSeen } from './hostDay.ts';
import { file, rest } from './serverLoad.ts';

const TAGS = 1000;
const PAGES = 10;
const WATCHED_MS = 60_000;
const STARTS = 5;
const TRANSFERS = 7;
const INTERRUPTIONS = 200;

const startHost = (folder: string, port: number, more: readonly string[] = []): Promise<RunningServer> =>
  startServer(folder, port, ['--steady', '0.2', ...more], 'panelHost.mjs');

export async function* panelHosts(): AsyncGenerator<Figure> {
  yield* aThousandTags();
  yield* transfers();
  yield await aDay();
}

async function* aThousandTags(): AsyncGenerator<Figure> {
  const [data, hostData] = [newFolder(), newFolder()];
  const registers = fork(file('bench/registerServer.mjs'), { stdio: ['ignore', 'pipe', 'inherit', 'ipc'] });
  const [line] = (await once(registers.stdout ?? registers, 'data')) as [Buffer];
  const browser = await puppeteer.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update'],
  });
  const hostPort = await freePort();
  let host = await startHost(hostData.folder, hostPort);
  const server = await startServer(data.folder, await freePort());
  try {
    const panelId = await thousand(server, Number(line.toString()));
    const hostId = await pairOver(server, host);
    const sent = await sendOver(server, hostId, panelId, null);
    if (sent?.kind !== 'done') throw new Error(`not sent: ${JSON.stringify(sent)}`);
    await server.stop();
    const times: number[] = [];
    for (let i = 0; i < STARTS; i++) {
      await host.stop();
      const begun = performance.now();
      host = await startHost(hostData.folder, hostPort);
      await firstValue(browser, host.address);
      times.push(performance.now() - begun);
    }
    yield {
      name: 'a panel host of 1 000 tags shows its first page with values, in seconds after its start',
      ratio: Math.max(...times) / 1000,
      wanted: 4,
      atMost: true,
      detail: `the slowest of ${STARTS} starts: ${times.map((ms) => ms.toFixed(0)).join(', ')} ms`,
    };
    const glass = await browser.newPage();
    await glass.goto(host.address);
    const memory: number[] = [];
    for (const end = Date.now() + WATCHED_MS; Date.now() < end; await rest(1000)) memory.push(residentMb(host));
    yield {
      name: 'memory of a panel host of 1 000 tags, resident, in MB',
      ratio: Math.max(...memory),
      wanted: 150,
      atMost: true,
      detail: `the most in ${WATCHED_MS / 1000} s with a glass open, 1 000 tags read every 500 ms; the last ${memory.at(-1)?.toFixed(0)} MB`,
    };
  } finally {
    await browser.close();
    await Promise.all([server.stop(), host.stop()]);
    registers.disconnect();
    data.remove();
    hostData.remove();
  }
}

/** Where a value can be read on the first page. */
async function firstValue(browser: Browser, address: string): Promise<void> {
  const glass = await browser.newPage();
  await glass.goto(address, { waitUntil: 'domcontentloaded' });
  await glass.waitForFunction(() => /\d/.test(document.querySelector('[data-drawn]')?.textContent ?? ''), { timeout: 20_000 });
  await glass.close();
}

const residentMb = ({ process: { pid } }: RunningServer): number =>
  Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid ?? 0}/status`, 'utf8'))?.[1] ?? NaN) / 1024;

async function thousand(server: RunningServer, port: number): Promise<string> {
  const [linkId, deviceId, panelId] = [uuid(), uuid(), uuid()];
  const pages = Array.from({ length: PAGES }, () => uuid());
  const tags = Array.from({ length: TAGS }, () => uuid());
  const changes = [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'PLC', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    ...tags.map((id, i) => ({ kind: 'tag', id, set: { ...newTag(deviceId, `tag_${i}`, `HR${i}`, { periodMs: 500 }), type: 'UINT' } })),
    { kind: 'panel', id: panelId, set: { name: 'Thousand', units: [] } },
    ...pages.map((id, position) => ({ kind: 'page', id, set: { panelId, name: `Page ${position}`, position } })),
    ...tags.map((tagId, i) => ({
      kind: 'element',
      id: uuid(),
      set: { pageId: pages[Math.floor(i / (TAGS / PAGES))], kind: 'value', tagId, label: `Tag ${i}`, x: (i % 10) * 120, y: (Math.floor(i / 10) % 10) * 70, w: 110, h: 60, settings: {} }, // prettier-ignore
    })),
  ];
  await command(server, changes);
  await command(server, [{ kind: 'panel', id: panelId, set: { startPageId: pages[0] } }]);
  return panelId;
}

async function command(server: RunningServer, changes: readonly object[]): Promise<void> {
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = JSON.stringify({ id: uuid(), label: 'bench', changes });
  const answer = await fetch(`${server.address}/api/v1/commands`, { method: 'POST', headers, body });
  if (!answer.ok) throw new Error(await answer.text());
}

async function* transfers(): AsyncGenerator<Figure> {
  const [data, hostData] = [newFolder(), newFolder()];
  const [kiln, rolls] = await Promise.all([startStandin('kiln'), startStandin('rolls')]);
  const demo = ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`, '--demo-rolls', `${rolls.modbusPort},${rolls.controlPort}`];
  const server = await startServer(data.folder, await freePort(), demo);
  const hostPort = await freePort();
  let host = await startHost(hostData.folder, hostPort);
  try {
    const project = (await (await fetch(`${server.address}/api/v1/project`)).json()) as {
      panels: { id: string; name: string }[];
      pages: { id: string; panelId: string }[];
      elements: { id: string; pageId: string }[];
    };
    const panelId = project.panels.find(({ name }) => name.includes('Line'))?.id ?? '';
    const pages = project.pages.filter((page) => page.panelId === panelId);
    const element = project.elements.find(({ pageId }) => pageId === pages[0]?.id);
    await command(server, [{ kind: 'panel', id: panelId, set: { startPageId: pages[0]?.id } }]);
    const change = (n: number): Promise<void> => command(server, [{ kind: 'element', id: element?.id, set: { label: `Sent ${n}` } }]);
    const hostId = await pairOver(server, host);
    const times: number[] = [];
    let replaces: string | null = null;
    let size = '';
    for (let i = 0; i < TRANSFERS; i++) {
      await change(i);
      const begun = performance.now();
      const sent = await sendOver(server, hostId, panelId, replaces);
      times.push(performance.now() - begun);
      if (sent?.kind !== 'done') throw new Error(`not sent: ${JSON.stringify(sent)}`);
      replaces = sent.state.hosted?.digest ?? null;
      const { bytes, tags } = await compared(server, hostId, panelId);
      size = `${tags} tags, ${Math.ceil(bytes / 1000)} kB`;
    }
    yield {
      name: "sending the demo's line panel, in seconds until it runs there",
      ratio: Math.max(...times) / 1000,
      wanted: 3,
      atMost: true,
      detail: `the slowest of ${TRANSFERS}: ${times.map((ms) => ms.toFixed(0)).join(', ')} ms; ${size}`,
    };
    const typicalMs = times.toSorted((a, b) => a - b)[Math.floor(TRANSFERS / 2)] ?? 500;
    const outcome = await interruptions(
      { server, hostId, panelId, change, typicalMs, host, restart: async () => (host = await startHost(hostData.folder, hostPort)) },
      INTERRUPTIONS,
      Date.now() % 100_000,
    );
    yield {
      name: `transfers interrupted at ${INTERRUPTIONS} random moments that left neither the old nor the new`,
      ratio: outcome.neither,
      wanted: 0,
      atMost: true,
      detail: `${outcome.old} left the old, ${outcome.isNew} the new; ${outcome.kills} by killing the host, the others by ending the sender; seed ${outcome.seed}`,
    };
  } finally {
    await Promise.all([server.stop(), host.stop(), kiln.stop(), rolls.stop()]);
    data.remove();
    hostData.remove();
  }
}

/** By the end of a day nothing may have grown since its fourth hour, when all that is kept in memory has its full length. */
async function aDay(): Promise<Figure> {
  const registers = fork(file('bench/registerServer.mjs'), { stdio: ['ignore', 'pipe', 'inherit', 'ipc'] });
  const [line] = (await once(registers.stdout ?? registers, 'data')) as [Buffer];
  const flags = JSON.parse(readFileSync(file('scripts/panelFlags.json'), 'utf8')) as string[];
  const day = fork(process.argv[1] ?? '', ['--host-day', line.toString().trim()], { execArgv: ['--expose-gc', ...flags] });
  const hours: HourSeen[] = [];
  let end: { good?: number; alarms?: number; writes?: number } = {};
  day.on('message', (message: HourSeen | typeof end) => {
    if ('hour' in message) hours.push(message);
    else end = message;
  });
  await once(day, 'exit');
  registers.disconnect();
  const [early, late] = [hours[3], hours.at(-1)];
  return {
    name: 'heap of a panel host after 24 hours of its clock, against that after 4 hours',
    ratio: early && late && late.hour === 24 ? late.heapMb / early.heapMb : Infinity,
    wanted: 1.05,
    atMost: true,
    detail:
      `heap ${hours
        .filter(({ hour }) => hour % 4 === 0)
        .map(({ heapMb }) => heapMb.toFixed(1))
        .join(', ')} MB; ` +
      `resident ${early?.residentMb.toFixed(0)} to ${late?.residentMb.toFixed(0)} MB; files ${late?.filesKb.toFixed(0)} kB; ` +
      `${late?.requests.toFixed(1)} requests/s by its clock; ${end.good} good values, ${end.writes} writes, ${end.alarms} events of alarms`,
  };
}
