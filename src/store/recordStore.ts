/** The log of writes: only ever added to, never undone. */
import { v7 as uuid } from 'uuid';
import type { WriteRecord, WriteState } from '@/core/live/writeOutcome.ts';
import type { ValueJson } from '@/core/value/engineering.ts';
import type { Database, Row } from './database.ts';
import type { Statement } from './protocol.ts';

/** Which writes to list, the newest first. Texts are looked for anywhere, upper and lower case alike. */
export interface WriteFilter {
  readonly limit: number;
  readonly text?: string | undefined;
  readonly state?: WriteState | undefined;
  readonly origin?: string | undefined;
  /** ISO times, the first included. */
  readonly from?: string | undefined;
  readonly to?: string | undefined;
}

export class RecordStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /** The id of this data folder, made when it is first asked for. */
  async installation(): Promise<string> {
    await this.#database.query(`insert into server_settings (key, value) values ('installation', $1) on conflict (key) do nothing`, [{ id: uuid() }]);
    const row = (await this.#database.query(`select value from server_settings where key = 'installation'`))[0];
    return (row?.value as { readonly id: string }).id;
  }

  /** Stores what was prepared elsewhere, in one transaction. */
  async store(statements: readonly Statement[]): Promise<void> {
    await this.#database.transaction(statements);
  }

  /** @returns false when there is an entry with this id already: it is left as it is */
  async addWrite(write: WriteRecord): Promise<boolean> {
    const added = await this.#database.query(
      `insert into write_log (id, at, tag_id, tag_name, device_name, origin, who, old_value, asked, sent, held, state, note, done_by, host)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15) on conflict (id) do nothing returning id`,
      [
        write.id,
        write.at,
        write.tagId,
        write.tagName,
        write.deviceName,
        write.origin,
        write.who,
        write.old,
        write.asked,
        write.sent,
        write.held,
        write.state,
        write.note,
        write.by,
        write.host,
      ],
    );
    return added.length > 0;
  }

  /** Of a panel host: one that was here already takes what has become of it since. */
  async takeFetched(write: WriteRecord): Promise<void> {
    if (!(await this.addWrite(write))) await this.completeWrite(write.id, write.state, write.held, write.note);
  }

  async write(id: string): Promise<WriteRecord | null> {
    const rows = await this.#database.query(`select ${WRITE_COLUMNS} from write_log where id = $1`, [id]);
    return rows[0] ? writeOf(rows[0]) : null;
  }

  async completeWrite(id: string, state: WriteState, held: ValueJson | null, note: string): Promise<void> {
    await this.#database.query('update write_log set state = $2, held = $3, note = $4 where id = $1', [id, state, held, note]);
  }

  /** A server that was killed between sending and the reply leaves writes of which nobody knows. */
  async settleOrphans(): Promise<void> {
    await this.#database.query(
      `update write_log set state = 'unknown', note = 'The server ended before the reply came: unknown whether it was done.' where state = 'sent' and host = ''`,
    );
  }

  async writes({ limit, text, state, origin, from, to }: WriteFilter): Promise<readonly WriteRecord[]> {
    const rows = await this.#database.query(
      `select ${WRITE_COLUMNS} from write_log
       where ($2::text is null or strpos(lower(concat_ws(' ', tag_name, device_name, who, done_by, host, note)), lower($2)) > 0)
         and ($3::text is null or state = $3) and ($4::text is null or origin = $4)
         and ($5::timestamptz is null or at >= $5) and ($6::timestamptz is null or at < $6)
       order by at desc, id desc limit $1`,
      [limit, text ?? null, state ?? null, origin ?? null, from ?? null, to ?? null],
      true,
    );
    return rows.map(writeOf);
  }
}

const WRITE_COLUMNS = 'id, at, tag_id, tag_name, device_name, origin, who, old_value, asked, sent, held, state, note, done_by, host';

function writeOf(row: Row): WriteRecord {
  return {
    id: String(row.id),
    at: new Date(row.at as string).toISOString(),
    tagId: String(row.tag_id),
    tagName: String(row.tag_name),
    deviceName: String(row.device_name),
    origin: row.origin as WriteRecord['origin'],
    who: String(row.who),
    by: String(row.done_by),
    host: String(row.host),
    old: row.old_value as ValueJson | null,
    asked: row.asked as ValueJson,
    sent: row.sent as ValueJson,
    held: row.held as ValueJson | null,
    state: row.state as WriteState,
    note: String(row.note),
  };
}
