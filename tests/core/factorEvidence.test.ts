import { describe, expect, test } from '@jest/globals';
import { FactorEvidence, SCALE_UNPROVEN } from '@/core/check/factorEvidence.ts';
import type { Suggestion } from '@/core/check/explain.ts';

const scale = (value: string): Suggestion => ({ setting: 'scale', value, text: '', sentence: '' });
const order: Suggestion = { setting: 'order', value: 'CDAB', text: '', sentence: '' };

describe('a scale is never changed on the word of one value', () => {
  test('nor on that of the same value again; another value that the same factor explains proves it', () => {
    const evidence = new FactorEvidence();
    const weigh = (seen: number, ...found: Suggestion[]): string =>
      evidence
        .weigh('tag', 'path', seen, 0.1, found)
        .suggestions.map((s) => s.value)
        .join();
    expect(evidence.weigh('tag', 'path', 4.12, 0.1, [scale('0.1')])).toEqual({ suggestions: [], unproven: SCALE_UNPROVEN });
    expect(weigh(4.2, scale('0.1'))).toBe('');
    expect(weigh(6.3, scale('0.1'))).toBe('0.1');
  });
  test('another factor at the second value is no proof, and a path that was changed begins anew', () => {
    const evidence = new FactorEvidence();
    evidence.weigh('tag', 'path', 4, 0.1, [scale('0.1')]);
    expect(evidence.weigh('tag', 'path', 8, 0.1, [scale('0.01')]).suggestions).toEqual([]);
    expect(evidence.weigh('tag', 'other path', 6, 0.1, [scale('0.01')]).suggestions).toEqual([]);
    expect(evidence.weigh('other tag', 'path', 6, 0.1, [scale('0.01')]).suggestions).toEqual([]);
  });
  test('an order or a type is offered at once', () => {
    expect(new FactorEvidence().weigh('tag', 'path', 4, 0.1, [order, scale('10')])).toEqual({ suggestions: [order], unproven: null });
  });
});
