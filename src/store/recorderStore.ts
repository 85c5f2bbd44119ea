/** What is recorded of the past, and how much of it is kept: a setting of this data folder. */
import type { RecorderSettings } from '@/core/check/recording/settings.ts';
import type { Database } from './database.ts';

const KEY = 'recorder';

export class RecorderStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async load(): Promise<RecorderSettings | null> {
    const [row] = await this.#database.query('select value from server_settings where key = $1', [KEY]);
    return (row?.value as RecorderSettings | undefined) ?? null;
  }

  async keep(settings: RecorderSettings): Promise<void> {
    await this.#database.query('insert into server_settings (key, value) values ($1, $2) on conflict (key) do update set value = excluded.value', [
      KEY,
      settings,
    ]);
  }
}
