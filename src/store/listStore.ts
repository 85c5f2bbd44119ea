/** Every version of a list as it was imported. Versions are only ever added. */
import type { ListVersion } from '@/core/taglist/draft.ts';
import type { Database } from './database.ts';
import type { Statement } from './protocol.ts';

export class ListStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /**
   * To be stored with the change that switches to it.
   * @param packed its tags, packed; empty where they are those of a pack that is stored with it
   */
  adding(version: ListVersion, packed: string, packId: string | null): Statement {
    const { id, sourceId, at, fileName, origin, rowCount, programVersion } = version;
    return {
      sql: 'insert into list_versions (id, source_id, at, file_name, origin, row_count, program_version, packed, pack_id) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)',
      params: [id, sourceId, at, fileName, origin, rowCount, programVersion, packed, packed === '' ? packId : null],
    };
  }

  /** The tags of a version, packed; null when there is none. */
  async packed(versionId: string): Promise<string | null> {
    const sql = 'select coalesce(p.packed, v.packed) as packed from list_versions v left join packs p on p.id = v.pack_id where v.id = $1';
    const row = (await this.#database.query(sql, [versionId]))[0];
    return row ? String(row.packed) : null;
  }

  async versions(sourceId: string): Promise<readonly ListVersion[]> {
    const rows = await this.#database.query(
      'select id, source_id, at, file_name, origin, row_count, program_version from list_versions where source_id = $1 order by at desc',
      [sourceId],
    );
    return rows.map((row) => ({
      id: String(row.id),
      sourceId: String(row.source_id),
      at: new Date(row.at as string).toISOString(),
      fileName: String(row.file_name),
      origin: String(row.origin),
      rowCount: Number(row.row_count),
      programVersion: String(row.program_version),
    }));
  }
}
