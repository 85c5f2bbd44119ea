/** The bytes of pictures, by their digest. The project names them; what nothing names any more goes with what is pruned. */
import type { PictureType } from '@/core/picture/picture.ts';
import type { Database } from './database.ts';

export class PictureStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /** The same picture is kept once, however often it comes. */
  async keep(digest: string, type: PictureType, bytes: Uint8Array): Promise<void> {
    const sql = `insert into picture_data (digest, type, data) values ($1, $2, decode($3, 'base64')) on conflict (digest) do update set at = now()`;
    await this.#database.query(sql, [digest, type, Buffer.from(bytes).toString('base64')]);
  }

  /** Null for one that is not kept here. */
  async bytesOf(digest: string): Promise<Uint8Array<ArrayBuffer> | null> {
    const [row] = await this.#database.query(`select encode(data, 'base64') as data from picture_data where digest = $1`, [digest]);
    return row ? new Uint8Array(Buffer.from(String(row.data), 'base64')) : null;
  }
}
