import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { listFile, WRITTEN_FORMATS, type WrittenFormat, type WrittenTag } from '../tests/support/listFiles.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

/** Each format from a file, and its second version with every kind of change. */
let browser: Browser;
let kiln: RunningStandin;
let server: RunningServer;
let bench: Screen;
const data = newFolder();
const files = newFolder();

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

interface StoredTag {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly source: { readonly address: string };
}
const tags = async (): Promise<readonly StoredTag[]> =>
  ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: StoredTag[] }).tags;
const devices = async (): Promise<readonly { id: string }[]> =>
  ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { devices: { id: string }[] }).devices;
const qualityOf = async (id: string): Promise<string | undefined> => {
  const told = (await (await fetch(`${server.address}/api/v1/values`)).json()) as { values: { tagId: string; quality: string }[] };
  return told.values.find((v) => v.tagId === id)?.quality;
};

async function choose(name: string, content: string | Uint8Array, field = 'Tag list file'): Promise<void> {
  const path = join(files.folder, name);
  writeFileSync(path, content);
  const input = (await bench.field(field)) as unknown as { uploadFile(path: string): Promise<void> };
  await input.uploadFile(path);
}
const tick = async (label: string): Promise<void> => (await bench.find(`input[aria-label="${label}"]`)).click();
const part = (words: string): Promise<void> => bench.press(words, '[role=tablist]');

const first = (of: string): readonly WrittenTag[] => [
  { name: `${of}_speed`, word: 24, type: 'INT', comment: 'Speed of the fan' },
  { name: `${of}_press`, word: 80, type: 'REAL', comment: 'Pressure in the header' },
  { name: `${of}_batch`, word: 60, type: 'STRING(10)', comment: 'Name of the batch' },
  { name: `${of}_old`, word: 26, type: 'INT', comment: 'Trim of the zone' },
  { name: `${of}_gone`, word: 27, type: 'INT', comment: 'Not needed any more' },
];
const second = (of: string): readonly WrittenTag[] => [
  { name: `${of}_speed`, word: 24, type: 'INT', comment: 'Speed of the exhaust fan' },
  { name: `${of}_press`, word: 82, type: 'REAL', comment: 'Pressure in the header' },
  { name: `${of}_batch`, word: 60, type: 'STRING(20)', comment: 'Name of the batch' },
  { name: `${of}_new`, word: 26, type: 'INT', comment: 'Trim of the zone' },
  { name: `${of}_added`, word: 30, type: 'INT', comment: 'Came with the update' },
];

describe.each(WRITTEN_FORMATS)('a list as %s', (format: WrittenFormat) => {
  const file = `mill-${format}.${format}`;
  const named = async (name: string): Promise<StoredTag | undefined> => (await tags()).find((t) => t.name === `${format}_${name}`);
  test('comes in from a file, and its tags are read', async () => {
    await choose(file, await listFile(format, first(format)));
    await bench.sees('5 rows understood', '[data-preview-count]');
    await bench.press('Import 5 tags');
    await until('it is in', async () => (await named('press')) !== undefined);
    const id = (await named('speed'))?.id ?? '';
    await until('its value is read', async () => (await qualityOf(id)) === 'good');
  });
  test('its second version tells every kind of change, and holds another length back', async () => {
    const before = await named('old');
    await choose(file, await listFile(format, second(format), '2'), `New version of ${file}`);
    await bench.sees(`${format}_new`, `[data-tag="${format}_old"]`);
    await tick(`${format}_old became ${format}_new`);
    await part('Changed');
    await bench.sees('held back', `[data-tag="${format}_batch"]`);
    await bench.sees('STRING(20)', `[data-tag="${format}_batch"]`);
    await bench.sees('Speed of the exhaust fan', `[data-tag="${format}_speed"]`);
    await bench.sees('address', `[data-tag="${format}_press"]`);
    await part('Gone');
    await bench.find(`[data-tag="${format}_gone"]`);
    await part('New');
    await bench.find(`[data-tag="${format}_added"]`);
    await bench.press('Import 5 changes');
    await until('it is in', async () => (await named('added')) !== undefined);
    expect([(await named('new'))?.id, (await named('gone'))?.id, (await named('batch'))?.type]).toEqual([before?.id, undefined, 'STRING(10)']);
  });
  test('a length that is accepted is taken; undo takes both imports back', async () => {
    await choose(file, await listFile(format, second(format), '2'), `New version of ${file}`);
    await bench.sees('Changed\n1', '[role=tablist]');
    await tick(`Accept the other type of ${format}_batch`);
    await bench.press('Import 1 change');
    await until('the length is taken', async () => (await named('batch'))?.type === 'STRING(20)');
    for (let i = 0; i < 2; i++) await fetch(`${server.address}/api/v1/undo`, { method: 'POST' });
    expect(
      (await tags())
        .filter((t) => t.name.startsWith(`${format}_`))
        .map((t) => `${t.name} ${t.type}`)
        .sort(),
    ).toEqual(
      first(format)
        .map((t) => `${t.name} ${t.type}`)
        .sort(),
    );
  });
});

