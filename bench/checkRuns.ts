/** A run over 500 tags of own pages, as somebody starts it at the bench: each page is drawn, and what it drew is compared with its sample. */
import puppeteer from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { RunCounts } from '@/core/check/run.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { Screen } from '../e2e/browser.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer } from '../tests/support/server.ts';
import { startKiln } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import type { Figure } from './figure.ts';

const TAGS = 500;
const ON_A_PAGE = 50;
const WANTED_S = 60;
/** Words that the kiln's memory has. */
const WORDS = 40;

export async function* checkRuns(): AsyncGenerator<Figure> {
  const data = newFolder();
  const kiln = await startKiln();
  const server = await startServer(data.folder, await freePort(), ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`]);
  const browser = await puppeteer.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update'],
  });
  try {
    const get = async <T>(path: string): Promise<T> => (await (await fetch(`${server.address}/api/v1${path}`)).json()) as T;
    const project = await get<Snapshot>('/project');
    const deviceId = project.devices[0]?.id ?? '';
    const panelId = uuid();
    const tags = Array.from({ length: TAGS }, (_, i) => ({ id: uuid(), name: `bench_${i}` }));
    const pages = Array.from({ length: TAGS / ON_A_PAGE }, () => uuid());
    const changes: Change[] = [
      { kind: 'panel', id: panelId, set: { name: 'Bench panel', units: [] } },
      ...pages.map((id, position): Change => ({ kind: 'page', id, set: { panelId, name: `Bench page ${position}`, position } })),
      ...tags.map(({ id, name }, i): Change => ({ kind: 'tag', id, set: newTag(deviceId, name, `HR${i % WORDS}`, { periodMs: 500 }) })),
      ...tags.map(({ id, name }, i): Change => ({
        kind: 'element',
        id: uuid(),
        set: {
          pageId: pages[Math.floor(i / ON_A_PAGE)],
          kind: 'value',
          tagId: id,
          label: name,
          x: 8 + (i % 10) * 100,
          y: 8 + Math.floor((i % ON_A_PAGE) / 10) * 70,
          w: 96,
          h: 60,
          settings: {},
        },
      })),
    ];
    const done = await fetch(`${server.address}/api/v1/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: server.address },
      body: JSON.stringify({ id: uuid(), label: '500 tags', changes }),
    });
    if (!done.ok) throw new Error(await done.text());
    const bench = await Screen.open(browser, `${server.address}/check`);
    await bench.fill('Checked by', 'R. Vale');
    await bench.fill('Find tags to check', 'bench_');
    await bench.choose('Against whom', 'page');
    await bench.press(`Begin a run of ${TAGS}`);
    await bench.sees(`${TAGS} open`, '[data-counts]');
    const id = await bench.page.evaluate(() => new URLSearchParams(location.search).get('run') ?? '');
    const counts = async (): Promise<RunCounts> => (await get<{ readonly counts: RunCounts }>(`/checks/runs/${id}`)).counts;
    const begun = performance.now();
    await bench.press('Run by itself');
    await until('all are looked at', async () => (await counts()).open === 0, 240_000).catch(() => undefined);
    const seconds = (performance.now() - begun) / 1000;
    const { agree, failed, open } = await counts();
    yield {
      name: `check runs: ${TAGS} tags of own pages against ${WANTED_S} s`,
      ratio: agree === TAGS ? seconds / WANTED_S : Infinity,
      wanted: 1,
      atMost: true,
      detail: `${seconds.toFixed(1)} s on ${pages.length} pages; ${agree} agree, ${failed} differ, ${open} open`,
    };
  } finally {
    await browser.close();
    await Promise.all([server.stop(), kiln.stop()]);
    data.remove();
  }
}
