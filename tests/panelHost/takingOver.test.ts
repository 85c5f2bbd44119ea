/** A project is taken over whole or not at all, and what ran before runs on or comes back. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { v4 as uuid } from 'uuid';
import { FakeClock } from '../support/fakeClock.ts';
import { hostedPanel, sendTo } from '../support/hostedPanel.ts';
import { openHost, type HostHere, type PairedHere } from '../support/hostHere.ts';
import { newFolder } from '../support/server.ts';

let folder = '';
let remove = (): void => undefined;
let at: HostHere;
let bench: PairedHere;
const [OLD, NEW] = [hostedPanel('old'), hostedPanel('new')];
beforeEach(async () => {
  ({ folder, remove } = newFolder());
  at = await openHost(folder);
  bench = await at.pair('bench');
});
afterEach(async () => {
  await at.close();
  remove();
});
const runs = (): string | undefined => at.host.running?.services.model.all('element')[0]?.label;
const crash = async (more: Parameters<typeof openHost>[1] = {}): Promise<void> => {
  await at.crash();
  at = await openHost(folder, more);
};
const reopen = async (more: Parameters<typeof openHost>[1] = {}): Promise<void> => {
  await at.close();
  at = await openHost(folder, more);
};
const problem = (code: string) => ({ ok: false, problem: expect.objectContaining({ code }) });

describe('taking over', () => {
  test('the first, another one, and after a restart what came last', async () => {
    expect(await sendTo(bench, OLD, null)).toMatchObject({ ok: true, value: { phase: 'trying', hosted: { digest: OLD.digest, sentBy: 'bench' } } });
    expect(runs()).toBe('old');
    expect((await sendTo(bench, NEW, OLD.digest)).ok).toBe(true);
    expect(runs()).toBe('new');
    await reopen();
    expect(runs()).toBe('new');
  });

  test('what somebody else has sent meanwhile is not replaced unseen', async () => {
    await sendTo(bench, OLD, null);
    const other = await at.pair('other bench');
    expect((await sendTo(other, NEW, OLD.digest)).ok).toBe(true);
    const refused = await sendTo(bench, hostedPanel('third'), OLD.digest);
    expect(refused).toMatchObject({ problem: { code: 'changed-elsewhere', message: expect.stringContaining('was sent from other bench') } });
    expect(runs()).toBe('new');
  });

  test('two that are sent at the same moment: one is taken, the other refused, never a mixture', async () => {
    const other = await at.pair('other bench');
    const done = await Promise.all([sendTo(bench, OLD, null), sendTo(other, NEW, null)]);
    expect(done.filter(({ ok }) => ok)).toHaveLength(1);
    expect(runs()).toBe(done[0]?.ok ? 'old' : 'new');
  });

  test('a part that is missing, that comes twice, or that is another: nothing is taken', async () => {
    await sendTo(bench, OLD, null);
    const transfer = uuid();
    const bytes = Buffer.from(NEW.zip).toString('base64');
    expect(await bench.call('part', { transfer, from: 100, bytes })).toMatchObject(problem('lost'));
    expect((await bench.call('part', { transfer, from: 0, bytes })).ok).toBe(true);
    expect(await bench.call('part', { transfer, from: 0, bytes })).toMatchObject(problem('lost'));
    const take = { transfer, panelId: NEW.panelId, replaces: OLD.digest, pins: [], secrets: [] };
    expect(await bench.call('take', { ...take, sha256: OLD.sha256, digest: NEW.digest })).toMatchObject(problem('damaged'));
    // It was thrown away.
    expect(await bench.call('take', { ...take, sha256: NEW.sha256, digest: NEW.digest })).toMatchObject(problem('lost'));
    expect(runs()).toBe('old');
  });

  test('what is no project, has not the panel, or no start page is refused before anything stops', async () => {
    await sendTo(bench, OLD, null);
    const before = at.host.running;
    const second = { kind: 'page' as const, id: uuid(), set: { panelId: OLD.panelId, name: 'Second', position: 1 } };
    expect(await sendTo(bench, hostedPanel('new', [second]), OLD.digest)).toMatchObject(problem('no-start-page'));
    expect(await sendTo(bench, { ...NEW, panelId: uuid() }, OLD.digest)).toMatchObject(problem('no-panel'));
    const garbage = Buffer.from('no zip at all');
    expect((await sendTo(bench, { ...NEW, zip: garbage }, OLD.digest)).ok).toBe(false);
    const link = { kind: 'link' as const, id: uuid(), set: { name: 'Odd', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } } };
    const strange = hostedPanel('new', [link], (filed) => ({ ...filed, links: filed.links.map((one) => ({ ...one, driver: 'from-the-future' })) }));
    expect(await sendTo(bench, strange, OLD.digest)).toMatchObject({ ok: false, problem: { message: 'No driver “from-the-future” is known here.' } });
    expect(at.host.running).toBe(before);
  });

  test('on a full disk it is refused, and what ran runs on', async () => {
    await sendTo(bench, OLD, null);
    symlinkSync('/dev/full', join(folder, 'projects', `${NEW.digest}.zip.new-${process.pid}`));
    expect(await sendTo(bench, NEW, OLD.digest)).toMatchObject(problem('disk-full'));
    expect(runs()).toBe('old');
    await reopen();
    expect(runs()).toBe('old');
    // It is seen before, too, where the system tells how much room there is.
    await at.close();
    at = await openHost(folder, { free: async () => 5_000_000 });
    expect(await sendTo(await at.pair('bench'), NEW, OLD.digest)).toMatchObject(problem('disk-full'));
  });
});

describe('going back', () => {
  test('one that was started twice and did not run for ten seconds gives way', async () => {
    const clock = new FakeClock();
    await reopen({ clock });
    bench = await at.pair('bench');
    await sendTo(bench, OLD, null);
    await clock.pass(11_000);
    await until(() => at.folder.current.tries === null);
    await sendTo(bench, NEW, OLD.digest);
    // Who ends it in order, and starts it again, has seen nothing fail.
    for (let i = 0; i < 4; i++) await reopen({ clock });
    await crash({ clock });
    expect(runs()).toBe('new');
    await crash({ clock });
    expect(runs()).toBe('old');
    const state = await at.host.state();
    expect(state.rolledBack).toMatchObject({ digest: NEW.digest, why: expect.stringContaining('started 2 times') });
    // Once told of, and sent again, it is tried again.
    expect((await sendTo(await at.pair('bench'), NEW, OLD.digest)).ok).toBe(true);
    expect((await at.host.state()).rolledBack).toBeNull();
  });

  test('one that has run for ten seconds stays, however often the power is cut then', async () => {
    const clock = new FakeClock();
    await reopen({ clock });
    bench = await at.pair('bench');
    await sendTo(bench, OLD, null);
    await sendTo(bench, NEW, OLD.digest);
    await clock.pass(11_000);
    await until(() => at.folder.current.tries === null);
    for (let i = 0; i < 4; i++) await crash({ clock });
    expect(runs()).toBe('new');
    expect(readdirSync(join(folder, 'projects')).sort()).toEqual([`${NEW.digest}.zip`, `${OLD.digest}.zip`].sort());
  });

  test('one whose file the disk has lost gives way; without any the host is empty, and says why', async () => {
    await sendTo(bench, OLD, null);
    await sendTo(bench, NEW, OLD.digest);
    await at.close();
    writeFileSync(join(folder, 'projects', `${NEW.digest}.zip`), 'lost');
    at = await openHost(folder);
    expect(runs()).toBe('old');
    await at.close();
    writeFileSync(join(folder, 'projects', `${OLD.digest}.zip`), 'lost too');
    at = await openHost(folder);
    expect(at.host.running).toBeNull();
    expect(await at.host.state()).toMatchObject({ phase: 'empty', hosted: null, rolledBack: { digest: OLD.digest } });
  });

  test('a person goes back, and forth again', async () => {
    await sendTo(bench, OLD, null);
    await sendTo(bench, NEW, OLD.digest);
    expect((await bench.call('back', { replaces: NEW.digest })).ok).toBe(true);
    expect(runs()).toBe('old');
    expect(await bench.call('back', { replaces: NEW.digest })).toMatchObject(problem('changed-elsewhere'));
    expect((await bench.call('back', { replaces: OLD.digest })).ok).toBe(true);
    expect(runs()).toBe('new');
  });
});

test('what was kept stays, whatever is sent, and a restart writes nothing', async () => {
  await sendTo(bench, OLD, null);
  const { services } = at.host.running ?? { services: null };
  const done = await services?.writes.write({ id: uuid(), tagId: OLD.localId, value: '41', writer: 'panel' });
  expect(done).toMatchObject({ ok: true, value: { state: 'done' } });
  const text = (): string | undefined => at.host.running?.services.engine.live.get(OLD.localId)?.text;
  await sendTo(bench, NEW, OLD.digest);
  expect(text()).toBe('41');
  const log = at.host.running?.services.writes;
  expect(await log?.log({ limit: 10 })).toHaveLength(1);
  await reopen();
  expect(text()).toBe('41');
  expect(await at.host.running?.services.writes.log({ limit: 10 })).toHaveLength(1);
});

test('what runs is read back byte by byte as it was sent', async () => {
  await sendTo(bench, NEW, null);
  const read = await bench.call('read', { from: 0 });
  expect(read).toMatchObject({ ok: true, value: { size: NEW.zip.length, digest: NEW.digest } });
  expect(read.ok && Buffer.from(read.value.bytes, 'base64').equals(NEW.zip)).toBe(true);
});

async function until(holds: () => boolean): Promise<void> {
  for (let i = 0; i < 200 && !holds(); i++) await new Promise((resolve) => setTimeout(resolve, 10));
  expect(holds()).toBe(true);
}
