import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import Papa from 'papaparse';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { toJson } from '@/core/value/engineering.ts';
import { matching } from '@/ui/live/tagSearch.ts';
import { MAP_COLUMNS, periodText } from '@/ui/map/columns.ts';
import { STEP_KINDS, type Step } from '@/core/scaling/step.ts';
import { formOf, readForm, type ScaleForm } from '@/ui/scale/scaleForm.ts';
import { shortText, valueText, writesCsv } from '@/ui/writes/writesCsv.ts';
import type { Group, TagScale } from '@/core/project/entities.ts';
import type { Scale } from '@/core/scaling/scale.ts';
import { uuidOf } from '../support/uuidOf.ts';
import { projectOf, tagOf } from './project.ts';

const STEAM: Group = {
  id: uuidOf(20),
  name: 'Steam',
  parentId: null,
  deviceId: uuidOf(2),
  periodMs: 200,
  reads: null,
  access: null,
  prefix: '',
  unavailable: null,
  witnessUrl: null,
};
const BED: Group = { ...STEAM, id: uuidOf(21), name: 'Bed', periodMs: null };
const tags = [
  tagOf(1, { name: 'steam_press', comment: 'Steam header pressure', groupId: STEAM.id, address: '40022' }),
  tagOf(2, { name: 'low_steam', comment: 'Steam header below 1 bar', groupId: STEAM.id, address: '40032.1' }),
  tagOf(3, { name: 'bed_temp', comment: 'Bed temperature', groupId: BED.id, address: '40018' }),
];

describe('finding tags by typing', () => {
  const project = projectOf(tags, {}, [STEAM, BED]);
  const found = (text: string, most?: number): string[] => matching(project, text, undefined, most).map((t) => t.name);
  test('names that begin with the text come first, then those that hold all its words anywhere', () => {
    expect(found('steam')).toEqual(['steam_press', 'low_steam']);
    expect(found('STEAM below')).toEqual(['low_steam']);
    expect(found('40018')).toEqual(['bed_temp']);
    expect(found('bed press')).toEqual([]);
    expect(found('')).toEqual(['bed_temp', 'low_steam', 'steam_press']);
    expect(found('bed 40018')).toEqual(['bed_temp']);
  });
  test('no more than wanted, the best of them', () => {
    expect(found('steam', 1)).toEqual(['steam_press']);
    expect(matching(project, 'e', (t) => t.groupId === BED.id).map((t) => t.name)).toEqual(['bed_temp']);
  });
});

describe('a cell of the map', () => {
  const project = projectOf(tags, {}, [STEAM, BED]);
  const first = tagOf(1);
  const edit = (key: string) => MAP_COLUMNS.find((c) => c.key === key)?.edit;
  test('every column that can be edited takes back what it shows, and then nothing changes', () => {
    const confirms = [{ kind: 'equal' }, { kind: 'none' }, { kind: 'tolerance', by: 0.5 }, { kind: 'follows', tagId: uuidOf(3), by: 2 }] as const;
    fc.assert(
      fc.property(
        fc.constantFrom(...confirms),
        fc.constantFrom('read', 'readWrite', null),
        fc.constantFrom(100, 500, 1000, 90_000, null),
        (confirm, access, periodMs) => {
          const tag = tagOf(7, {
            confirm: access === 'readWrite' ? confirm : { kind: 'equal' },
            access,
            periodMs,
            groupId: STEAM.id,
            order: 'AB',
            comment: 'x',
            unit: 'bar',
          });
          for (const column of MAP_COLUMNS) {
            if (!column.edit) continue;
            const set = column.edit.set(column.edit.text(tag, project), tag, project);
            if (!set.ok) throw new Error(`${column.key}: ${set.problem.message}`);
            expect({ ...tag, ...set.value.set }).toEqual(tag);
            expect(set.value.first ?? []).toEqual([]);
          }
        },
      ),
    );
  });
  test.each([
    ['500', 500],
    ['500 ms', 500],
    ['2 s', 2000],
    ['0.5s', 500],
    ['3600 s', 3_600_000],
  ])('a period of “%s” is %d ms', (text, periodMs) => {
    expect(edit('period')?.set(text, first, project)).toMatchObject({ ok: true, value: { set: { source: { periodMs } } } });
  });
  test.each(['50', '0.05 s', '2 h', '1,5 s', '-1 s', '4000 s'])('a period of “%s” is refused', (text) => {
    expect(edit('period')?.set(text, first, project).ok).toBe(false);
  });
  test('an empty period or access is that of the group', () => {
    expect(edit('period')?.set('', first, project)).toMatchObject({ ok: true, value: { set: { source: { periodMs: null } } } });
    expect(edit('access')?.set(' ', first, project)).toEqual({ ok: true, value: { set: { access: null } } });
    expect(project.inheritedBy(STEAM.id).periodMs).toBe(200);
  });
  test('a group is named by its path; what is not there yet is made inside what is', () => {
    const set = edit('group')?.set('steam/Low/Line 2', first, project);
    if (!set?.ok) throw new Error();
    const [low, line] = set.value.first ?? [];
    expect([low?.set, line?.set]).toMatchObject([
      { name: 'Low', parentId: STEAM.id, deviceId: uuidOf(2) },
      { name: 'Line 2', parentId: low?.id },
    ]);
    expect(set.value.set).toEqual({ groupId: line?.id });
    expect(edit('group')?.set('', first, project)).toEqual({ ok: true, value: { set: { groupId: null }, first: [] } });
  });
  test('access says how a write is confirmed; what is no way is refused', () => {
    expect(edit('access')?.set('rw follows BED_TEMP ±1', first, project)).toEqual({
      ok: true,
      value: { set: { access: 'readWrite', confirm: { kind: 'follows', tagId: uuidOf(3), by: 1 } } },
    });
    for (const wrong of ['W', 'RWX', 'RW maybe', 'RW follows nobody']) expect(edit('access')?.set(wrong, first, project).ok).toBe(false);
    expect([periodText(200), periodText(1000), periodText(1500)]).toEqual(['200 ms', '1 s', '1500 ms']);
  });
});

