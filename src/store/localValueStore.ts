/** What was written to local tags. */
import { fromJson, toJson, type ValueJson } from '@/core/value/engineering.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { Database } from './database.ts';

export interface StoredLocalValue {
  readonly value: RawValue;
  /** When it was kept, in milliseconds since 1970; null where nobody noted it. */
  readonly at: number | null;
}

export class LocalValueStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async load(): Promise<ReadonlyMap<string, StoredLocalValue>> {
    const found = new Map<string, StoredLocalValue>();
    for (const { tag_id, value, kept_at } of await this.#database.query('select tag_id, value, kept_at from local_values')) {
      const read = fromJson(value as ValueJson);
      if (read.ok && !isDecimal(read.value))
        found.set(String(tag_id), { value: read.value, at: kept_at === null ? null : new Date(kept_at as string).getTime() });
    }
    return found;
  }

  /** @param at when, in milliseconds since 1970 */
  async keep(tagId: string, value: RawValue, at: number): Promise<void> {
    await this.#database.query(
      `insert into local_values (tag_id, value, kept_at) values ($1, $2, $3)
       on conflict (tag_id) do update set value = excluded.value, kept_at = excluded.kept_at`,
      [tagId, toJson(value), new Date(at).toISOString()],
    );
  }
}
