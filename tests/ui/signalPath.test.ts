import { describe, expect, test } from '@jest/globals';
import { hexToBytes } from '@noble/hashes/utils.js';
import fc from 'fast-check';
import { cureOf } from '@/core/check/explained.ts';
import { mistakesOf } from '@/core/check/mistakes/mistakeSpace.ts';
import { shownBy, wayOf, type Sight } from '@/core/check/mistakes/way.ts';
import type { Proof } from '@/core/check/proof.ts';
import type { LiveSample } from '@/core/live/messages.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import { followWire, planWrite, type Stages } from '@/core/signal.ts';
import { toJson } from '@/core/value/engineering.ts';
import { qualityInWords, qualityOf } from '@/core/value/quality.ts';
import type { TagView } from '@/ui/live/liveClient.ts';
import type { ProjectView } from '@/ui/live/project.ts';
import { pathOf, remedyOf, scaleInWords } from '@/ui/signalPath/signalPath.ts';
import { projectOf, tagOf } from './project.ts';

const BED = { address: '40018', type: 'REAL', order: 'CDAB', unit: '°C', decimals: 1, rangeLow: 20, rangeHigh: 140 };

/** The view of a tag whose registers hold these bytes. */
function viewOf(project: ProjectView, tagId: string, hex: string, before: readonly string[] = []): TagView {
  const effective = project.effective(tagId);
  if (!effective.ok) throw new Error(effective.problem.message);
  const stages: Stages = followWire(effective.value.def, { kind: 'bytes', bytes: hexToBytes(hex) });
  const sample: LiveSample = {
    tagId,
    n: 1,
    at: 0,
    roundTripMs: 0.42,
    sourceAt: null,
    freshForMs: 3000,
    wire: { kind: 'bytes', hex },
    raw: stages.raw === null ? null : toJson(stages.raw),
    eng: stages.eng === null ? null : toJson(stages.eng),
    text: stages.text,
    quality: stages.quality,
    broken: stages.broken,
  };
  const { level } = stages.quality;
  return {
    sample,
    level,
    reason: stages.quality.reason,
    why: level === 'good' ? '' : qualityInWords(stages.quality),
    text: level === 'bad' ? '–' : stages.text,
    recent: [...before, hex].map((each) => ({ kind: 'bytes' as const, hex: each })),
  };
}

describe('the signal path of a good value', () => {
  test('shows every stage with the setting that made it', () => {
    const tag = tagOf(5, BED);
    const project = projectOf([tag]);
    // 104.6 is 42D13333h (IEEE 754), its words swapped.
    const path = pathOf(project, tag, viewOf(project, tag.id, '333342d1'));
    expect(path.stages.map((s) => s.value)).toEqual(['HR17–18', '33 33 42 D1', '104.6', '104.6 °C', '104.6']);
    expect(path.stages[0]?.setting).toBe('40018 counted from 1: holding register, PDU address 17 (0011h)');
    expect(path.stages[1]?.setting).toBe('function 3, 2 registers, 0.4 ms');
    expect(path.stages[2]?.setting).toBe('REAL, order CDAB (words swapped)');
    expect([path.brokenAt, path.finding, path.remedy]).toEqual([null, null, null]);
  });
  test('says of a simulated device that nothing was asked of the machine', () => {
    const tag = tagOf(5, BED);
    const project = projectOf([tag]);
    const device = project.deviceOf(tag);
    const simulated = project.withChanges(2, device ? [{ kind: 'device', id: device.id, after: { ...device, isSimulated: true } }] : []);
    const path = pathOf(simulated, tag, viewOf(simulated, tag.id, '333342d1'));
    expect(path.stages.slice(0, 2).map(({ title }) => title)).toEqual(['Simulated memory', 'As on the wire']);
    expect(path.stages[1]?.setting).toBe('made up here: nothing was asked');
    expect(path.stages.map((s) => s.value)).toEqual(['HR17–18', '33 33 42 D1', '104.6', '104.6 °C', '104.6']);
  });
  test.each<readonly [string, number, string]>([
    ['before it came', -1300, 'stamped 1.3 s before it came'],
    ['by a clock that is a little ahead', 30, 'stamped 0.0 s before it came'],
    ['by a clock that is far ahead', 7200_000, 'stamped 7200.0 s ahead: its clock differs from ours'],
  ])('tells when its source took the value: %s', (_when, aheadMs, words) => {
    const tag = tagOf(5, BED);
    const project = projectOf([tag]);
    const view = viewOf(project, tag.id, '333342d1');
    const sample = view.sample && { ...view.sample, at: 1e12, sourceAt: 1e12 + aheadMs, wire: { kind: 'typed', value: toJson(104.6) } as const };
    const wire = pathOf(project, tag, { ...view, sample }).stages[1];
    expect(wire).toMatchObject({ value: '104.6', setting: `function 3, 2 registers, ${words}` });
  });
});

