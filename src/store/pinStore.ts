/** PINs of people at panels: salted and hashed with scrypt (RFC 7914; parameters of the OWASP Password Storage Cheat Sheet, from memory). */
import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';
import type { Database } from './database.ts';

/** 16 MB and five rounds. */
const COST: ScryptOptions = { N: 2 ** 14, r: 8, p: 5, maxmem: 64 * 1024 * 1024 };
const HASH_BYTES = 32;
const SALT_BYTES = 16;
/** Hashed in the place of a PIN that is not there, so that an answer takes as long. */
const NOBODY = { salt: Buffer.alloc(SALT_BYTES), hash: Buffer.alloc(HASH_BYTES) };

/** In base64. */
export interface StoredPin {
  readonly salt: string;
  readonly hash: string;
}

/** Where PINs lie, by the ids of people. */
export interface PinRows {
  ids(): Promise<readonly string[]>;
  get(operatorId: string): Promise<StoredPin | null>;
  put(operatorId: string, pin: StoredPin): Promise<void>;
}

export class PinStore {
  readonly #rows: PinRows;

  constructor(rows: PinRows) {
    this.#rows = rows;
  }

  async keep(operatorId: string, pin: string): Promise<void> {
    const salt = randomBytes(SALT_BYTES);
    const hash = await hashed(pin, salt);
    await this.#rows.put(operatorId, { salt: salt.toString('base64'), hash: hash.toString('base64') });
  }

  /** Those who have one. */
  known(): Promise<readonly string[]> {
    return this.#rows.ids();
  }

  /** As it lies here: for a panel host, which the person is known at too. */
  stored(operatorId: string): Promise<StoredPin | null> {
    return this.#rows.get(operatorId);
  }

  /** One that was hashed elsewhere. */
  take(operatorId: string, pin: StoredPin): Promise<void> {
    return this.#rows.put(operatorId, pin);
  }

  async isRight(operatorId: string, pin: string): Promise<boolean> {
    const row = await this.#rows.get(operatorId);
    const kept = row ? { salt: Buffer.from(row.salt, 'base64'), hash: Buffer.from(row.hash, 'base64') } : NOBODY;
    const isSame = timingSafeEqual(await hashed(pin, kept.salt), kept.hash);
    return isSame && row !== null;
  }
}

export function pinTable(database: Database): PinRows {
  return {
    ids: async () => (await database.query('select operator_id from operator_pins')).map((row) => String(row.operator_id)),
    get: async (id) => {
      const [row] = await database.query('select salt, hash from operator_pins where operator_id = $1', [id]);
      return row ? { salt: String(row.salt), hash: String(row.hash) } : null;
    },
    put: async (id, { salt, hash }) => {
      await database.query(
        `insert into operator_pins (operator_id, salt, hash) values ($1, $2, $3)
         on conflict (operator_id) do update set salt = excluded.salt, hash = excluded.hash`,
        [id, salt, hash],
      );
    },
  };
}

function hashed(pin: string, salt: Buffer): Promise<Buffer> {
  return new Promise((resolve, reject) => scrypt(pin, salt, HASH_BYTES, COST, (error, hash) => (error ? reject(error) : resolve(hash))));
}
