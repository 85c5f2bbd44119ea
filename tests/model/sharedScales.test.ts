import { beforeEach, describe, expect, test } from '@jest/globals';
import type { Change } from '@/core/project/command.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [LINK, DEVICE, LOOP, STATE] = [uuidOf(1), uuidOf(2), uuidOf(3), uuidOf(4)];
const TAGS = [10, 11, 12].map(uuidOf) as [string, string, string];
const linear = (engB: number) => ({ kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB });

let model: ProjectModel;
const apply = (...changes: Change[]): void => {
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(planned.problem.message);
  model.apply(planned.value);
};
const give = (id: string, more: object = {}): Change => ({ kind: 'scale', id, set: { scale: { kind: 'none' }, sharedId: LOOP, ...more } });
const scaleOf = (id: string) => model.get('scale', id);
const tagOf = (id: string) => model.get('tag', id);

beforeEach(() => {
  model = new ProjectModel();
  apply(
    { kind: 'project', id: uuidOf(0), set: { name: 'P', dialects: [] } },
    { kind: 'link', id: LINK, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 502 } } },
    { kind: 'device', id: DEVICE, set: { linkId: LINK, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    ...TAGS.map((id, i): Change => ({ kind: 'tag', id, set: newTag(DEVICE, `input_${i}`, `HR${i}`) })),
    { kind: 'tag', id: STATE, set: { ...newTag(DEVICE, 'running', '00001'), type: 'BOOL' } },
    { kind: 'sharedScale', id: LOOP, set: { name: 'Loop', scale: linear(100), unit: 'mA', decimals: 2 } },
  );
});

