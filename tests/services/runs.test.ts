/** Runs of checks: what came of each tag, broken off and gone on with, and reported. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Papa from 'papaparse';
import { v7 as uuid } from 'uuid';
import { MOST_PHOTO_BYTES } from '@/core/check/photo.ts';
import { progressBy } from '@/core/check/progress.ts';
import { countsOf, entriesOf, nextOpen } from '@/core/check/run.ts';
import type { WitnessKind } from '@/core/check/proof.ts';
import type { Witness } from '@/services/checks/checkService.ts';
import type { RunNow } from '@/services/checks/runService.ts';
import { newTag } from '../support/newTag.ts';
import { pointSet } from '../support/pointSet.ts';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { startKiln, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let kiln: RunningStandin;
const ids: Record<string, string> = {};
const files = newFolder();

beforeAll(async () => {
  kiln = await startKiln();
  await kiln.hold(true);
  bench = await openBench();
  // The outlet is mapped with its words the wrong way round; the name would be a formula in a spreadsheet.
  const small = await smallProject(
    bench,
    kiln.modbusPort,
    { name: 'bed_temp', address: 'HR17', type: 'REAL', order: 'CDAB', unit: '°C', decimals: 1 },
    { witnessUrl: kiln.controlUrl },
  );
  ids.bed_temp = small.tagId;
  const real = { type: 'REAL', unit: '°C', decimals: 1 };
  ids.bed_temp_out = uuid();
  ids.odd = uuid();
  await bench.change('tags', [
    { kind: 'tag', id: ids.bed_temp_out, set: { ...newTag(small.deviceId, 'bed_temp_out', 'HR19', { order: 'ABCD' }), ...real } },
    { kind: 'tag', id: ids.odd, set: { ...newTag(small.deviceId, '=odd<b>', 'HR17', { order: 'CDAB' }), ...real } },
  ]);
  await until('they are read', () => Object.values(ids).every((id) => (bench.services.engine.live.get(id)?.wire ?? null) !== null));
});
afterAll(async () => {
  await bench.close();
  await kiln.stop();
  files.remove();
});

const value = <T>(done: { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: { readonly message: string } }): T => {
  if (!done.ok) throw new Error(done.problem.message);
  return done.value;
};
const begin = async (witness: WitnessKind, name: string, ...names: string[]): Promise<string> =>
  value(await bench.services.runs.begin({ id: uuid(), name, who: 'R. Vale', witness, how: 'observed', tagIds: names.map((each) => ids[each] ?? '') }))
    .run.id;
const now = async (runId: string): Promise<RunNow> => value(await bench.services.runs.get(runId));
const states = async (runId: string): Promise<readonly string[]> => (await now(runId)).entries.map(({ state }) => state);
const check = async (runId: string, name: string, witness: Witness) => value(await bench.services.runs.check(runId, ids[name] ?? '', witness));
const seen = async (name: string): Promise<string> => Number(await kiln.value(name)).toFixed(1);

describe('a run', () => {
  let runId: string;
  test('keeps what came of each tag, in its order', async () => {
    runId = await begin('channel', 'KILN', 'bed_temp', 'bed_temp_out', 'odd');
    expect(await states(runId)).toEqual(['open', 'open', 'open']);
    expect((await check(runId, 'bed_temp', { kind: 'control', who: 'R. Vale' })).proof).toMatchObject({ outcome: 'proven', more: { runId } });
    const wrong = await check(runId, 'bed_temp_out', { kind: 'control', who: 'R. Vale' });
    expect(wrong.explanations[0]).toMatchObject({ kinds: ['order'], cure: { order: 'CDAB' } });
    expect(await states(runId)).toEqual(['proven', 'failed', 'open']);
    expect((await now(runId)).labels[ids.bed_temp_out ?? '']).toMatchObject({ name: 'bed_temp_out', unit: '°C' });
  });
  test('that was broken off by the end of the server goes on where it was', async () => {
    bench = await bench.reopen();
    await until('they are read anew', () => Object.values(ids).every((id) => (bench.services.engine.live.get(id)?.wire ?? null) !== null));
    expect(await states(runId)).toEqual(['proven', 'failed', 'open']);
    expect(nextOpen((await now(runId)).entries, ids.bed_temp ?? null)).toBe(ids.odd);
    expect((await bench.services.runs.newest())[0]).toMatchObject({ id: runId, counts: { agree: 1, failed: 1, open: 1 } });
  });
  test('a cured mapping opens the tag again, and the next look proves it', async () => {
    const tagId = ids.bed_temp_out ?? '';
    await bench.change('cure', [{ kind: 'tag', id: tagId, set: pointSet(bench.services.model, tagId, { order: 'CDAB' }) }]);
    value(await bench.services.runs.say(runId, tagId, 'R. Vale', { step: 'cured', words: 'words swapped (CDAB)' }));
    expect(await states(runId)).toEqual(['proven', 'open', 'open']);
    await until('it is read so', () => Math.abs(Number(bench.services.engine.live.get(tagId)?.text) - 98) < 60);
    expect((await check(runId, 'bed_temp_out', { kind: 'control', who: 'R. Vale' })).proof?.outcome).toBe('proven');
    expect((await now(runId)).entries[1]).toMatchObject({ state: 'proven', cure: 'words swapped (CDAB)' });
  });
  test('a waived tag has its reason, and lapses with the path that it was waived for', async () => {
    value(await bench.services.runs.say(runId, ids.odd ?? '', 'R. Vale', { step: 'waived', words: 'not wired yet' }));
    expect(bench.services.checks.proofs.current(ids.odd ?? '')).toMatchObject({ outcome: 'waived', seen: { sentence: 'Waived: not wired yet' } });
    await bench.change('unit', [{ kind: 'tag', id: ids.odd ?? '', set: { unit: 'K' } }]);
    expect(bench.services.checks.proofs.current(ids.odd ?? '')).toBeNull();
    await bench.services.projects.step('undo');
    expect(bench.services.checks.proofs.current(ids.odd ?? '')?.outcome).toBe('waived');
  });
  test('that was ended takes nothing more, until somebody goes on with it', async () => {
    value(await bench.services.runs.setEnded(runId, 'R. Vale', true));
    expect(await bench.services.runs.check(runId, ids.odd ?? '', { kind: 'control', who: 'R. Vale' })).toMatchObject({
      ok: false,
      problem: { code: 'run-ended' },
    });
    value(await bench.services.runs.setEnded(runId, 'R. Vale', false));
    expect((await now(runId)).run.endedAt).toBeNull();
  });
  test('takes no tag that is not part of it, and none that is gone', async () => {
    expect(await bench.services.runs.say(runId, uuid(), 'R. Vale', { step: 'skipped', words: '' })).toMatchObject({
      ok: false,
      problem: { code: 'not-in-run' },
    });
    const plan = { id: uuid(), name: 'none', who: 'R. Vale', witness: 'display', how: 'observed', tagIds: [uuid()] } as const;
    expect(await bench.services.runs.begin(plan)).toMatchObject({ ok: false, problem: { code: 'gone' } });
  });

  describe('keeps photos of what was seen', () => {
    // The head of a JPEG file (ITU-T T.81, B.2): its start, a frame of 16 by 16 with three components, its end.
    const JPEG = Uint8Array.from('ffd8ffc00011080010001003012200021101031101ffd9'.match(/../g) ?? [], (pair) => parseInt(pair, 16));
    test('by their digest, which stands in the trail, and in the report', async () => {
      const tagId = ids.bed_temp_out ?? '';
      const kept = value(await bench.services.runs.keepPhoto(runId, tagId, 'T. Orme', 'the old panel', JPEG));
      const entry = kept.entries.find((each) => each.tagId === tagId);
      const [digest = ''] = entry?.photos ?? [];
      expect(digest).toBe(createHash('sha256').update(JPEG).digest('hex'));
      expect(entry).toMatchObject({ state: 'proven', notes: ['the old panel'] });
      expect(value(await bench.services.runs.photo(digest))).toEqual(JPEG);
      const html = new TextDecoder().decode(value(await bench.services.reports.make(runId, 'html')).bytes);
      expect(html).toContain(`data:image/jpeg;base64,${Buffer.from(JPEG).toString('base64')}`);
      expect(html).toContain(digest);
    });
    test.each([
      ['another kind of file', Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0, 0, 0, 0, 0, 0, 0, 0)],
      ['one that is cut', JPEG.slice(0, 6)],
      ['one of no width', Uint8Array.from(JPEG, (byte, at) => (at === 9 || at === 10 ? 0 : byte))],
      ['one that is too large', new Uint8Array(MOST_PHOTO_BYTES + 1)],
    ])('but not %s', async (_what, bytes) => {
      const done = await bench.services.runs.keepPhoto(runId, ids.bed_temp_out ?? '', 'T. Orme', '', bytes);
      expect(done.ok ? '' : done.problem.code).toMatch(/^(photo|too-large)$/);
    });
  });

  describe('is reported', () => {
    const report = async (format: 'html' | 'csv' | 'pdf', id: string | null = runId) => value(await bench.services.reports.make(id, format)).bytes;
    const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
    test('as HTML, with the head of the trail and what it cannot show; names are no markup', async () => {
      const html = text(await report('html'));
      expect(html).toContain('=odd&lt;b&gt;');
      expect(html).not.toContain('<b>');
      expect(html).toMatch(/<code data-head>[0-9a-f]{64}<\/code>/);
      expect(html).toContain('It cannot show whether what a person entered was true');
      expect(html).toContain('3 tags: 2 agree, 0 differ, 0 skipped, 1 waived, 0 open');
    });
    test('as CSV with the same outcomes, and no formula in it', async () => {
      const { data } = Papa.parse<Record<string, string>>(text(await report('csv')).replace(/^\uFEFF/, ''), { header: true });
      expect(data.map((row) => [row.tag, row.outcome])).toEqual([
        ['bed_temp', 'proven'],
        ['bed_temp_out', 'proven'],
        ["'=odd<b>", 'waived'],
      ]);
      expect(data[1]?.cure).toBe('words swapped (CDAB)');
    });
    test('as PDF, which another program reads with the same numbers', async () => {
      const file = join(files.folder, 'report.pdf');
      writeFileSync(file, await report('pdf'));
      // pdftotext of poppler-utils.
      const read = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
      for (const wanted of ['Check of KILN', 'bed_temp_out', '=odd<b>', 'waived', '3 tags: 2 agree', '°C']) expect(read).toContain(wanted);
      const html = text(await report('html'));
      const [, head] = /data-head>([0-9a-f]{64})</.exec(html) ?? [];
      expect(read.replace(/ /g, '')).toContain(head);
    });
    test('and so are all tags of the project', async () => {
      expect(text(await report('html', null))).toContain('3 tags: 2 proven, 0 consistent');
    });
  });
});

test('a run is told part by part; a tag counts in each part that it is in, and in none where nobody looked', async () => {
  const runId = await begin('display', 'parts', 'bed_temp', 'odd');
  await check(runId, 'bed_temp', { kind: 'typed', text: await seen('bed_temp'), who: 'T. Orme', where: 'display' });
  const { entries } = await now(runId);
  expect(
    progressBy(entries, ({ tagId }) => (tagId === ids.odd ? ['page 10', 'page 9'] : ['page 9'])).map(({ name, counts }) => [
      name,
      counts.all,
      counts.agree,
    ]),
  ).toEqual([
    ['page 9', 2, 1],
    ['page 10', 1, 0],
  ]);
  expect(progressBy(entries, ({ who }) => (who === '' ? [] : [who])).map(({ name, counts }) => [name, counts.all])).toEqual([['T. Orme', 1]]);
});

describe('another panel', () => {
  test('that shows the same is consistent with the mapping, which is no proof', async () => {
    const runId = await begin('panel', 'the old panel', 'bed_temp');
    const before = await seen('bed_temp');
    const done = await check(runId, 'bed_temp', { kind: 'typed', text: before, who: 'R. Vale', where: 'panel' });
    // It was proven before; that a panel agrees takes nothing from that.
    expect(done.proof?.outcome).toBe('consistent');
    expect(bench.services.checks.proofs.isProven(ids.bed_temp ?? '')).toBe(true);
    expect(await states(runId)).toEqual(['consistent']);
  });
  test('that shows a tenth is explained, and the fault is asked for, not assumed', async () => {
    const runId = await begin('panel', 'the old panel', 'bed_temp');
    const tenth = (Number(await kiln.value('bed_temp')) / 10).toFixed(2);
    const done = await check(runId, 'bed_temp', { kind: 'typed', text: tenth, who: 'R. Vale', where: 'panel' });
    expect(done.explanations[0]?.kinds[0]).toMatch(/ten|point/);
    value(
      await bench.services.runs.say(runId, ids.bed_temp ?? '', 'R. Vale', {
        step: 'finding',
        side: 'panel',
        words: done.explanations[0]?.words ?? '',
      }),
    );
    expect((await now(runId)).entries[0]).toMatchObject({ state: 'failed', side: 'panel' });
    // Set right at the panel, it is looked at again.
    await check(runId, 'bed_temp', { kind: 'typed', text: await seen('bed_temp'), who: 'R. Vale', where: 'panel' });
    expect(await states(runId)).toEqual(['consistent']);
  });
  test('that shows what nothing explains is said to', async () => {
    const runId = await begin('panel', 'the old panel', 'bed_temp');
    const done = await check(runId, 'bed_temp', { kind: 'typed', text: '71.37', who: 'R. Vale', where: 'panel' });
    await check(runId, 'bed_temp', { kind: 'typed', text: '3.19', who: 'R. Vale', where: 'panel' });
    expect([done.isUnexplained, done.explanations]).toEqual([true, []]);
  });
});

test('what is shown to somebody with a phone is the text of now, and what likely mistakes would show', async () => {
  const runId = await begin('panel', 'phone', 'bed_temp');
  const look = value(await bench.services.runs.look(runId, ids.bed_temp ?? ''));
  expect(look.choices[0]).toBe(look.text);
  expect(new Set(look.choices).size).toBe(look.choices.length);
  expect(look.choices.length).toBeGreaterThan(1);
});

test('the newest step of a tag counts, and skipped tags come after the open ones', () => {
  const step = (tagId: string, what: Parameters<typeof entriesOf>[1][number]['what']) => ({
    runId: 'r',
    tagId,
    who: 'x',
    at: '2026-12-01T00:00:00.000Z',
    what,
  });
  const entries = entriesOf({ tagIds: ['a', 'b', 'c'] }, [
    step('a', { step: 'skipped', words: '' }),
    step('b', { step: 'looked', seen: '1', outcome: 'failed', sentence: '' }),
    step('b', { step: 'looked', seen: '2', outcome: 'proven', sentence: '' }),
  ]);
  expect(countsOf(entries)).toEqual({ all: 3, open: 1, agree: 1, failed: 0, skipped: 1, waived: 0 });
  expect([nextOpen(entries, null), nextOpen(entries, 'c')]).toEqual(['c', 'a']);
});