describe('the signal path of a wrong value', () => {
  test('breaks where it is decoded when another order would be inside what is expected, and offers it', () => {
    const tag = tagOf(5, { ...BED, order: 'ABCD' });
    const project = projectOf([tag]);
    const path = pathOf(project, tag, viewOf(project, tag.id, '333342d1'));
    expect(path.brokenAt).toBe(2);
    expect(path.finding).toBe('The path breaks at decoded: words swapped (CDAB) would give 104.6 °C, inside the expected 20 to 140.');
    expect(path.remedy).toMatchObject({
      button: 'Use CDAB',
      changes: [{ kind: 'tag', id: tag.id, set: { source: { order: 'CDAB', address: '40018' } } }],
    });
  });
  test('breaks at engineering when a scale is off by ten, as several values show', () => {
    const tag = tagOf(5, { unit: 'bar', decimals: 2, rangeLow: 0, rangeHigh: 6 });
    const project = projectOf([tag], { [tag.id]: { kind: 'power', exponent: -1 } });
    const path = pathOf(project, tag, viewOf(project, tag.id, '0116', ['0120', '0112']));
    expect(path.brokenAt).toBe(3);
    expect(path.remedy).toMatchObject({ button: 'Use scale × 10^-2', changes: [{ kind: 'scale', set: { scale: { kind: 'power', exponent: -2 } } }] });
  });
  test('no factor is offered on the word of one value, nor where the process may be a little out of range', () => {
    const tag = tagOf(5, { unit: 'bar', decimals: 2, rangeLow: 0, rangeHigh: 6 });
    const project = projectOf([tag], { [tag.id]: { kind: 'power', exponent: -1 } });
    const once = pathOf(project, tag, viewOf(project, tag.id, '0116'));
    expect(once.remedy).toBeNull();
    expect(once.finding).toContain('outside the expected 0 to 6');
    // 6.4, 6.2 and 6.6 bar of an expected 6: too much steam, and no wrong scale.
    expect(pathOf(project, tag, viewOf(project, tag.id, '0040', ['003e', '0042'])).remedy).toBeNull();
  });
  test('a tag that is proven is offered nothing: then it is the process that is out of range', () => {
    const tag = tagOf(5, { unit: 'bar', decimals: 2, rangeLow: 0, rangeHigh: 6, order: 'BA' });
    const digest = projectOf([tag]).effective(tag.id);
    if (!digest.ok) throw new Error();
    const proof: Proof = {
      tagId: tag.id,
      digest: digest.value.digest,
      outcome: 'proven',
      witness: 'display',
      more: null,
      who: 'R. Vale',
      at: '2026-11-25T08:00:00.000Z',
      madeIn: 'here',
      isElsewhere: false,
      seen: { sentence: '', value: toJson(1), witness: toJson(1) },
    };
    const project = projectOf([tag]).withProof(proof);
    expect(pathOf(projectOf([tag]), tag, viewOf(project, tag.id, '0005', ['0003', '0002'])).remedy).not.toBeNull();
    expect(pathOf(project, tag, viewOf(project, tag.id, '0005', ['0003', '0002'])).remedy).toBeNull();
  });
  test('breaks at the wire when the device is silent, and shows no bytes and no number', () => {
    const tag = tagOf(5, BED);
    const project = projectOf([tag]);
    const good = viewOf(project, tag.id, '333342d1');
    const lost: TagView = {
      sample: good.sample && {
        ...good.sample,
        quality: qualityOf('silent'),
        broken: { stage: 'wire', problem: { code: 'timeout', message: 'No reply from unit 1.' } },
      },
      level: 'bad',
      reason: 'silent',
      why: 'the device does not answer',
      text: '–',
      recent: [],
    };
    const path = pathOf(project, tag, lost);
    expect(path.brokenAt).toBe(1);
    expect(path.finding).toBe('The path breaks at the wire: No reply from unit 1.');
    expect(path.stages.slice(1).map((s) => s.value)).toEqual(['–', '–', '–', '–']);
    const unheard = pathOf(project, tag, { ...lost, reason: 'server-silent', why: qualityInWords(qualityOf('server-silent')) });
    expect(unheard.finding).toBe('The path breaks at the wire: the Mill Latch server does not answer');
  });
  test('settings that do not fit together are named, with no value made up', () => {
    const tag = tagOf(5, { address: '50003' });
    const path = pathOf(projectOf([tag]), tag, { sample: null, level: 'bad', reason: 'waiting', why: '', text: '–', recent: [] });
    expect([path.brokenAt, path.finding]).toEqual([0, '“50003” is not a Modbus address.']);
  });
});

