import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import iconv from 'iconv-lite';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

/** Lists that come again: what changes is seen before it is taken, and nothing made by hand is lost. */
let browser: Browser;
let kiln: RunningStandin;
let server: RunningServer;
let bench: Screen;
const data = newFolder();
const files = newFolder();
const firstVersion = readFileSync('demo/kiln-process.csv', 'utf8');

beforeAll(async () => {
  const port = await freePort();
  [browser, kiln] = await Promise.all([openBrowser(), startKiln()]);
  server = await startServer(data.folder, port, ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`]);
  bench = await Screen.open(browser, `${server.address}/lists`);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop()]);
  data.remove();
  files.remove();
});

async function choose(name: string, content: string | Uint8Array, field = 'Tag list file'): Promise<void> {
  const path = join(files.folder, name);
  writeFileSync(path, content);
  const input = (await bench.field(field)) as unknown as { uploadFile(path: string): Promise<void> };
  await input.uploadFile(path);
}
const tags = async (): Promise<readonly { id: string; name: string; type: string; comment: string }[]> =>
  ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: { id: string; name: string; type: string; comment: string }[] }).tags;
const tick = async (label: string): Promise<void> => (await bench.find(`input[aria-label="${label}"]`)).click();
const part = (words: string): Promise<void> => bench.press(words, '[role=tablist]');
const secondVersion = (): string =>
  firstVersion
    .split('\n')
    .filter((line) => !line.startsWith('sack_count,') && !line.startsWith('steam_press_sp,'))
    .map((line) => line.replace(/^bed_temp_in,/, 'bed_temp_infeed,').replace(/^bed_temp_mid,(\d+),INT/, 'bed_temp_mid,$1,DINT'))
    .concat('oat_flow,40300,REAL,R,kg/h,0,500,Flow,"Flow of oats"')
    .join('\n');

describe('the second version of a list', () => {
  test('shows each kind of change, and what uses the tags', async () => {
    await choose('kiln-process.csv', secondVersion());
    await bench.sees('Import 5 changes');
    await bench.sees('Renamed or moved?\n1', '[role=tablist]');
    await bench.sees('bed_temp_infeed', '[data-tag="bed_temp_in"]');
    await bench.sees('a scale', '[data-tag="bed_temp_in"]');
    await part('Changed');
    await bench.sees('held back', '[data-tag="bed_temp_mid"]');
    await bench.sees('1 panel element', '[data-tag="bed_temp_mid"]');
    await part('Gone');
    await bench.sees('kept and marked', '[data-tag="steam_press_sp"]');
    await bench.sees('removed', '[data-tag="sack_count"]');
    await part('New');
    await bench.find('[data-tag="oat_flow"]');
  });
  test('a rename is made with a yes alone; another length that is not accepted is held back', async () => {
    const before = await tags();
    await part('Renamed or moved?');
    await tick('bed_temp_in became bed_temp_infeed');
    await bench.press('Import 4 changes');
    await bench.sees('imported again');
    const after = await tags();
    const idOf = (all: typeof after, name: string): string | undefined => all.find((t) => t.name === name)?.id;
    expect(idOf(after, 'bed_temp_infeed')).toBe(idOf(before, 'bed_temp_in'));
    expect(after.find((t) => t.name === 'bed_temp_mid')?.type).toBe('INT');
    expect([idOf(after, 'sack_count'), idOf(after, 'steam_press_sp')]).toEqual([undefined, idOf(before, 'steam_press_sp')]);
    await bench.press('Versions');
    await until('both versions are listed', async () => (await bench.page.$$('[aria-label="Lists imported"] li')).length === 2);
  });
  test('the same file again tells what was held back, and accepting it takes it', async () => {
    await choose('kiln-process.csv', secondVersion(), 'New version of kiln-process.csv');
    await bench.sees('Changed\n1', '[role=tablist]');
    await tick('Accept the other type of bed_temp_mid');
    await bench.press('Import 1 change');
    await until('the type is taken', async () => (await tags()).find((t) => t.name === 'bed_temp_mid')?.type === 'DINT');
  });
  test('undo takes each import back as a whole', async () => {
    for (let i = 0; i < 2; i++) {
      await bench.page.keyboard.down('Control');
      await bench.page.keyboard.press('z');
      await bench.page.keyboard.up('Control');
      await new Promise((resolve) => setTimeout(resolve, 400));
    }
    await until('everything is as it was', async () => {
      const names = (await tags()).map((t) => `${t.name} ${t.type}`);
      return (
        names.includes('bed_temp_in INT') &&
        names.includes('bed_temp_mid INT') &&
        names.includes('sack_count UDINT bcd') &&
        !names.join().includes('oat_flow')
      );
    });
  });
});

describe('a list of another kind', () => {
  test('in Windows-1252 with German headings below a title, a bad row excluded by a tick', async () => {
    const text =
      'Export;;;\n\nBezeichner;Adresse;Datentyp;Bemerkung\nLuefter;40401;UINT;Lüfter über dem Ofen für die Kühlung\nFalsch;40402;NOPE;Größe\n';
    await choose('antriebe.csv', iconv.encode(text, 'windows-1252'));
    await bench.sees('1 row understood · 1 not', '[data-preview-count]');
    await bench.sees('Lüfter über dem Ofen', '[data-accented]');
    expect(await bench.page.$$eval('button', (all) => all.filter((b) => b.innerText.startsWith('Import') && !b.disabled).length)).toBe(0);
    await (await bench.find('[role=alert] input[type=checkbox]')).click();
    await bench.press('Import 1 tag');
    await until('it is there', async () => (await tags()).some((t) => t.name === 'Luefter' && t.comment.startsWith('Lüfter über')));
  });
  test('without headings the columns can be chosen', async () => {
    await choose('plain.csv', 'alpha one,40501,INT\nbeta two,40502,INT\n');
    await bench.sees('No column holds the name');
    await bench.choose('What column 1 holds', 'name');
    await bench.sees('2 rows understood', '[data-preview-count]');
    await bench.press('Discard');
  });
  test('a rule imports what fits, now and by itself in the next version', async () => {
    const rows = (more: string): string => `Name,Address,Type\nL2.a,40601,INT\nL2.a_tmp,40602,INT\nL3.b,40603,INT\n${more}`;
    await choose('lines.csv', rows(''));
    await bench.press('Selection');
    await bench.fill('Include', 'L2.*');
    await bench.page.keyboard.press('Enter');
    await bench.sees('1 excluded', '[data-preview-count]');
    await bench.fill('Exclude', '*_tmp');
    await bench.page.keyboard.press('Enter');
    await bench.sees('2 excluded', '[data-preview-count]');
    await bench.press('Import 1 tag');
    await bench.sees('lines.csv', 'table');
    await choose('lines.csv', rows('L2.c,40604,INT\n'), 'New version of lines.csv');
    await bench.press('Import 1 change');
    await until('the new one is in', async () => (await tags()).some((t) => t.name === 'L2.c'));
    expect((await tags()).some((t) => t.name === 'L3.b' || t.name === 'L2.a_tmp')).toBe(false);
  });
});

describe('a hundred thousand rows', () => {
  const rows = Array.from({ length: 100_000 }, (_, i) => `big_${i},HR${i % 60_000},INT,°C,0,100,Bulk,"Row ${i}"`);
  const big = `Name,Address,Type,Unit,Low,High,Group,Comment\n${rows.join('\n')}\n`;
  test('show how far they are, and can be cancelled with nothing changed', async () => {
    const before = (await tags()).length;
    await choose('big.csv', big);
    await bench.find('progress');
    await bench.press('Cancel');
    await bench.sees('kiln-process.csv', 'table');
    expect(await tags()).toHaveLength(before);
  });
  test('come in as one change, with the page usable meanwhile, and go with one undo', async () => {
    const before = (await tags()).length;
    await choose('big.csv', big);
    await bench.sees('100000 rows understood', '[data-preview-count]');
    await bench.press('Import 100000 tags');
    await bench.find('progress');
    await until('they are in', async () => (await bench.text('body')).includes('100000 tags imported from big.csv'), 180_000);
    expect(await tags()).toHaveLength(before + 100_000);
    await fetch(`${server.address}/api/v1/undo`, { method: 'POST' });
    expect(await tags()).toHaveLength(before);
  }, 400_000);
});