describe('a shared scale', () => {
  test('is taken by a tag whole: its rule, its unit, its decimals', () => {
    apply(...TAGS.map((id) => give(id)));
    for (const id of TAGS) {
      expect(scaleOf(id)).toEqual({ id, sharedId: LOOP, scale: linear(100) });
      expect(tagOf(id)).toMatchObject({ unit: 'mA', decimals: 2 });
    }
  });
  test('what the same command says of the tag itself counts', () => {
    apply({ kind: 'tag', id: TAGS[0], set: { unit: 'bar' } }, give(TAGS[0]));
    expect(tagOf(TAGS[0])).toMatchObject({ unit: 'bar' });
  });
  test('is followed by all its tags, in one plan, and by no other', () => {
    apply(give(TAGS[0]), give(TAGS[1]), { kind: 'scale', id: TAGS[2], set: { scale: linear(7) } });
    const planned = model.plan([{ kind: 'sharedScale', id: LOOP, set: { scale: linear(50), unit: 'µA' } }]);
    if (!planned.ok) throw new Error(planned.problem.message);
    expect(planned.value.filter(({ kind }) => kind === 'scale').map(({ id }) => id).sort()).toEqual([TAGS[0], TAGS[1]]); // prettier-ignore
    const digest = (id: string): string => {
      const signal = model.effective(id);
      return signal.ok ? signal.value.digest : '';
    };
    const before = TAGS.map(digest);
    model.apply(planned.value);
    expect(scaleOf(TAGS[1])?.scale).toEqual(linear(50));
    expect(tagOf(TAGS[1])).toMatchObject({ unit: 'µA', decimals: 2 });
    // A proof of before is none of now.
    expect(TAGS.map((id, i) => digest(id) === before[i])).toEqual([false, false, true]);
  });
  test('leaves alone what a tag says otherwise', () => {
    apply(give(TAGS[0]));
    apply({ kind: 'tag', id: TAGS[0], set: { decimals: 4 } });
    apply({ kind: 'sharedScale', id: LOOP, set: { unit: 'V', decimals: 1 } });
    expect(tagOf(TAGS[0])).toMatchObject({ unit: 'V', decimals: 4 });
  });
  test('that goes on into another unit takes ranges and limits of its tags along; another change leaves them', () => {
    const [celsius, fahrenheit] = [
      { kind: 'power', exponent: -1 },
      { kind: 'unit', from: '°C', to: '°F' },
    ];
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: celsius, unit: '°C', decimals: 1 } }, give(TAGS[0]));
    const limits = { lowLow: null, low: null, high: 100, highHigh: null, hysteresis: 5, delayMs: 0 };
    apply({ kind: 'tag', id: TAGS[0], set: { rangeLow: 0, rangeHigh: 200, displayRange: { low: 20, high: 150 }, limits } });
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: { kind: 'chain', steps: [celsius, fahrenheit] }, unit: '°F' } });
    expect(tagOf(TAGS[0])).toMatchObject({
      unit: '°F',
      rangeLow: 32,
      rangeHigh: 392,
      displayRange: { low: 68, high: 302 },
      limits: { high: 212, hysteresis: 9 },
    });
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: celsius, unit: '°C' } });
    expect(tagOf(TAGS[0])).toMatchObject({ unit: '°C', rangeLow: 0, rangeHigh: 200, limits });
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: { kind: 'power', exponent: -2 } } });
    expect(tagOf(TAGS[0])).toMatchObject({ rangeLow: 0, rangeHigh: 200, limits });
  });
  test('is left by a tag whose scale is changed by itself', () => {
    apply(give(TAGS[0]), give(TAGS[1]));
    apply({ kind: 'scale', id: TAGS[0], set: { scale: linear(33) } });
    expect(scaleOf(TAGS[0])).toMatchObject({ sharedId: null, scale: linear(33) });
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: linear(60) } });
    expect([scaleOf(TAGS[0])?.scale, scaleOf(TAGS[1])?.scale]).toEqual([linear(33), linear(60)]);
  });
  test('when it is removed its tags keep the scale as their own', () => {
    apply(give(TAGS[0]));
    apply({ kind: 'sharedScale', id: LOOP, set: null });
    expect(scaleOf(TAGS[0])).toEqual({ id: TAGS[0], sharedId: null, scale: linear(100) });
  });
  test('is given in the command that makes it, and changed in the command that gives it', () => {
    const other = uuidOf(5);
    apply(
      { kind: 'sharedScale', id: other, set: { name: 'Other', scale: linear(9), unit: 'V', decimals: null } },
      give(TAGS[0], { sharedId: other }),
    );
    expect(scaleOf(TAGS[0])?.scale).toEqual(linear(9));
    expect(tagOf(TAGS[0])).toMatchObject({ unit: 'V', decimals: null });
    apply({ kind: 'sharedScale', id: LOOP, set: { scale: linear(20) } }, give(TAGS[1]));
    expect(scaleOf(TAGS[1])?.scale).toEqual(linear(20));
  });
  test('is refused to what is no number, by a name that is taken, and where it is not there', () => {
    const refused = (...changes: Change[]): string => {
      const planned = model.plan(changes);
      return planned.ok ? 'fits' : planned.problem.code;
    };
    expect(refused(give(STATE))).toBe('scale');
    expect(refused(give(TAGS[0], { sharedId: uuidOf(99) }))).toBe('reference');
    expect(refused({ kind: 'sharedScale', id: uuidOf(6), set: { name: 'LOOP', scale: linear(1), unit: '', decimals: null } })).toBe('name-taken');
    expect(refused({ kind: 'sharedScale', id: LOOP, set: { scale: { ...linear(1), rawB: 0 } } })).toBe('invalid');
  });
});

describe('units of a panel', () => {
  const panel = (units: readonly object[]): string => {
    const planned = model.plan([{ kind: 'panel', id: uuidOf(7), set: { name: 'P', units } }]);
    return planned.ok ? 'fits' : planned.problem.message;
  };
  test('convert, and each is shown in one other', () => {
    expect(panel([{ from: '°C', to: '°F' }, { from: 'bar', to: 'psi' }])).toBe('fits'); // prettier-ignore
    expect(panel([{ from: '°C', to: 'bar' }])).toContain('°C cannot become bar');
    expect(panel([{ from: '°C', to: '°F' }, { from: '°C', to: 'K' }])).toBe('Each unit is shown in one other.'); // prettier-ignore
    expect(panel([{ from: 'bags', to: 'kg' }])).toContain('is no unit that is known here');
  });
});
