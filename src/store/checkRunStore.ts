/** Runs of checks: what was to be checked. What became of it is in the trail. */
import type { How, WitnessKind } from '@/core/check/proof.ts';
import type { Run } from '@/core/check/run.ts';
import type { Database, Row } from './database.ts';

const COLUMNS = 'id, name, who, witness, how, tag_ids, begun_at, ended_at';

export class CheckRunStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /** The newest first. */
  async newest(limit: number): Promise<readonly Run[]> {
    return (await this.#database.query(`select ${COLUMNS} from check_runs order by begun_at desc, id desc limit $1`, [limit])).map(runOf);
  }

  async get(id: string): Promise<Run | null> {
    const [row] = await this.#database.query(`select ${COLUMNS} from check_runs where id = $1`, [id]);
    return row ? runOf(row) : null;
  }

  async add({ id, name, who, witness, how, tagIds, begunAt }: Run): Promise<void> {
    await this.#database.query(
      'insert into check_runs (id, name, who, witness, how, tag_ids, begun_at) values ($1, $2, $3, $4, $5, $6, $7) on conflict (id) do nothing',
      [id, name, who, witness, how, tagIds, begunAt],
    );
  }

  async end(id: string, at: string | null): Promise<void> {
    await this.#database.query('update check_runs set ended_at = $2 where id = $1', [id, at]);
  }
}

function runOf(row: Row): Run {
  return {
    id: String(row.id),
    name: String(row.name),
    who: String(row.who),
    witness: row.witness as WitnessKind,
    how: row.how as How,
    tagIds: row.tag_ids as readonly string[],
    begunAt: new Date(row.begun_at as string).toISOString(),
    endedAt: row.ended_at === null ? null : new Date(row.ended_at as string).toISOString(),
  };
}
