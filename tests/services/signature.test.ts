/** The block of known values over real sockets: a controller that can be of any make runs the program that we wrote. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { signatureText } from '@/core/signature/text.ts';
import type { SignatureReading } from '@/core/live/signatureReading.ts';
import type { Result } from '@/core/result.ts';
import { openBench, type Bench } from '../support/services.ts';
import { startStandin, type RunningStandin } from '../support/standin.ts';
import { newTag } from '../support/newTag.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let scratch: RunningStandin;
const [linkId, deviceId, tagId] = [uuid(), uuid(), uuid()];
const read = (word: number, reference = ''): Promise<Result<SignatureReading>> =>
  bench.services.signatures.read(deviceId, { word, reference }, new AbortController().signal);

beforeAll(async () => {
  [bench, scratch] = await Promise.all([openBench(), startStandin('scratch')]);
  await bench.change('scratch', [
    { kind: 'link', id: linkId, set: { name: 'Bench', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: scratch.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'SCRATCH', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'tag', id: tagId, set: { ...newTag(deviceId, 'first', 'HR1'), access: 'read' } },
  ]);
  await until('it answers', () => bench.services.engine.live.get(tagId)?.quality.level === 'good');
});
afterAll(async () => {
  await bench.close();
  await scratch.stop();
});

test('before its program runs nothing is found, and it is said where to look', async () => {
  const done = await read(100);
  expect(done.ok ? null : [done.problem.code, done.problem.place]).toEqual(['signature', 'word']);
});

test('a controller of bytes, with its memory 12 registers on and everything swapped, is read right after one reading', async () => {
  await scratch.order({
    set: {
      layout: {
        firstRegister: 12, counts: 'bytes', order16: 'AB', order32: 'CDAB', order64: 'GHEFCDAB', orderText: 'BA',
        structures: 'aligned', flags: 'bytes', texts: 'capacity-length', bitFrom: 'most', bitBase: 1,
      },
    },
  }); // prettier-ignore
  await scratch.set('program', signatureText('%MW200'));
  const done = await read(200, '40113');
  if (!done.ok) throw new Error(done.problem.message);
  expect(done.value.settings).toEqual({
    memoryName: '%MW', memoryStart: 12, locations: 'bytes', countingBase: 1, order16: 'AB', order32: 'CDAB', order64: 'GHEFCDAB', orderText: 'BA',
    bitFrom: 'most', bitBase: 1, textLayout: 'capacity-length', structures: 'aligned',
  }); // prettier-ignore
  expect(done.value.evidence.every(({ found, seen }) => found !== null && seen !== '')).toBe(true);

  // What was learnt reads the block by its own addresses: the double word behind the three marks and two bytes of padding.
  await bench.change('learnt', [{ kind: 'device', id: deviceId, set: { dialect: done.value.settings } }]);
  const [whole, real] = [uuid(), uuid()];
  await bench.change('tags', [
    { kind: 'tag', id: whole, set: { ...newTag(deviceId, 'whole', '%MD208'), type: 'DWORD', access: 'read' } },
    { kind: 'tag', id: real, set: { ...newTag(deviceId, 'real', '%MD212'), type: 'REAL', access: 'read' } },
  ]);
  const textOf = (id: string): string => bench.services.engine.live.get(id)?.text ?? '';
  await until('they are right', () => textOf(whole) === String(0x91a3_b5c7) && textOf(real) === '123.456');
});

test('a wrong number of the manual is told, and a device that is gone', async () => {
  const done = await read(200, '40999');
  expect(done.ok ? null : [done.problem.code, done.problem.place]).toEqual(['signature-reference', 'reference']);
  const gone = await bench.services.signatures.read(uuid(), { word: 1, reference: '' }, new AbortController().signal);
  expect(gone.ok ? null : gone.problem.code).toBe('gone');
});
