/** Sets of values that panels have stored, by the name of what they are of. */
import type { StoredSet } from '@/core/panel/storedSet.ts';
import type { Database, Row } from './database.ts';

export class SetStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /** By name. */
  async list(list: string): Promise<readonly StoredSet[]> {
    const rows = await this.#database.query(
      'select id, name, at, done_by, set_values from stored_sets where lower(list) = lower($1) order by lower(name)',
      [list],
      true,
    );
    return rows.map(setOf);
  }

  /** In the place of the one of its name. */
  async keep(list: string, { id, name, at, by, values }: StoredSet): Promise<void> {
    await this.#database.query(
      `insert into stored_sets (id, list, name, at, done_by, set_values) values ($1, $2, $3, $4, $5, $6)
       on conflict (lower(list), lower(name)) do update
       set id = excluded.id, name = excluded.name, at = excluded.at, done_by = excluded.done_by, set_values = excluded.set_values`,
      [id, list, name, at, by, JSON.stringify(values)],
    );
  }

  async remove(id: string): Promise<void> {
    await this.#database.query('delete from stored_sets where id = $1', [id]);
  }
}

function setOf(row: Row): StoredSet {
  return {
    id: String(row.id),
    name: String(row.name),
    at: new Date(row.at as string).toISOString(),
    by: String(row.done_by),
    values: row.set_values as StoredSet['values'],
  };
}
