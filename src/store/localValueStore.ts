/** What was written to local tags. */
import { fromJson, toJson, type ValueJson } from '@/core/value/engineering.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { Database } from './database.ts';

export class LocalValueStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async load(): Promise<ReadonlyMap<string, RawValue>> {
    const found = new Map<string, RawValue>();
    for (const { tag_id, value } of await this.#database.query('select tag_id, value from local_values')) {
      const read = fromJson(value as ValueJson);
      if (read.ok && !isDecimal(read.value)) found.set(String(tag_id), read.value);
    }
    return found;
  }

  async keep(tagId: string, value: RawValue): Promise<void> {
    await this.#database.query(`insert into local_values (tag_id, value) values ($1, $2) on conflict (tag_id) do update set value = excluded.value`, [
      tagId,
      toJson(value),
    ]);
  }
}
