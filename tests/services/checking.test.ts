import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DrawnText } from '@/services/checks/drawnPages.ts';
import { pointSet } from '../support/pointSet.ts';
import { v7 as uuid } from 'uuid';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { FaultyServer } from '../support/faultyServer.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { startKiln, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let kiln: RunningStandin;
let small: SmallProject;
const elementId = uuid();
/** What the page in this test says that it drew. */
let drawn: (sample: number, text: string) => DrawnText[] = () => [];

beforeAll(async () => {
  kiln = await startKiln();
  bench = await openBench(undefined, async () => {
    const sample = bench.services.engine.live.get(small.tagId);
    return drawn(sample?.n ?? 0, sample?.text ?? '');
  });
  small = await smallProject(
    bench,
    kiln.modbusPort,
    { name: 'bed_temp', address: 'HR17', type: 'REAL', order: 'CDAB', unit: '°C', decimals: 1 },
    { witnessUrl: kiln.controlUrl },
  );
  const [panelId, pageId] = [uuid(), uuid()];
  await bench.change('page', [
    { kind: 'panel', id: panelId, set: { name: 'P' } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
    { kind: 'element', id: elementId, set: { pageId, kind: 'value', tagId: small.tagId, label: '', x: 0, y: 0, w: 200, h: 64, settings: {} } },
  ]);
  await until('the tag is read', () => (bench.services.engine.live.get(small.tagId)?.eng ?? null) !== null);
});
afterAll(async () => {
  await bench.close();
  await kiln.stop();
});

const check = async (witness: Parameters<Bench['services']['checks']['check']>[1]) => {
  const done = await bench.services.checks.check(small.tagId, witness);
  if (!done.ok) throw new Error(done.problem.message);
  return done.value;
};
const current = (): string | undefined => bench.services.checks.proofs.current(small.tagId)?.outcome;

describe('a check', () => {
  test('compares what a page drew with the very sample it drew it from', async () => {
    drawn = (sample, text) => [{ elementId, text, sample, visibility: 'visible', language: null }];
    expect(await check({ kind: 'none' })).toMatchObject({ consistent: true, proof: null });
    drawn = (sample) => [{ elementId, text: '999.9', sample, visibility: 'visible', language: null }];
    expect(await check({ kind: 'none' })).toMatchObject({ consistent: false, pages: [{ verdict: 'differs', drawn: '999.9' }] });
  });
  test('a hidden page and a sample that is gone prove nothing', async () => {
    drawn = (sample, text) => [{ elementId, text, sample, visibility: 'hidden', language: null }];
    expect(await check({ kind: 'none' })).toMatchObject({ consistent: null, pages: [{ verdict: 'hidden' }] });
    drawn = (_sample, text) => [{ elementId, text, sample: 1, visibility: 'visible', language: null }];
    expect(await check({ kind: 'none' })).toMatchObject({ consistent: null, pages: [{ verdict: 'sample-gone' }] });
  });
  test('agreement of wire and panel alone is no proof', () => {
    expect(current()).toBeUndefined();
  });
  test('the control channel of the simulated process is a witness, and a change ends the proof until it is undone', async () => {
    expect((await check({ kind: 'control', who: 'R. Vale' })).proof).toMatchObject({ outcome: 'proven', witness: 'channel' });
    expect(current()).toBe('proven');
    await bench.change('order', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { order: 'ABCD' }) }]);
    expect(current()).toBeUndefined();
    await bench.services.projects.step('undo');
    expect(current()).toBe('proven');
    await bench.change('comment', [{ kind: 'tag', id: small.tagId, set: { comment: 'no part of the path' } }]);
    expect(current()).toBe('proven');
  });
  test('a wrong order fails before the witness, and the right one is offered', async () => {
    await bench.change('order', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { order: 'ABCD' }) }]);
    await until('read anew', () => bench.services.engine.live.get(small.tagId)?.text !== '');
    const result = await check({ kind: 'control', who: 'R. Vale' });
    expect(result.proof?.outcome).toBe('failed');
    expect(result.explanations[0]).toMatchObject({ kinds: ['order'], cure: { order: 'CDAB', moveBy: 0 } });
    expect(result.isUnexplained).toBe(false);
    await bench.services.projects.step('undo');
  });
  test('proofs survive a restart', async () => {
    bench = await bench.reopen();
    expect(current()).toBe('proven');
  });
  test('a typed value is a witness within its last place; nonsense is refused at its field', async () => {
    await until('the tag is read', () => (bench.services.engine.live.get(small.tagId)?.eng ?? null) !== null);
    await kiln.hold(true);
    await new Promise((resolve) => setTimeout(resolve, 300));
    const seen = Number(await kiln.value('bed_temp')).toFixed(1);
    expect((await check({ kind: 'typed', text: seen, who: 'R. Vale' })).proof?.outcome).toBe('proven');
    expect(await bench.services.checks.check(small.tagId, { kind: 'typed', text: 'warm', who: 'R. Vale' })).toMatchObject({
      ok: false,
      problem: { place: 'witness' },
    });
    // A gauge may be off: what it may be off by is said, and what lies within says nothing against mistakes that show the same there.
    const off = (Number(seen) + 0.7).toFixed(1);
    expect((await check({ kind: 'typed', text: off, who: 'R. Vale', where: 'gauge' })).proof?.outcome).toBe('failed');
    const allowed = (await check({ kind: 'typed', text: off, who: 'R. Vale', where: 'gauge', how: 'injected', tolerance: 0.8 })).proof;
    expect(allowed).toMatchObject({ outcome: 'proven', more: { how: 'injected' } });
    expect(allowed?.seen.sentence).toContain('Within ± 0.8 °C');
    await kiln.hold(false);
  });
  test('a tag without a good value cannot be checked', async () => {
    await kiln.stop();
    await until('the loss is seen', () => bench.services.engine.live.get(small.tagId)?.quality.level === 'bad');
    expect(await bench.services.checks.check(small.tagId, { kind: 'control', who: 'R. Vale' })).toMatchObject({
      ok: false,
      problem: { code: 'no-value' },
    });
  });
});

describe('bytes that decode to no number', () => {
  test('fail before the witness as well, and the right order is offered', async () => {
    const controller = await FaultyServer.start();
    // 42C87FC0h is 100.2495…; its words swapped begin with 7FC0h, which is no number (IEEE 754).
    controller.onRequest = (asked) => asked.answer([3, 4, 0x7f, 0xc0, 0x42, 0xc8]);
    const teller = createServer((_request, response) => response.end(JSON.stringify({ value: 100.24951171875 })));
    await new Promise<void>((resolve) => teller.listen(0, '127.0.0.1', resolve));
    const own = await openBench();
    try {
      const { tagId } = await smallProject(
        own,
        controller.port,
        { address: 'HR17', type: 'REAL', decimals: 2 },
        { witnessUrl: `http://127.0.0.1:${(teller.address() as AddressInfo).port}` },
      );
      await until('it is read', () => own.services.engine.live.get(tagId)?.wire !== null);
      const done = await own.services.checks.check(tagId, { kind: 'control', who: 'R. Vale' });
      expect(done).toMatchObject({
        ok: true,
        value: { proof: { outcome: 'failed' }, explanations: [{ kinds: ['order'], cure: { order: 'CDAB' }, text: '100.25' }] },
      });
      expect(done.ok && done.value.proof?.seen.sentence).toBe(
        'The witness says 100.25, the mapping gives nothing: The bytes decode to no number (NaN).',
      );
    } finally {
      await own.close();
      await controller.stop();
      teller.close();
    }
  });
});
