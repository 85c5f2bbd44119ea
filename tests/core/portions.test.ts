import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { array, number, object, string, ValidationError } from 'yup';
import { validateInSlices } from '@/app/api/http/validateInSlices.ts';
import { inSlices } from '@/core/inSlices.ts';
import { arrayPortions, isLarge, jsonPortions } from '@/core/jsonPortions.ts';

describe('large JSON in portions', () => {
  const items = fc.array(fc.jsonValue(), { maxLength: 350 });
  test('an object comes out as JSON.stringify has it', () => {
    fc.assert(
      fc.property(items, items, fc.jsonValue(), (many, others, one) => {
        const value = { many, one, others, nothing: undefined };
        expect([...jsonPortions(value)].join('')).toBe(JSON.stringify(value));
      }),
      { numRuns: 60 },
    );
    expect([...jsonPortions({})].join('')).toBe('{}');
  });
  test('an array too, the empty one and one that ends with a portion included', () => {
    for (const n of [0, 1, 99, 100, 101, 200, 250]) {
      const list = Array.from({ length: n }, (_, i) => ({ i, text: `“${i}”` }));
      expect([...arrayPortions(list)].join('')).toBe(JSON.stringify(list));
    }
  });
  test('only what holds a long list is worth it', () => {
    expect(isLarge({ list: Array.from({ length: 101 }) })).toBe(true);
    expect([isLarge({ list: [1] }), isLarge([1]), isLarge(null), isLarge('text')]).toEqual([false, false, false, false]);
  });
});

describe('long work', () => {
  test('lets others have their turn between its steps', async () => {
    let turns = 0;
    const timer = setInterval(() => turns++, 1);
    await inSlices(
      (function* () {
        for (let i = 0; i < 40; i++) {
          const end = performance.now() + 2;
          while (performance.now() < end);
          yield;
        }
      })(),
    );
    clearInterval(timer);
    expect(turns).toBeGreaterThan(5);
  });
});

describe('a body with thousands of things', () => {
  const schema = object({
    name: string().required('A name is missing.'),
    rows: array()
      .of(object({ n: number().integer('n is whole.').required('n is missing.') }).noUnknown(true, 'A row has no such field.'))
      .max(500, 'Too many rows.')
      .required(),
  }).noUnknown(true, 'No such field.');
  const rows = (n: number): { n: number }[] => Array.from({ length: n }, (_, i) => ({ n: i }));
  /** What is said of a body, and where. */
  async function said(check: () => unknown): Promise<string> {
    try {
      await check();
      return 'fine';
    } catch (error) {
      if (!(error instanceof ValidationError)) throw error;
      return `${error.path}: ${error.message}`;
    }
  }
  const bodies: readonly (readonly [string, Record<string, unknown>])[] = [
    ['a good one', { name: 'x', rows: rows(300) }],
    ['a short one', { name: 'x', rows: rows(3) }],
    ['a bad item far back', { name: 'x', rows: [...rows(250), { n: 1.5 }] }],
    ['an unknown field of an item', { name: 'x', rows: [...rows(250), { n: 1, m: 2 }] }],
    ['an item that is none', { name: 'x', rows: [...rows(250), 'row'] }],
    ['too many', { name: 'x', rows: rows(501) }],
    ['a bad field beside them', { rows: rows(300) }],
    ['an unknown field beside them', { name: 'x', rows: rows(300), more: 1 }],
  ];
  test.each(bodies)('%s: the same is said as when it is checked at once', async (_name, body) => {
    const atOnce = await said(() => schema.validate(body, { strict: true }));
    expect(await said(() => validateInSlices(schema, body))).toBe(atOnce);
  });
});
