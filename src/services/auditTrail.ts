/** The audit trail. An entry is stored beside what it tells of, and does not hold it up. */
import type { AuditEntry, AuditFilter, AuditKind } from '@/core/live/auditEntry.ts';
import type { Clock } from '@/drivers/contract.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Database } from '@/store/database.ts';

const LONGEST = 500;

export type RecordAudit = (kind: AuditKind, who: string, detail: string) => void;

export class AuditTrail {
  readonly #database: Database;
  readonly #clock: Clock;
  #last: Promise<unknown> = Promise.resolve();

  constructor(database: Database, clock: Clock) {
    this.#database = database;
    this.#clock = clock;
  }

  readonly record: RecordAudit = (kind, who, detail) => {
    const entry = [isoTime(this.#clock), kind, who, detail.slice(0, LONGEST)];
    this.#last = this.#database
      .query('insert into audit (at, kind, who, detail) values ($1, $2, $3, $4)', entry)
      .catch((error: unknown) => console.error(`Not in the audit trail: ${entry.join(' · ')}:`, error instanceof Error ? error.message : error));
  };

  /** The newest first. */
  async entries({ limit, text, kind }: AuditFilter): Promise<readonly AuditEntry[]> {
    await this.#last;
    const rows = await this.#database.query(
      `select seq, at, kind, who, detail from audit
       where ($2::text is null or strpos(lower(who || ' ' || detail), lower($2)) > 0) and ($3::text is null or kind = $3)
       order by seq desc limit $1`,
      [limit, text ?? null, kind ?? null],
      true,
    );
    return rows.map((row) => ({
      seq: Number(row.seq),
      at: new Date(row.at as string).toISOString(),
      kind: row.kind as AuditKind,
      who: String(row.who),
      detail: String(row.detail),
    }));
  }

  /** Waits for what is still to be stored. */
  async close(): Promise<void> {
    await this.#last;
  }
}
