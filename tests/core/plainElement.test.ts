/** What is passed quickly is what the schema passes: the quick way must never let in what the slow one refuses. */
import { describe, expect, test } from '@jest/globals';
import { validateInSlices } from '@/app/api/http/validateInSlices.ts';
import { ELEMENT_KINDS } from '@/core/panel/kinds.ts';
import { COMMAND_SCHEMA } from '@/core/project/command.ts';
import { ENTITY_SCHEMAS } from '@/core/project/entities.ts';
import { isPlainElement } from '@/core/project/kinds/plainElement.ts';
import { uuidOf } from '../support/uuidOf.ts';

const good = {
  id: uuidOf(1),
  pageId: uuidOf(2),
  kind: 'bar',
  tagId: null,
  label: 'Bed',
  x: 0,
  y: 8,
  w: 40,
  h: 30,
  z: 0,
  group: '',
  isLocked: false,
  phone: { place: null, width: 'auto' },
  settings: { low: null, high: 100 },
};
const obeys = (element: object): boolean => ENTITY_SCHEMAS.element.isValidSync(element, { strict: true });

const VALUES: readonly unknown[] = [
  null, undefined, '', 'x', 'x\ny', '\u007f', 'x'.repeat(37), 'x'.repeat(401), 0, 1, -1, 0.5, -8000, 8000, 8001, -8001, 1e6, 1_000_001, NaN, Infinity,
  true, [], {}, { place: null, width: 'auto' }, { place: null, width: 'auto', more: 1 }, { place: 1, width: 'half' }, { place: null },
  uuidOf(9), '01a20bcf', new Date(0), ...ELEMENT_KINDS, 'toString', '__proto__',
]; // prettier-ignore
const SETTINGS: readonly unknown[] = [
  {}, [], null, { low: null }, { low: Infinity }, { low: NaN }, { low: 'much' }, { low: { by: 'KILN.bed' } }, { low: { by: 1 } }, { low: undefined },
  { decimals: null }, { decimals: Infinity }, { decimals: 1.5 }, { decimals: 2 }, { visible: { by: 'x > 1' } }, { actions: [] }, { states: [] },
  { states: [{ at: 0, to: null, text: '', look: 'on', symbol: null }] }, { states: [{ at: Infinity, to: null, text: '', look: 'on', symbol: null }] },
  { template: 'Stand' }, { symbol: 'pump' }, { symbol: 'toString' }, { toString: 1 }, JSON.parse('{"__proto__":1}'), { template: 'x'.repeat(3000) },
]; // prettier-ignore

describe('an element that is passed quickly', () => {
  test('is one that the schema passes, whatever stands in one field', () => {
    expect([isPlainElement(good), obeys(good)]).toEqual([true, true]);
    let passed = 0;
    for (const field of [...Object.keys(good), 'other'])
      for (const value of VALUES) {
        const element = { ...good, [field]: value };
        if (!isPlainElement(element)) continue;
        passed++;
        if (!obeys(element)) throw new Error(`${field}: ${String(value)}`);
      }
    expect(passed).toBeGreaterThan(30);
    for (const field of Object.keys(good))
      expect(isPlainElement(Object.fromEntries(Object.entries(good).filter(([key]) => key !== field)))).toBe(false);
  });
  test('whatever its settings are, also after others that JSON writes alike', () => {
    let passed = 0;
    for (let round = 0; round < 2; round++)
      for (const kind of ELEMENT_KINDS)
        for (const settings of SETTINGS) {
          const element = { ...good, kind, settings };
          if (!isPlainElement(element)) continue;
          passed++;
          if (!obeys(element)) throw new Error(`${kind}: ${JSON.stringify(settings)}`);
        }
    expect(passed).toBeGreaterThan(2 * ELEMENT_KINDS.length);
  });
});

describe('a change among thousands', () => {
  const changes = Array.from({ length: 150 }, (_, i) => ({ kind: 'element', id: uuidOf(i), set: null }));
  test.each([
    ['no kind', { id: uuidOf(1), set: null }],
    ['another kind', { kind: 'elements', id: uuidOf(1), set: null }],
    ['an id that is none', { kind: 'element', id: '1', set: null }],
    ['a list to set', { kind: 'element', id: uuidOf(1), set: [] }],
    ['nothing to set', { kind: 'element', id: uuidOf(1) }],
    ['more', { kind: 'element', id: uuidOf(1), set: null, more: 1 }],
    ['a field seen before that is none', { kind: 'element', id: uuidOf(1), set: {}, was: 1 }],
    ['no change', null],
  ])('is refused as one alone is: %s', async (_, change) => {
    const command = (all: readonly unknown[]) => ({ id: uuidOf(1), label: 'many', changes: all });
    await expect(validateInSlices(COMMAND_SCHEMA, command(changes))).resolves.toBeDefined();
    await expect(validateInSlices(COMMAND_SCHEMA, command([...changes, change]))).rejects.toThrow();
    await expect(validateInSlices(COMMAND_SCHEMA, command([change]))).rejects.toThrow();
  });
});
