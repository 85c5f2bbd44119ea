import { expect, test } from '@jest/globals';
import { NetworkFile } from '@/store/files/hostFiles.ts';
import { NetworkService } from '@/services/networkService.ts';
import { fail, ok } from '@/core/result.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { newFolder } from '../support/server.ts';

test('a machine that comes up before its network is opened to it once it is there, and after the next start too', async () => {
  const { folder, remove } = newFolder();
  let isThere = true;
  const listen = async () => (isThere ? ok(null) : fail('listen', 'This machine has no such address.'));
  const open = async (): Promise<NetworkService> => {
    const made = new NetworkService(await NetworkFile.open(folder), { port: 4790, listen }, new FakeClock());
    await made.load();
    return made;
  };
  let network = await open();
  await network.change({ open: true, address: '192.0.2.30', names: [] });
  isThere = false;
  network = await open();
  expect(await network.resume()).toMatchObject({ code: 'listen' });
  expect(network.state()).toMatchObject({ open: false, url: null });
  isThere = true;
  expect(await network.resume()).toBeNull();
  expect(network.state().url).toBe('http://192.0.2.30:4790');
  network = await open();
  expect(network.settings.open).toBe(true);
  // Closed by a person it stays closed.
  await network.change({ open: false, address: '192.0.2.30', names: [] });
  network = await open();
  expect(await network.resume()).toBeNull();
  expect(network.state().url).toBeNull();
  remove();
});