describe('what a device declares, and what is implausible', () => {
  test('the type that the device says it has is offered in place of another one', () => {
    const tag = tagOf(5, { address: '40018', type: 'INT' });
    const project = projectOf([tag]);
    const view = viewOf(project, tag.id, '0000');
    const problem = { code: 'unfit-value', message: 'The server sends a Float there, which is no INT.', instead: ['REAL'] };
    const broken: TagView = { ...view, level: 'bad', sample: view.sample && { ...view.sample, broken: { stage: 'wire', problem } } };
    expect(pathOf(project, tag, broken).remedy).toMatchObject({
      button: 'Read as REAL',
      changes: [{ kind: 'tag', id: tag.id, set: { type: 'REAL' } }],
    });
  });

  // 98.2 as IEEE 754 has it, its words swapped; no range says what to expect.
  test('an implausible value is asked about, and changed by nothing here', () => {
    const tag = tagOf(5, { address: '40018', type: 'REAL', order: 'ABCD' });
    const project = projectOf([tag]);
    const path = pathOf(project, tag, viewOf(project, tag.id, '666642c4'));
    expect(path).toMatchObject({ isQuestion: true, brokenAt: 2, remedy: null });
    expect(path.finding).toContain('Would 98.2 (words swapped)');
  });
});

describe('a remedy that is offered', () => {
  const scales: fc.Arbitrary<Scale> = fc.oneof(
    fc.constant<Scale>({ kind: 'none' }),
    fc.integer({ min: -4, max: 4 }).map((exponent): Scale => ({ kind: 'power', exponent })),
    fc
      .tuple(fc.integer({ min: 1, max: 30_000 }), fc.integer({ min: 1, max: 3000 }))
      .map(([rawB, engB]): Scale => ({ kind: 'linear', rawA: 0, engA: 0, rawB, engB })),
  );
  test.each([['INT'], ['UINT'], ['DINT'], ['REAL'], ['BOOL']])('makes the value what it says it would make it, for every mistake at a %s', (type) => {
    const around = Uint8Array.from({ length: 40 }, (_, i) => (i * 53 + 7) & 0x7f);
    let cured = 0;
    fc.assert(
      fc.property(scales, fc.constantFrom('°C', 'bar', ''), fc.integer({ min: 1, max: 3 }), (scale, unit, decimals) => {
        const isBit = type === 'BOOL';
        const tag = tagOf(5, { type, unit: isBit ? '' : unit, decimals: isBit ? null : decimals, address: isBit ? '40018.3' : '40018' });
        const given = isBit ? {} : { [tag.id]: scale };
        const project = projectOf([tag], given);
        const effective = project.effective(tag.id);
        if (!effective.ok) throw new Error(effective.problem.message);
        const { def } = effective.value;
        const size = isBit ? 2 : def.type.bytes;
        const sightAt = (at: number, length: number): Sight => ({
          wire: { kind: 'bytes', bytes: around.subarray(at, at + length) },
          around: { bytes: around, at },
        });
        for (const { way } of mistakesOf(wayOf(def), { bytes: 2, name: 'register' }).flat()) {
          const cure = cureOf(def, way, 2);
          const remedy = remedyOf(project, tag, cure);
          if (cure === null || remedy === null) continue;
          const tagSet = remedy.changes.find(({ kind }) => kind === 'tag')?.set ?? {};
          const scaleSet = remedy.changes.find(({ kind }) => kind === 'scale')?.set as { scale: Scale } | undefined;
          const after = projectOf([{ ...tag, ...tagSet }], scaleSet ? { [tag.id]: scaleSet.scale } : given).effective(tag.id);
          if (!after.ok) throw new Error(`${remedy.label}: ${after.problem.message}`);
          const said = shownBy(way, sightAt(16, size));
          const now = shownBy(wayOf(after.value.def), sightAt(16 + way.at, isBit ? 2 : after.value.def.type.bytes));
          if (said.number === null) continue;
          // What is shifted out of a register is lost in the register alone.
          if (way.bits > 0 && Math.abs(Number(now.number)) > Math.abs(said.number)) continue;
          expect(now.number ?? NaN).toBeCloseTo(said.number, 6 - Math.ceil(Math.log10(Math.abs(said.number) + 1)));
          cured++;
        }
      }),
      { numRuns: 25, seed: 11 },
    );
    expect(cured).toBeGreaterThan(200);
  });
  test('what an entry pad says will be held is what the codec holds', () => {
    const tag = tagOf(5, { access: 'readWrite', decimals: 1 });
    const effective = projectOf([tag], { [tag.id]: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 } }).effective(tag.id);
    if (!effective.ok) throw new Error();
    fc.assert(
      fc.property(fc.double({ min: 0, max: 150, noNaN: true }), (wanted) => {
        const plan = planWrite(effective.value.def, wanted);
        if (!plan.ok) throw new Error(plan.problem.message);
        expect(followWire(effective.value.def, { kind: 'bytes', bytes: plan.value.bytes }).text).toBe(plan.value.text);
      }),
    );
  });
});

describe('words of the strip', () => {
  test.each<readonly [Scale, number | null, string]>([
    [{ kind: 'none' }, null, 'no scale'],
    [{ kind: 'none' }, 1, 'no scale, 1 decimal'],
    [{ kind: 'power', exponent: -9 }, 3, '× 10^-9, 3 decimals'],
    [{ kind: 'linear', rawA: 5529.6, engA: 0, rawB: 27648, engB: 100 }, 0, '5529.6…27648 to 0…100, 0 decimals'],
  ])('%j with %p decimals is “%s”', (scale, decimals, words) => {
    expect(scaleInWords(scale, decimals)).toBe(words);
  });
});
