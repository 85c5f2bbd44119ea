/** Settings as data: what is refused, what is filled in, and what a form may send. */
import { describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { defaultsOf, isAsked, secretsIn, settingsSchema, type Setting } from '@/core/manifest/settingsSchema.ts';
import { filledIn, settingsAs, yupOf } from '@/core/manifest/yupOf.ts';
import { driverDescriptions } from '@/drivers/descriptions.ts';
import { MOCK_MANIFEST } from '../support/mockDriver.ts';

const SCHEMA = settingsSchema('A thing', {
  host: { type: 'string', title: 'Host', description: '', default: 'localhost', format: 'host' },
  name: { type: 'string', title: 'Name', description: '', pattern: '^[a-z]+$', 'x-refusal': 'Small letters.' },
  count: { type: 'integer', title: 'Count', description: '', default: 3, minimum: 1, maximum: 9 },
  unit: {
    type: 'integer',
    title: 'Unit',
    description: '',
    default: 1,
    anyOf: [
      { minimum: 0, maximum: 247 },
      { minimum: 255, maximum: 255 },
    ],
    'x-refusal': '0 to 247, or 255.',
  },
  kind: {
    type: 'string',
    title: 'Kind',
    description: '',
    default: 'a',
    oneOf: [
      { const: 'a', title: 'A' },
      { const: 'b', title: 'B' },
    ],
  },
  isOn: { type: 'boolean', title: 'Switch', description: '', default: false },
  list: { type: 'array', title: 'List', description: '', items: { type: 'string', pattern: '^[a-z]+$' }, default: [], maxItems: 3 },
  key: { type: 'string', title: 'Key', description: '', default: '', writeOnly: true, 'x-when': { setting: 'kind', is: ['b'] } },
  depth: { type: 'integer', title: 'Depth', description: '', default: 2, minimum: 1, maximum: 4, 'x-when': { setting: 'kind', is: ['b'] } },
});
const refusal = (settings: Record<string, unknown>): string => {
  try {
    yupOf(SCHEMA).validateSync(filledIn(SCHEMA, settings), { strict: true });
    return '';
  } catch (error) {
    return (error as Error).message;
  }
};
const GOOD = { name: 'abc' };

describe('settings of a driver', () => {
  test.each([
    [{}, 'The name is missing.'],
    [{ name: 'ABC1' }, 'Small letters.'],
    [{ ...GOOD, host: '300.1.1.1' }, 'An IPv4 address has four numbers from 0 to 255.'],
    [{ ...GOOD, host: 'a b' }, 'The host is a name or an IP address, such as 192.0.2.20.'],
    [{ ...GOOD, count: 10 }, 'The count is a whole number from 1 to 9.'],
    [{ ...GOOD, count: 1.5 }, 'The count is a whole number from 1 to 9.'],
    [{ ...GOOD, count: '3' }, 'The count is a whole number from 1 to 9.'],
    [{ ...GOOD, unit: 250 }, '0 to 247, or 255.'],
    [{ ...GOOD, kind: 'c' }, 'kind must be one of the following values: a, b'],
    [{ ...GOOD, isOn: 'yes' }, 'The switch is on or off.'],
    [{ ...GOOD, list: ['a', 'B1'] }, 'The list is not written that way.'],
    [{ ...GOOD, list: ['a', 'b', 'c', 'd'] }, 'The list has at most 3 lines.'],
    [{ ...GOOD, kind: 'b', key: 'secret!' }, 'The key is kept apart; give the id under which it is kept.'],
    [{ ...GOOD, kind: 'b', depth: 9 }, 'The depth is a whole number from 1 to 4.'],
    [{ ...GOOD, other: 1 }, 'A thing has no such setting.'],
    [{ ...GOOD, name: 'a\u0007' }, 'The name must not hold control characters.'],
  ])('%j is refused: %s', (settings, said) => expect(refusal(settings)).toBe(said));

  test('that are not asked for, as the others stand, need not fit', () => {
    expect(refusal({ ...GOOD, depth: 9 })).toBe('');
    expect([isAsked(SCHEMA.properties.depth as Setting, { kind: 'a' }), isAsked(SCHEMA.properties.depth as Setting, { kind: 'b' })]).toEqual([
      false,
      true,
    ]);
  });

  test('that a form sends as texts are taken for what they write', () => {
    const form = { name: 'abc', count: '4', unit: '255', isOn: 'true', list: 'one\n two \n', kind: 'b', key: '', depth: '3', host: '192.0.2.7' };
    expect(yupOf(SCHEMA).validateSync(form)).toEqual({ ...form, count: 4, unit: 255, isOn: true, list: ['one', 'two'], depth: 3 });
    expect(settingsAs<{ count: number }>(SCHEMA)({ name: 'abc' })).toMatchObject({ count: 3, host: 'localhost', list: [] });
  });

  test('have their secrets told, and are built once', () => {
    expect(secretsIn(SCHEMA)).toEqual(['key']);
    expect(yupOf(SCHEMA)).toBe(yupOf(SCHEMA));
  });
});

describe('every driver', () => {
  const manifests = [...driverDescriptions(), MOCK_MANIFEST];
  const schemas = manifests.flatMap(({ id, link, device, dialect, point }) => [link, device, dialect, point].map((schema) => [id, schema] as const));
  // Annotations of ours are keywords that say nothing to a validator; formats are ours too.
  const ajv = new Ajv2020({ strict: false, validateFormats: false });

  test.each(schemas)('%s describes itself by what is JSON Schema (draft 2020-12) to another library', (_id, schema) => {
    expect(ajv.validateSchema(JSON.parse(JSON.stringify(schema)) as object)).toBe(true);
  });

  test.each(schemas)('%s takes the numbers and choices that ajv takes, and no other', (_id, schema) => {
    const judge = ajv.compile(JSON.parse(JSON.stringify(schema)) as object);
    const numbers = Object.entries(schema.properties).filter(([, { type }]) => type === 'integer' || type === 'number');
    const choices = Object.entries(schema.properties).filter(([, setting]) => setting.type === 'string' && setting.oneOf);
    if (numbers.length + choices.length === 0) return;
    const field = fc.constantFrom(...numbers.map(([name]) => name), ...choices.map(([name]) => name));
    const value = fc.oneof(fc.integer({ min: -5, max: 70_000 }), fc.constantFrom('even', 'none', 'ABCD', 'CDAB', 'x', 0, 1, 2, 255, 248, 1.5));
    const whole = { ...defaultsOf(schema), ...('path' in schema.properties ? { path: '/dev/ttyUSB0' } : {}) };
    fc.assert(
      fc.property(field, value, (name, one) => {
        const settings = { ...whole, [name]: one };
        let isTaken = true;
        try {
          yupOf(schema).validateSync(settings, { strict: true });
        } catch {
          isTaken = false;
        }
        expect(isTaken).toBe(judge(settings));
      }),
    );
  });

  test.each(manifests.map((manifest) => [manifest.id, manifest] as const))(
    '%s keeps its groups and named options within its settings',
    (_id, manifest) => {
      const known = Object.keys(manifest.dialect.properties);
      for (const { fields } of manifest.dialectGroups) for (const field of fields) expect(known).toContain(field);
      for (const { settings } of manifest.namedDialects)
        expect(yupOf(manifest.dialect).isValidSync(filledIn(manifest.dialect, settings), { strict: true })).toBe(true);
    },
  );
});
