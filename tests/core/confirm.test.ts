import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { confirmSchema, confirmText, parseConfirm, type Confirm } from '@/core/project/confirm.ts';
import { sameJson, sortedJson } from '@/core/project/sameJson.ts';
import { inSlices } from '@/core/inSlices.ts';
import type { Outcome } from '@/core/check/proof.ts';
import { outweighs, proofState } from '@/core/check/proofState.ts';
import { uuidOf } from '../support/uuidOf.ts';

const names = new Map([
  ['fan_speed', uuidOf(1)],
  ['belt speed 2', uuidOf(2)],
]);
const idOf = (name: string): string | null => names.get(name) ?? null;
const nameOf = (id: string): string | null => [...names].find(([, other]) => other === id)?.[0] ?? null;
const confirms: fc.Arbitrary<Confirm> = fc.oneof(
  fc.constant<Confirm>({ kind: 'equal' }),
  fc.constant<Confirm>({ kind: 'none' }),
  fc.nat(100_000).map((by): Confirm => ({ kind: 'tolerance', by: by / 100 })),
  fc.tuple(fc.constantFrom(...names.values()), fc.nat(100_000)).map(([tagId, by]): Confirm => ({ kind: 'follows', tagId, by: by / 100 })),
);

describe('how a write is confirmed, as a text in the map', () => {
  test('every way comes back as it was written', () => {
    fc.assert(fc.property(confirms, (confirm) => expect(parseConfirm(confirmText(confirm, nameOf), idOf)).toEqual({ ok: true, value: confirm })));
  });
  test.each<readonly [string, Confirm]>([
    ['', { kind: 'equal' }],
    ['Equal', { kind: 'equal' }],
    ['NONE', { kind: 'none' }],
    ['+-0.5', { kind: 'tolerance', by: 0.5 }],
    ['± 2', { kind: 'tolerance', by: 2 }],
    ['follows fan_speed', { kind: 'follows', tagId: uuidOf(1), by: 0 }],
    ['follows belt speed 2 ±5', { kind: 'follows', tagId: uuidOf(2), by: 5 }],
  ])('“%s” is understood', (text, confirm) => {
    expect(parseConfirm(text, idOf)).toEqual({ ok: true, value: confirm });
  });
  test.each(['soon', '±', '±-1', '±0,5', 'follows', 'follows nobody ±1'])('“%s” is refused, with what to write instead', (text) => {
    const done = parseConfirm(text, idOf);
    expect(done.ok).toBe(false);
    expect(!done.ok && done.problem.remedy).toBeTruthy();
  });
  test('only whole and harmless settings are stored', () => {
    const isTaken = (value: unknown): boolean => confirmSchema().isValidSync(value);
    fc.assert(fc.property(confirms, (confirm) => isTaken(confirm)));
    for (const wrong of [
      {},
      { kind: 'equal', by: 1 },
      { kind: 'tolerance' },
      { kind: 'tolerance', by: -1 },
      { kind: 'tolerance', by: NaN },
      { kind: 'follows', by: 1, tagId: 'x' },
      [],
    ])
      expect(isTaken(wrong)).toBe(false);
  });
});

describe('what a sender saw before', () => {
  test('is the same whatever order its fields came in, and not for any other difference', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.jsonValue()), (value) => {
        const turned = Object.fromEntries(Object.entries(value).reverse());
        expect(sameJson(value, turned)).toBe(true);
        expect(sameJson(value, { ...value, another: 1 })).toBe('another' in value && value.another === 1);
      }),
    );
    expect(sameJson({ a: { b: 1, c: [1, 2] } }, { a: { c: [1, 2], b: 1 } })).toBe(true);
    expect(sameJson({ a: [1, 2] }, { a: [2, 1] })).toBe(false);
    expect(sameJson(null, undefined)).toBe(false);
    expect(sortedJson({ b: 1, a: 2 })).toBe('{"a":2,"b":1}');
  });
});

describe('long work', () => {
  test('gives everything else its turn, and comes to the same end', async () => {
    let turns = 0;
    const timer = setInterval(() => turns++, 1);
    const sum = await inSlices(
      (function* () {
        let total = 0;
        for (let i = 0; i < 400; i++) {
          const until = performance.now() + 0.3;
          while (performance.now() < until) total += 0;
          total += i;
          yield;
        }
        return total;
      })(),
    );
    clearInterval(timer);
    expect(sum).toBe(79_800);
    expect(turns).toBeGreaterThan(3);
  });
});

describe('whether a tag is proven', () => {
  const proof = (digest: string, agrees: boolean, isElsewhere = false) => ({
    digest,
    outcome: agrees ? ('proven' as const) : ('failed' as const),
    witness: 'display',
    isElsewhere,
  });
  test.each([
    ['nobody has seen it', [], 'a', 'unproven'],
    ['a witness agreed with this path', [proof('a', true)], 'a', 'proven'],
    ['a witness disagreed with this path', [proof('a', false)], 'a', 'failed'],
    ['another path was proven', [proof('b', true)], 'a', 'changed'],
    ['another path had failed, which says nothing of this one', [proof('b', false)], 'a', 'unproven'],
    ['another path was proven, and this one fails', [proof('b', true), proof('a', false)], 'a', 'failed'],
    ['a witness agreed in another installation', [proof('a', true, true)], 'a', 'elsewhere'],
    ['a witness disagreed in another installation', [proof('a', false, true)], 'a', 'unproven'],
    ['another path was proven in another installation', [proof('b', true, true)], 'a', 'unproven'],
    ['its settings no longer fit together', [proof('a', true)], null, 'changed'],
  ])('%s', (_why, checked, digest, state) => {
    expect(proofState(checked, digest)).toBe(state);
  });

  const record = (outcome: Outcome, witness = 'display', isElsewhere = false) => ({ digest: 'a', outcome, witness, isElsewhere });
  test.each([
    ['wire and panel agree, after a witness saw it', record('consistent', 'page'), record('proven'), false],
    ['wire and panel agree, after a witness saw something else', record('consistent', 'page'), record('failed'), false],
    ['a panel agrees that differed before', record('consistent', 'panel'), record('failed', 'panel'), true],
    ['another panel shows something else than a witness saw: it may be the panel', record('failed', 'panel'), record('proven'), false],
    ['a witness sees something else than before', record('failed'), record('proven'), true],
    ['it was waived before', record('proven'), record('waived'), true],
    ['it was seen at this machine, and elsewhere later', record('failed', 'display', true), record('proven'), false],
    ['it was seen elsewhere, and at this machine later', record('consistent', 'page'), record('proven', 'display', true), true],
  ])('%s', (_why, newer, known, counts) => {
    expect(outweighs(newer, known)).toBe(counts);
  });
});