const ownScale = (scale: Scale): TagScale => ({ id: uuidOf(1), scale, sharedId: null });

describe('the form of a scale', () => {
  test('shows ranges and limits so that reading it gives the same back', () => {
    const limits = { lowLow: null, low: 20, high: 80.5, highHigh: 90, hysteresis: 0.5, delayMs: 1500 };
    const tag = tagOf(1, { rawRange: { low: 0, high: 27_648 }, displayRange: { low: -10, high: 120 }, limits });
    expect(readForm(formOf(tag, null))).toMatchObject({
      ok: true,
      value: { rawRange: tag.rawRange, display: tag.displayRange, limits, range: null },
    });
  });
  test('shows a kept scale so that reading it gives the same back', () => {
    const number = fc.double({ min: -1e6, max: 1e6, noNaN: true }).map((v) => (Object.is(v, -0) ? 0 : v));
    fc.assert(
      fc.property(number, number, number, number, (rawA, engA, rawB, engB) => {
        fc.pre(rawA !== rawB && engA !== engB);
        const scale = { kind: 'linear', rawA, engA, rawB, engB } as const;
        const read = readForm(formOf(tagOf(1, { unit: '°C', decimals: 2, rangeLow: -5, rangeHigh: 5.5 }), ownScale(scale)));
        const nothing = { rawRange: null, display: null, limits: null };
        expect(read).toEqual({ ok: true, value: { scale, unit: '°C', decimals: 2, range: { low: -5, high: 5.5 }, ...nothing } });
      }),
    );
  });
  const base = formOf(tagOf(1), ownScale({ kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 }));
  test.each([
    [{ rawB: '0' }, '0.rawB'],
    [{ engB: '0' }, '0.engB'],
    [{ rawA: '' }, '0.rawA'],
    [{ engA: '1,5' }, '0.engA'],
    [{ decimals: '1.5' }, 'decimals'],
    [{ decimals: '13' }, 'decimals'],
    [{ low: '5' }, 'high'],
    [{ high: '5' }, 'low'],
    [{ low: '5', high: '5' }, 'high'],
    [{ rawLow: '5' }, 'rawHigh'],
    [{ displayLow: '9', displayHigh: '1' }, 'displayHigh'],
    [{ limitHigh: 'hot' }, 'limitHigh'],
    [{ limitHigh: '90', highHigh: '80' }, 'highHigh'],
    [{ lowLow: '10', limitLow: '5' }, 'limitLow'],
    [{ hysteresis: '2' }, 'hysteresis'],
    [{ limitHigh: '90', hysteresis: '-1' }, 'hysteresis'],
    [{ limitLow: '10', limitHigh: '12', hysteresis: '1' }, 'hysteresis'],
    [{ limitHigh: '90', delay: '7200' }, 'delay'],
  ])('with %j is refused at its field %s', (wrong, place) => {
    const isStep = Object.keys(wrong).some((key) => /^(raw|eng)[AB]$/.test(key));
    const isRange = Object.keys(wrong).some((key) => key in base.ranges);
    const steps = base.steps.map((step) => ({ ...step, fields: { ...step.fields, ...wrong } }));
    const form = isStep ? { ...base, steps } : isRange ? { ...base, ranges: { ...base.ranges, ...wrong } } : { ...base, ...wrong };
    expect(readForm(form)).toMatchObject({ ok: false, problem: { place } });
  });
  test('shows every kind of step, and chains of them, so that reading it gives the same back', () => {
    const steps: Step[] = [
      { kind: 'linear', rawA: 5529.6, engA: 0, rawB: 27_648, engB: 10 },
      { kind: 'gain', gain: -0.1, offset: 40 },
      { kind: 'power', exponent: -3 },
      { kind: 'duration', from: '10 ms', to: 's' },
      { kind: 'table', points: [[0, 1.5], [10, -3]], ends: 'hold' },
      { kind: 'root', zero: 0, span: 27_648, full: 120, cut: 0.02 },
      { kind: 'polynomial', terms: [1, 2e-7, -3], from: 0, to: 100 },
      { kind: 'thermocouple', type: 'N', reference: 25 },
      { kind: 'platinum', r0: 1000 },
      { kind: 'current' },
      { kind: 'formula', expression: 'x * 2', back: 'y / 2', from: 0, to: 10 },
      { kind: 'unit', from: '°C', to: '°F' },
      { kind: 'modulus', by: 360 },
      { kind: 'modulus', by: 360, from: -180 },
      { kind: 'clamp', low: -1, high: 1 },
      { kind: 'texts', names: '0=off; 1=heating' },
    ]; // prettier-ignore
    expect(new Set(steps.map(({ kind }) => kind))).toEqual(new Set(STEP_KINDS));
    for (const scale of [...steps, { kind: 'chain' as const, steps: steps.slice(0, 8) }])
      expect(readForm(formOf(tagOf(1), ownScale(scale)))).toMatchObject({ ok: true, value: { scale } });
  });
  test('takes a table as it is copied, and names the line and the step that are wrong', () => {
    const table = (points: string): ScaleForm => ({ ...base, steps: [...base.steps, { kind: 'table', fields: { points, ends: 'none' } }] });
    expect(readForm(table('0\t1\n5; 2.5\n\n10, 4'))).toMatchObject({ ok: true, value: { scale: { steps: [{}, { points: [[0, 1], [5, 2.5], [10, 4]] }] } } }); // prettier-ignore
    expect(readForm(table('0 1\n5 x'))).toMatchObject({ ok: false, problem: { place: '1.points', message: 'Line 2: “x” is not a number.' } });
    expect(readForm(table('0 1\n5'))).toMatchObject({ ok: false, problem: { message: 'Line 2: two numbers are needed, and there are 1.' } });
    expect(readForm(table('0 1\n0 2'))).toMatchObject({ ok: false, problem: { place: '1.points', message: 'Points 1 and 2 are both at 0.' } });
  });
});

