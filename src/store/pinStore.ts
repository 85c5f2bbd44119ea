/** PINs of people at panels: salted and hashed with scrypt (RFC 7914; parameters of the OWASP Password Storage Cheat Sheet, from memory). */
import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';
import type { Database } from './database.ts';

/** 16 MB and five rounds. */
const COST: ScryptOptions = { N: 2 ** 14, r: 8, p: 5, maxmem: 64 * 1024 * 1024 };
const HASH_BYTES = 32;
const SALT_BYTES = 16;
/** Hashed in the place of a PIN that is not there, so that an answer takes as long. */
const NOBODY = { salt: Buffer.alloc(SALT_BYTES), hash: Buffer.alloc(HASH_BYTES) };

export class PinStore {
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  async keep(operatorId: string, pin: string): Promise<void> {
    const salt = randomBytes(SALT_BYTES);
    const hash = await hashed(pin, salt);
    await this.#database.query(
      `insert into operator_pins (operator_id, salt, hash) values ($1, $2, $3)
       on conflict (operator_id) do update set salt = excluded.salt, hash = excluded.hash`,
      [operatorId, salt.toString('base64'), hash.toString('base64')],
    );
  }

  /** Those who have one. */
  async known(): Promise<readonly string[]> {
    return (await this.#database.query('select operator_id from operator_pins')).map((row) => String(row.operator_id));
  }

  async isRight(operatorId: string, pin: string): Promise<boolean> {
    const [row] = await this.#database.query('select salt, hash from operator_pins where operator_id = $1', [operatorId]);
    const kept = row ? { salt: Buffer.from(String(row.salt), 'base64'), hash: Buffer.from(String(row.hash), 'base64') } : NOBODY;
    const isSame = timingSafeEqual(await hashed(pin, kept.salt), kept.hash);
    return isSame && row !== undefined;
  }
}

function hashed(pin: string, salt: Buffer): Promise<Buffer> {
  return new Promise((resolve, reject) => scrypt(pin, salt, HASH_BYTES, COST, (error, hash) => (error ? reject(error) : resolve(hash))));
}
