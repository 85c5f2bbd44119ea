/** How alarms stand, and what became of them: stored one after the other, each with what it led to. */
import type { AlarmRecord } from '@/core/alarm/alarmLine.ts';
import type { Standing } from '@/core/alarm/alarmState.ts';
import type { Database, Row } from './database.ts';
import type { Statement } from './protocol.ts';

/** Events that are kept; the oldest go. */
const MOST_EVENTS = 100_000;

export interface AlarmLogFilter {
  readonly limit: number;
  readonly text?: string | undefined;
  readonly alarmId?: string | undefined;
}

export class AlarmStore {
  readonly #database: Database;
  #last: Promise<unknown> = Promise.resolve();

  constructor(database: Database) {
    this.#database = database;
  }

  async standings(): Promise<ReadonlyMap<string, Standing>> {
    const rows = await this.#database.query('select alarm_id, standing from alarm_standings', [], true);
    return new Map(rows.map((row) => [String(row.alarm_id), row.standing as Standing]));
  }

  /** @returns when it is stored */
  keep(alarmId: string, standing: Standing, event: Omit<AlarmRecord, 'seq' | 'alarmId'>): Promise<unknown> {
    const statements: readonly Statement[] = [
      {
        sql: `insert into alarm_standings (alarm_id, standing) values ($1, $2)
              on conflict (alarm_id) do update set standing = excluded.standing`,
        params: [alarmId, JSON.stringify(standing)],
      },
      {
        sql: `insert into alarm_events (at, alarm_id, kind, text, priority, group_name, done_by, note) values ($1, $2, $3, $4, $5, $6, $7, $8)`,
        params: [event.at, alarmId, event.kind, event.text, event.priority, event.group, event.by, event.note],
      },
    ];
    const done = this.#last.then(() => this.#database.transaction(statements));
    this.#last = done.catch(() => undefined);
    return done;
  }

  forget(alarmId: string): void {
    this.#last = this.#last
      .then(() => this.#database.query('delete from alarm_standings where alarm_id = $1', [alarmId]))
      .catch((error: unknown) => console.error('An alarm could not be forgotten:', error instanceof Error ? error.message : error));
  }

  /** The newest first. */
  async records({ limit, text, alarmId }: AlarmLogFilter): Promise<readonly AlarmRecord[]> {
    await this.#last;
    const rows = await this.#database.query(
      `select seq, at, alarm_id, kind, text, priority, group_name, done_by, note from alarm_events
       where ($2::text is null or strpos(lower(concat_ws(' ', text, group_name, done_by, note)), lower($2)) > 0) and ($3::uuid is null or alarm_id = $3)
       order by seq desc limit $1`,
      [limit, text ?? null, alarmId ?? null],
      true,
    );
    return rows.map(recordOf);
  }

  async prune(): Promise<void> {
    await this.#database.query('delete from alarm_events where seq <= (select max(seq) - $1 from alarm_events)', [MOST_EVENTS]);
  }

  async close(): Promise<void> {
    await this.#last;
  }
}

function recordOf(row: Row): AlarmRecord {
  return {
    seq: Number(row.seq),
    at: new Date(row.at as string).toISOString(),
    alarmId: String(row.alarm_id),
    kind: row.kind as AlarmRecord['kind'],
    text: String(row.text),
    priority: row.priority as AlarmRecord['priority'],
    group: String(row.group_name),
    by: String(row.done_by),
    note: String(row.note),
  };
}
