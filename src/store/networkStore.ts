/** Settings of the network and the peers that have joined. */
import type { NetworkSettings, Peer, PeerRights } from '@/core/live/network.ts';
import type { Database } from './database.ts';

export interface StoredPeer extends Peer {
  readonly tokenHash: string;
}

export class NetworkStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async settings(): Promise<NetworkSettings | null> {
    const row = (await this.#database.query(`select value from server_settings where key = 'network'`))[0];
    return row ? (row.value as NetworkSettings) : null;
  }

  async saveSettings(settings: NetworkSettings): Promise<void> {
    await this.#database.query(
      `insert into server_settings (key, value) values ('network', $1) on conflict (key) do update set value = excluded.value`,
      [settings],
    );
  }

  async peers(): Promise<readonly StoredPeer[]> {
    const rows = await this.#database.query('select id, name, token_hash, rights, joined_at, seen_at from peers order by joined_at');
    return rows.map((row) => ({
      id: String(row.id),
      name: String(row.name),
      tokenHash: String(row.token_hash),
      rights: row.rights as PeerRights,
      joinedAt: new Date(row.joined_at as string).toISOString(),
      seenAt: new Date(row.seen_at as string).toISOString(),
    }));
  }

  async addPeer(peer: StoredPeer): Promise<void> {
    await this.#database.query('insert into peers (id, name, token_hash, rights, joined_at, seen_at) values ($1, $2, $3, $4, $5, $6)', [
      peer.id,
      peer.name,
      peer.tokenHash,
      peer.rights,
      peer.joinedAt,
      peer.seenAt,
    ]);
  }

  async updatePeer(id: string, rights: PeerRights, seenAt: string): Promise<void> {
    await this.#database.query('update peers set rights = $2, seen_at = $3 where id = $1', [id, rights, seenAt]);
  }

  async removePeer(id: string): Promise<void> {
    await this.#database.query('delete from peers where id = $1', [id]);
  }
}