describe('a list of declarations', () => {
  const text = (more: string): string => `{VERSION 1.0}
TYPE Stand : STRUCT
    Gap : INT; (* gap between the rolls *)
    Amps : REAL; {panel}
    Mode : UINT (Off := 0, Grind := 1);
  END_STRUCT;
END_TYPE
VAR_GLOBAL
  Stands AT %MW24 : ARRAY [1..2] OF Stand;
  Line2_temp_tmp AT %MW5 : INT;
${more}END_VAR
`;
  test('shows groups, structures and arrays with counts; clicks on them write a rule', async () => {
    await choose('stands.st', text(''));
    await bench.sees('7 rows understood', '[data-preview-count]');
    await bench.sees('This list may be old', '[data-old-list]');
    await bench.press('Selection');
    await bench.sees('6 of 6', '[role=tree]');
    await (await bench.find('button[aria-pressed]')).click();
    await bench.sees('1 excluded', '[data-preview-count]');
    await (await bench.find('button[aria-label="Open Stands"]')).click();
    await tick('Import Stands[2].*');
    await bench.sees('4 excluded', '[data-preview-count]');
    await bench.press('Reading options');
    await bench.choose('Structure layout', 'words');
    await bench.sees('HR24', '[data-row]');
    await bench.press('Import 3 tags');
    await until('they are in', async () => (await tags()).some((t) => t.name === 'Stands[1].Gap' && t.source.address === 'HR24'));
  });
  test('the rule brings new members in by itself', async () => {
    await choose('stands.st', text('').replace('Mode : UINT', 'Hours : UDINT;\n    Mode : UINT'), 'New version of stands.st');
    await bench.press('Import 2 changes');
    await until('the new one is in', async () => (await tags()).some((t) => t.name === 'Stands[1].Hours'));
    expect((await tags()).some((t) => t.name.startsWith('Stands[2]') || t.name === 'Line2_temp_tmp')).toBe(false);
  });
  test('any two versions can be compared', async () => {
    await bench.go('Lists');
    await (await bench.find('tr:has(input[aria-label="New version of stands.st"]) button')).click();
    await until('both are listed', async () => (await bench.page.$$('[aria-label="Lists imported"] li')).length === 2);
    for (const box of await bench.page.$$('[aria-label="Lists imported"] li input')) await box.click();
    await bench.press('Compare the two');
    await bench.sees('stands.st', '[data-compared]');
    await part('New');
    await bench.find('[data-tag="Stands[1].Hours"]');
    await bench.press('Close', 'main');
    await bench.sees('stands.st', 'table');
  });
  test('an enumeration is said once: a value that gets another name has it in every tag and no two may have one', async () => {
    const names = async (name: string): Promise<string> => {
      const told = (await (await fetch(`${server.address}/api/v1/project`)).json()) as {
        tags: { name: string; names: { value: number; name: string }[] }[];
      };
      return (told.tags.find((t) => t.name === name)?.names ?? []).map((n) => `${n.value}=${n.name}`).join(' ');
    };
    await choose(
      'modes.st',
      'TYPE Duty : (Off, Grind := 4) INT; END_TYPE\nVAR_GLOBAL\n  duty_1 AT %MW30 : Duty;\n  duty_2 AT %MW31 : Duty;\nEND_VAR\n',
    );
    await bench.press('Import 2 tags');
    await until('they are in', async () => (await names('duty_2')) === '0=Off 4=Grind');
    await bench.go('Map');
    await bench.press('Types');
    const id = ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { enumerations: { id: string }[] }).enumerations[0]?.id ?? '';
    await bench.choose('Type', id, 'dialog');
    await bench.sees('2 tags: duty_1, duty_2', 'dialog');
    await bench.fill('Name of 4', 'Milling', 'dialog');
    await bench.page.keyboard.press('Enter');
    await until('both follow', async () => (await names('duty_1')) === '0=Off 4=Milling' && (await names('duty_2')) === '0=Off 4=Milling');
    await bench.fill('Name of 0', 'Milling', 'dialog');
    await bench.page.keyboard.press('Enter');
    await bench.sees('“Milling” names two values.');
    expect(await names('duty_1')).toBe('0=Off 4=Milling');
    // What was refused does not stand there as if it had been taken.
    await until('it is put back', async () => (await (await bench.field('Name of 0', 'dialog')).evaluate((f) => f.value)) === 'Off', 5000);
    await bench.press('Close', 'dialog');
    await bench.go('Lists');
  });
  test('a mistake is told with its line and column, and nothing can be taken', async () => {
    await choose('broken.st', 'VAR_GLOBAL\n  a AT %MW1 INT;\n  b AT %MW2 : INT;\nEND_VAR\n');
    await bench.sees('line 2, column 13', 'main');
    await bench.sees('1 row understood · 1 not', '[data-preview-count]');
    expect(await bench.page.$$eval('button', (all) => all.filter((b) => b.innerText.startsWith('Import') && !b.disabled).length)).toBe(0);
    await bench.press('Discard');
  });
  test('a workbook that keeps the bit of a word as a number is refused there, with the reason', async () => {
    const { default: write } = await import('write-excel-file/node');
    const row = (name: string, address: string | number): object[] => [
      { value: name, type: String },
      { value: address, type: typeof address === 'number' ? Number : String },
      { value: 'BOOL', type: String },
    ];
    const sheet = [row('Name', 'Address'), row('bit_ten', 40010.1), row('bit_two', '40010.2')];
    sheet[0]?.splice(2, 1, { value: 'Type', type: String });
    await choose('bits.xlsx', new Uint8Array(await write(sheet as never).toBuffer()));
    await bench.sees('1 row understood · 1 not', '[data-preview-count]');
    await bench.sees('which bit is meant cannot be known', '[data-row="2"]');
    await bench.press('Discard');
  });
});

