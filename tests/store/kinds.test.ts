import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { ENTITY_KINDS, KINDS, REFERENCES } from '@/core/project/entities.ts';
import { fieldsOf } from '@/core/project/kinds/kind.ts';
import { Database } from '@/store/database.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES } from '../support/services.ts';

/** A kind is written once; the database has to have room for what it says. */
let database: Database;
beforeAll(async () => {
  database = await Database.open(newFolder().folder, DATABASE_FILES);
});
afterAll(() => database.close());

describe.each(ENTITY_KINDS)('%s', (kind) => {
  test('every field has a column that can hold it, and no column is left over', async () => {
    const rows = await database.query('select column_name, data_type from information_schema.columns where table_name = $1', [KINDS[kind].table]);
    const types = new Map(rows.map((row) => [String(row.column_name), String(row.data_type)]));
    expect([...types.keys()].sort()).toEqual(
      fieldsOf(KINDS[kind])
        .map(([, { column }]) => column)
        .sort(),
    );
    for (const [name, { column, stored }] of fieldsOf(KINDS[kind])) {
      const fits = {
        text: /^(text|uuid)$/,
        number: /^(integer|double precision|bigint|smallint)$/,
        plain: /^(jsonb|boolean|text)$/,
      }[stored];
      expect(`${name} ${types.get(column) ?? ''}`).toMatch(new RegExp(`^${name} ${fits.source.slice(1)}`));
    }
  });
  test('what it belongs to is stored before it', () => {
    for (const { to } of REFERENCES.filter((reference) => reference.kind === kind && reference.whenGone === 'removed'))
      expect(ENTITY_KINDS.indexOf(to)).toBeLessThan(ENTITY_KINDS.indexOf(kind));
  });
});
