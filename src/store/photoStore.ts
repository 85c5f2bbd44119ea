/** Photos of findings, by their digest. */
import type { Database } from './database.ts';

export class PhotoStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async keep(digest: string, bytes: Uint8Array): Promise<void> {
    const sql = `insert into check_photos (digest, data) values ($1, decode($2, 'base64')) on conflict (digest) do nothing`;
    await this.#database.query(sql, [digest, Buffer.from(bytes).toString('base64')]);
  }

  /** Null for one that is not kept here. */
  async bytesOf(digest: string): Promise<Uint8Array<ArrayBuffer> | null> {
    const [row] = await this.#database.query(`select encode(data, 'base64') as data from check_photos where digest = $1`, [digest]);
    return row ? new Uint8Array(Buffer.from(String(row.data), 'base64')) : null;
  }
}
