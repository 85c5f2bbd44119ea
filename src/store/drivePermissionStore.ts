/** What tags may be set to for a check. */
import type { DrivePermission } from '@/core/check/driving/permission.ts';
import type { Database, Row } from './database.ts';

export class DrivePermissionStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async all(): Promise<readonly DrivePermission[]> {
    return (await this.#database.query('select tag_id, digest, low, high, moves, who, at from drive_permissions')).map(permissionOf);
  }

  async keep({ tagId, digest, range, moves, who, at }: DrivePermission): Promise<void> {
    await this.#database.query(
      `insert into drive_permissions (tag_id, digest, low, high, moves, who, at) values ($1, $2, $3, $4, $5, $6, $7)
       on conflict (tag_id) do update set digest = excluded.digest, low = excluded.low, high = excluded.high, moves = excluded.moves,
         who = excluded.who, at = excluded.at`,
      [tagId, digest, range?.low ?? null, range?.high ?? null, moves, who, at],
    );
  }

  async forget(tagId: string): Promise<void> {
    await this.#database.query('delete from drive_permissions where tag_id = $1', [tagId]);
  }
}

function permissionOf(row: Row): DrivePermission {
  return {
    tagId: String(row.tag_id),
    digest: String(row.digest),
    range: row.low === null || row.high === null ? null : { low: Number(row.low), high: Number(row.high) },
    moves: row.moves === true,
    who: String(row.who),
    at: new Date(row.at as string).toISOString(),
  };
}