describe('the log of writes as CSV', () => {
  const write = (over: Partial<WriteRecord>): WriteRecord => ({
    id: uuidOf(1),
    at: '2026-11-25T08:00:00.000Z',
    tagId: uuidOf(2),
    tagName: 'sp',
    deviceName: 'KILN',
    origin: 'panel',
    who: 'R. Vale',
    by: '',
    host: '',
    old: null,
    asked: toJson(88.5),
    sent: toJson(88.5),
    held: null,
    state: 'done',
    note: '',
    ...over,
  });
  test('reads back as it was, 64-bit numbers to the last digit', () => {
    const csv = writesCsv([write({ old: toJson(-3.5), asked: toJson(18446744073709551615n), held: toJson(true), note: 'took "90", holds\n88' })]);
    const [row] = Papa.parse<Record<string, string>>(csv, { header: true }).data;
    expect(row).toMatchObject({ before: '-3.5', asked: '18446744073709551615', held: 'on', note: 'took "90", holds\n88', outcome: 'done' });
  });
  test.each([
    [toJson(103.99848090277777), '103.9985'],
    [toJson(88.5), '88.5'],
    [toJson(18446744073709551615n), '18446744073709551615'],
    [toJson({ digits: 86400000000001n, exponent: -9 }), '86400.000000001'],
    [toJson('THIN ROLLED 02'), 'THIN ROLLED 02'],
    [toJson(false), 'off'],
    [null, ''],
  ])('in the narrow column %j is “%s”: only a number that was scaled is shortened, and its tooltip has it whole', (json, text) => {
    expect(shortText(json)).toBe(text);
    if (json?.kind !== 'number') expect(valueText(json)).toBe(text);
  });
  test('no text in it starts a formula', () => {
    for (const text of ['=1+1', '+1', '@x', '-cmd', '\t=1']) {
      const [row] = Papa.parse<Record<string, string>>(writesCsv([write({ note: text, who: text })]), { header: true }).data;
      expect(row?.note).toBe(`'${text}`);
      expect(row?.['unlocked by']).toBe(`'${text}`);
    }
  });
});
