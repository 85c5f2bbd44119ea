import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { planReads } from '@/core/plan/readPlan.ts';

const spans = fc.array(fc.record({ start: fc.nat(600), count: fc.integer({ min: 1, max: 4 }) }), { maxLength: 80 });

describe('the read plan', () => {
  test('every value lies wholly in one request, and no request is beyond the limit', () => {
    fc.assert(
      fc.property(spans, fc.integer({ min: 4, max: 125 }), fc.nat(8), (wanted, maxCount, maxGap) => {
        const plan = planReads(wanted, { maxCount, maxGap });
        const covered = new Set<number>();
        for (const request of plan.requests) {
          expect(request.count).toBeLessThanOrEqual(maxCount);
          for (const index of request.spans) {
            const span = wanted[index];
            if (!span) throw new Error('unknown span');
            expect(span.start).toBeGreaterThanOrEqual(request.start);
            expect(span.start + span.count).toBeLessThanOrEqual(request.start + request.count);
            expect(covered.has(index)).toBe(false);
            covered.add(index);
          }
        }
        expect(covered.size).toBe(wanted.length);
      }),
    );
  });
  test('without permission nothing is read that no tag needs', () => {
    fc.assert(
      fc.property(spans, (wanted) => {
        const needed = new Set(wanted.flatMap((s) => Array.from({ length: s.count }, (_, i) => s.start + i)));
        for (const request of planReads(wanted, { maxCount: 125, maxGap: 0 }).requests)
          for (let at = request.start; at < request.start + request.count; at++) expect(needed.has(at)).toBe(true);
      }),
    );
  });
  test('125 neighbours are one request, 126 are two', () => {
    const row = (n: number): { start: number; count: number }[] => Array.from({ length: n }, (_, start) => ({ start, count: 1 }));
    expect(planReads(row(125), { maxCount: 125, maxGap: 0 }).requests).toHaveLength(1);
    expect(planReads(row(126), { maxCount: 125, maxGap: 0 }).requests).toHaveLength(2);
  });
  test('a four-register value at the limit moves to the next request whole', () => {
    const plan = planReads(
      [
        { start: 0, count: 123 },
        { start: 123, count: 4 },
      ],
      { maxCount: 125, maxGap: 0 },
    );
    expect(plan.requests.map((r) => [r.start, r.count])).toEqual([
      [0, 123],
      [123, 4],
    ]);
  });
  test('a value longer than any request is read in pieces and named as possibly torn', () => {
    const plan = planReads([{ start: 10, count: 300 }], { maxCount: 125, maxGap: 0 });
    expect(plan.requests).toEqual([]);
    expect(plan.torn).toEqual([
      {
        span: 0,
        pieces: [
          { start: 10, count: 125 },
          { start: 135, count: 125 },
          { start: 260, count: 50 },
        ],
      },
    ]);
  });
  test('on 500 random sets it costs as little as the best of all ways', () => {
    let state = 4711;
    const random = (n: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return (state >>> 8) % n;
    };
    for (let round = 0; round < 500; round++) {
      const wanted = Array.from({ length: 1 + random(12) }, () => ({ start: random(40), count: 1 + random(4) }));
      const limits = { maxCount: 4 + random(20), maxGap: random(6), cost: { perRequest: 1 + random(30), perAddress: 1 + random(4) } };
      const costOf = (requests: readonly { count: number }[]): number =>
        requests.reduce((sum, r) => sum + limits.cost.perRequest + r.count * limits.cost.perAddress, 0);
      expect(costOf(planReads(wanted, limits).requests)).toBe(bruteForce(wanted, limits));
    }
  });
});

/** The least cost over all sets of ranges that cover the spans: every span starts a range or lies in one before. */
function bruteForce(
  spans: readonly { start: number; count: number }[],
  { maxCount, maxGap, cost }: { maxCount: number; maxGap: number; cost: { perRequest: number; perAddress: number } },
): number {
  const used = new Set(spans.flatMap((s) => Array.from({ length: s.count }, (_, i) => s.start + i)));
  const ranges = new Map<string, { from: number; to: number; mask: number }>();
  for (const a of spans)
    for (const b of spans) {
      const [from, to] = [a.start, b.start + b.count];
      if (to <= from || to - from > maxCount) continue;
      let gap = 0;
      let isAllowed = true;
      for (let at = from; at < to; at++) {
        gap = used.has(at) ? 0 : gap + 1;
        if (gap > maxGap) isAllowed = false;
      }
      const mask = spans.reduce((m, s, i) => (s.start >= from && s.start + s.count <= to ? m | (1 << i) : m), 0);
      if (isAllowed && mask) ranges.set(`${from} ${to}`, { from, to, mask });
    }
  const best = new Map<number, number>([[0, 0]]);
  const all = (1 << spans.length) - 1;
  for (let covered = 0; covered <= all; covered++) {
    const so = best.get(covered);
    if (so === undefined) continue;
    for (const { from, to, mask } of ranges.values()) {
      const next = covered | mask;
      const total = so + cost.perRequest + (to - from) * cost.perAddress;
      if (next !== covered && total < (best.get(next) ?? Infinity)) best.set(next, total);
    }
  }
  return best.get(all) ?? Infinity;
}