describe('a device that lists its own tags', () => {
  test('is asked, and what it lists comes in like any other list', async () => {
    await bench.press('Ask KILN for its tags');
    await bench.sees('4 rows understood', '[data-preview-count]');
    await bench.press('Import 4 tags');
    await until('they are in', async () => (await tags()).some((t) => t.name === 'own.batch_time'));
    const id = (await tags()).find((t) => t.name === 'own.mode')?.id ?? '';
    await until('its value has a name', async () => {
      const told = (await (await fetch(`${server.address}/api/v1/values`)).json()) as { values: { tagId: string; text: string }[] };
      return told.values.find((v) => v.tagId === id)?.text === 'automatic';
    });
    await bench.press('Ask KILN for its tags');
    await bench.sees('4 unchanged');
    await bench.press('Discard');
  });
  test('one that keeps no list says so', async () => {
    await fetch(`${server.address}/api/v1/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        id: uuid(),
        label: 'another file',
        changes: [{ kind: 'device', id: (await devices())[0]?.id, set: { dialect: { locations: 'words', listFile: 7 } } }],
      }),
    });
    await new Promise((resolve) => setTimeout(resolve, 1000));
    await bench.press('Ask KILN for its tags');
    await bench.sees('does not give file 7', '[role=alert]');
  });
});
