/** Panel hosts that this bench is paired with. They are of this machine, not of the project. */
import type { Database, Row } from './database.ts';

export interface StoredHost {
  /** The host's own. */
  readonly id: string;
  readonly name: string;
  /** Host and port, as it is reached from here. */
  readonly address: string;
  /** By which the host knows this bench. */
  readonly benchId: string;
  /** Of the secret that seals what is said. */
  readonly keyId: string;
  /** ISO time. */
  readonly pairedAt: string;
  /** The panel that was sent last, and when; null for none yet. */
  readonly panelId: string | null;
  readonly sentAt: string | null;
  /** The last line of its log of writes that is here. */
  readonly logSeq: number;
}

export class PanelHostStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async all(): Promise<readonly StoredHost[]> {
    return (await this.#database.query(`select ${COLUMNS} from panel_hosts order by lower(name), id`)).map(hostOf);
  }

  /** In the place of the one of its id. */
  async keep({ id, name, address, benchId, keyId, pairedAt }: StoredHost): Promise<void> {
    await this.#database.query(
      `insert into panel_hosts (id, name, address, bench_id, key_id, paired_at) values ($1, $2, $3, $4, $5, $6)
       on conflict (id) do update set name = $2, address = $3, bench_id = $4, key_id = $5, paired_at = $6`,
      [id, name, address, benchId, keyId, pairedAt],
    );
  }

  async sent(id: string, panelId: string, at: string): Promise<void> {
    await this.#database.query('update panel_hosts set panel_id = $2, sent_at = $3 where id = $1', [id, panelId, at]);
  }

  async named(id: string, name: string): Promise<void> {
    await this.#database.query('update panel_hosts set name = $2 where id = $1', [id, name]);
  }

  async fetched(id: string, logSeq: number): Promise<void> {
    await this.#database.query('update panel_hosts set log_seq = $2 where id = $1', [id, logSeq]);
  }

  async remove(id: string): Promise<void> {
    await this.#database.query('delete from panel_hosts where id = $1', [id]);
  }
}

const COLUMNS = 'id, name, address, bench_id, key_id, paired_at, panel_id, sent_at, log_seq';

function hostOf(row: Row): StoredHost {
  return {
    id: String(row.id),
    name: String(row.name),
    address: String(row.address),
    benchId: String(row.bench_id),
    keyId: String(row.key_id),
    pairedAt: new Date(row.paired_at as string).toISOString(),
    panelId: row.panel_id === null ? null : (row.panel_id as string),
    sentAt: row.sent_at === null ? null : new Date(row.sent_at as string).toISOString(),
    logSeq: Number(row.log_seq),
  };
}
