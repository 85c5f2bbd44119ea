/** What simulated tags do: the values of each behaviour, and what is refused. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BEHAVIOUR_KINDS, checkBehaviour, wantedAt, type Behaviour } from '@/core/simulation/behaviour.ts';
import { readSequence } from '@/core/simulation/sequenceFile.ts';

const at = (behaviour: Behaviour, ...seconds: number[]) => seconds.map((s) => wantedAt(behaviour, s, 1));

describe('a behaviour', () => {
  test('a ramp goes there evenly, and then again, back, or no further', () => {
    const ramp = { kind: 'ramp', from: 20, to: 100, seconds: 8 } as const;
    expect(at({ ...ramp, end: 'again' }, 0, 2, 4, 8, 10)).toEqual([20, 40, 60, 20, 40]);
    expect(at({ ...ramp, end: 'back' }, 0, 4, 8, 12, 16, 18)).toEqual([20, 60, 100, 60, 20, 40]);
    expect(at({ ...ramp, end: 'stay' }, 0, 4, 8, 1000)).toEqual([20, 60, 100, 100]);
  });

  test('a swing is between its ends, in its time', () => {
    const sine = { kind: 'sine', low: 10, high: 30, seconds: 4 } as const;
    const [zero, quarter, half, threeQuarters] = at(sine, 0, 1, 2, 3) as number[];
    expect([zero, quarter, half, threeQuarters].map((v) => Number(v?.toFixed(9)))).toEqual([20, 30, 20, 10]);
  });

  test('a random one stays inside, is another in the next step and in another tag, and the same at the same moment', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 31 }), fc.double({ min: 0, max: 1e6, noNaN: true }), fc.boolean(), (seed, seconds, isSmooth) => {
        const random = { kind: 'random', low: -5, high: 5, seconds: 2, isSmooth } as const;
        const value = wantedAt(random, seconds, seed) as number;
        expect(value).toBeGreaterThanOrEqual(-5);
        expect(value).toBeLessThanOrEqual(5);
        expect(wantedAt(random, seconds, seed)).toBe(value);
      }),
    );
    const steps = { kind: 'random', low: 0, high: 1, seconds: 1, isSmooth: false } as const;
    const values = Array.from({ length: 2000 }, (_, i) => wantedAt(steps, i, 7) as number);
    expect(new Set(values).size).toBeGreaterThan(1990);
    // The mean of 2 000 evenly spread values lies within five standard errors (1/√12/√2000) of the middle.
    expect(Math.abs(values.reduce((a, b) => a + b, 0) / 2000 - 0.5)).toBeLessThan(5 * 0.00646);
    expect(wantedAt(steps, 3, 7)).not.toBe(wantedAt(steps, 3, 8));
  });

  test('one that glides makes no jump', () => {
    const glide = { kind: 'random', low: 0, high: 100, seconds: 10, isSmooth: true } as const;
    for (let s = 0; s < 100; s += 0.1)
      expect(Math.abs((wantedAt(glide, s + 0.1, 3) as number) - (wantedAt(glide, s, 3) as number))).toBeLessThanOrEqual(1.0001);
  });

  test('a sequence holds each value until the next, or glides; its last step ends it', () => {
    const steps = [
      { at: 0, value: '20' },
      { at: 10, value: '80' },
      { at: 20, value: '50' },
    ];
    const sequence = { kind: 'sequence', steps, end: 'stay', isSmooth: false } as const;
    expect(at(sequence, 0, 9.9, 10, 19, 20, 500)).toEqual(['20', '20', '80', '80', '50', '50']);
    expect(at({ ...sequence, end: 'again' }, 20, 31, 45)).toEqual(['20', '80', '20']);
    expect(at({ ...sequence, isSmooth: true }, 5, 15)).toEqual([50, 65]);
    const words = { ...sequence, steps: [{ at: 0, value: 'OATS' }, { at: 5, value: 'BARLEY' }], isSmooth: true }; // prettier-ignore
    expect(at(words, 4, 5)).toEqual(['OATS', 'BARLEY']);
  });

  test('what goes by other tags is not a matter of time', () => {
    expect(at({ kind: 'follow', tagId: 'x', factor: 2, shift: 0 }, 5)).toEqual([null]);
    expect(at({ kind: 'script', gives: { by: '1 + 1' } }, 5)).toEqual([null]);
  });
});

describe('refused', () => {
  const refused: readonly (readonly [what: unknown, place: string])[] = [
    [null, 'kind'],
    [{ kind: 'explode' }, 'kind'],
    [{ kind: 'hold' }, 'value'],
    [{ kind: 'hold', value: 'x', more: 1 }, 'more'],
    [{ kind: 'ramp', from: 0, to: NaN, seconds: 5, end: 'again' }, 'to'],
    [{ kind: 'ramp', from: 0, to: 1, seconds: 0, end: 'again' }, 'seconds'],
    [{ kind: 'ramp', from: 0, to: 1, seconds: 1e9, end: 'again' }, 'seconds'],
    [{ kind: 'ramp', from: 0, to: 1, seconds: 5, end: 'sideways' }, 'end'],
    [{ kind: 'sine', low: 5, high: 4, seconds: 5 }, 'low'],
    [{ kind: 'random', low: 0, high: Infinity, seconds: 5, isSmooth: true }, 'high'],
    [{ kind: 'follow', tagId: '', factor: 1, shift: 0 }, 'tagId'],
    [{ kind: 'sequence', steps: [], end: 'again', isSmooth: false }, 'steps'],
    [{ kind: 'sequence', steps: [{ at: 1, value: '1' }], end: 'again', isSmooth: false }, 'steps'],
    [{ kind: 'sequence', steps: [{ at: 0, value: '1' }, { at: 0, value: '2' }], end: 'again', isSmooth: false }, 'steps'], // prettier-ignore
    [{ kind: 'script', gives: { by: ' ' } }, 'gives'],
  ];
  test.each(refused.map(([what, place]) => [JSON.stringify(what), what, place] as const))('%s', (_, what, place) => {
    expect(checkBehaviour(what)).toMatchObject({ ok: false, problem: { place } });
  });
  test('of every kind there is one that is taken', () => {
    const good: readonly Behaviour[] = [
      { kind: 'hold', value: '' },
      { kind: 'ramp', from: 1, to: 0, seconds: 0.5, end: 'back' },
      { kind: 'sine', low: 0, high: 0, seconds: 1 },
      { kind: 'random', low: 0, high: 1, seconds: 1, isSmooth: false },
      { kind: 'follow', tagId: 'x', factor: -1, shift: 3 },
      { kind: 'sequence', steps: [{ at: 0, value: 'a' }], end: 'stay', isSmooth: false },
      { kind: 'script', gives: { by: 'sin(1)' } },
    ];
    expect(good.map(({ kind }) => kind)).toEqual(BEHAVIOUR_KINDS);
    for (const behaviour of good) expect(checkBehaviour(behaviour)).toEqual({ ok: true, value: behaviour });
  });
});

describe('a sequence from a CSV', () => {
  test.each([
    ['with headings and semicolons', 's;bed\n0;20\n60;85,5\n', [['0', '20'], ['60', '85.5']]], // prettier-ignore
    ['with tabs, a decimal comma and a byte order mark', '\uFEFF0\t1\n0,5\t2\n', [['0', '1'], ['0.5', '2']]], // prettier-ignore
    ['that begins at a time of its own', '100,1\n101,2\n', [['0', '1'], ['1', '2']]], // prettier-ignore
    ['with other line ends', '0,OFF\r\n5,ON\r\n', [['0', 'OFF'], ['5', 'ON']]], // prettier-ignore
  ])('%s', (_, text, wanted) => {
    const read = readSequence(text);
    expect(read.ok && read.value.map(({ at: time, value }) => [String(time), value])).toEqual(wanted);
  });
  test.each([
    ['0,1\nx,2', 'row 2', 'is no number of seconds'],
    ['0,1\n0,2', 'row 2', 'is not after'],
    ['0,1\n5', 'row 2', 'no value'],
    ['0,1,2', 'row 1', 'more than two columns'],
    ['', undefined, 'no row'],
  ])('%j is refused with its row', (text, place, message) => {
    const read = readSequence(text);
    expect(!read.ok && [read.problem.place, read.problem.message]).toEqual([place, expect.stringContaining(message)]);
  });
});
