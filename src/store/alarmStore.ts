/** How alarms stand, and what became of them: stored one after the other, each with what it led to. */
import type { AlarmRecord } from '@/core/alarm/alarmLine.ts';
import type { Standing } from '@/core/alarm/alarmState.ts';
import type { Database, Row } from './database.ts';
import type { Statement } from './protocol.ts';
import { alarmEventsBefore } from './pruning.ts';

/** Events that go into one transaction. */
const TOGETHER = 500;
/** A machine that nobody edits has its old events removed all the same. */
const PRUNE_EVERY = 5000;

interface Waiting {
  readonly statements: readonly Statement[];
  readonly stored: () => void;
  readonly failed: (error: unknown) => void;
}

export interface AlarmLogFilter {
  readonly limit: number;
  readonly text?: string | undefined;
  readonly alarmId?: string | undefined;
}

export class AlarmStore {
  readonly #database: Database;
  /** What is to be stored yet, in its order: a flood of alarms is stored by the hundreds. */
  #waiting: Waiting[] = [];
  #storing: Promise<void> | null = null;
  #sincePruned = 0;

  constructor(database: Database) {
    this.#database = database;
  }

  async standings(): Promise<ReadonlyMap<string, Standing>> {
    const rows = await this.#database.query('select alarm_id, standing from alarm_standings', [], true);
    return new Map(rows.map((row) => [String(row.alarm_id), row.standing as Standing]));
  }

  /** @returns when it is stored */
  keep(alarmId: string, standing: Standing, event: Omit<AlarmRecord, 'seq' | 'alarmId'>): Promise<void> {
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
    return this.#store(statements);
  }

  forget(alarmId: string): void {
    this.#store([{ sql: 'delete from alarm_standings where alarm_id = $1', params: [alarmId] }]).catch((error: unknown) =>
      console.error('An alarm could not be forgotten:', error instanceof Error ? error.message : error),
    );
  }

  #store(statements: readonly Statement[]): Promise<void> {
    return new Promise((stored, failed) => {
      this.#waiting.push({ statements, stored, failed });
      this.#storing ??= this.#storeAll();
    });
  }

  async #storeAll(): Promise<void> {
    while (this.#waiting.length > 0) {
      const now = this.#waiting.splice(0, TOGETHER);
      // Of several of which one cannot be stored the others are stored one by one.
      if (!(await this.#storeTogether(now))) for (const one of now) await this.#storeTogether([one], one.failed);
      this.#sincePruned += now.length;
      if (this.#sincePruned < PRUNE_EVERY) continue;
      this.#sincePruned = 0;
      await this.#database
        .transaction(alarmEventsBefore({}))
        .catch((error: unknown) => console.error('Old events of alarms could not be removed:', error));
    }
    // At once: what is kept from here on begins anew.
    this.#storing = null;
  }

  async #storeTogether(all: readonly Waiting[], failed: (error: unknown) => void = () => undefined): Promise<boolean> {
    try {
      await this.#database.transaction(
        all.flatMap((one) => one.statements),
        true,
      );
    } catch (error) {
      failed(error);
      return false;
    }
    for (const { stored } of all) stored();
    return true;
  }

  /** The newest first. */
  async records({ limit, text, alarmId }: AlarmLogFilter): Promise<readonly AlarmRecord[]> {
    await this.#storing;
    const rows = await this.#database.query(
      `select seq, at, alarm_id, kind, text, priority, group_name, done_by, note from alarm_events
       where ($2::text is null or strpos(lower(concat_ws(' ', text, group_name, done_by, note)), lower($2)) > 0) and ($3::uuid is null or alarm_id = $3)
       order by seq desc limit $1`,
      [limit, text ?? null, alarmId ?? null],
      true,
    );
    return rows.map(recordOf);
  }

  async close(): Promise<void> {
    await this.#storing;
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
