/**
 * Secrets of links and devices: passwords, keys. Encrypted (AES-256-GCM, NIST SP 800-38D) with a key in a file of its own beside
 * the database, which only its owner can read. The project holds the ids under which they are kept, and nothing else leaves here.
 */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { v4 as uuid } from 'uuid';
import { secretsIn, type SettingsSchema } from '@/core/manifest/settingsSchema.ts';
import type { Database } from './database.ts';
import { writeWhole } from './writeWhole.ts';

const KEY_FILE = 'secret-key';
const KEY_BYTES = 32;
const IV_BYTES = 12;
const TAG_BYTES = 16;
const CIPHER = 'aes-256-gcm';

type Settings = Readonly<Record<string, unknown>>;

/** Where sealed secrets lie. */
export interface SecretRows {
  /** Ids, and what is kept under them in base64. */
  all(): Promise<readonly (readonly [id: string, sealed: string])[]>;
  add(id: string, sealed: string): Promise<void>;
}

export class SecretBox {
  readonly #rows: SecretRows;
  readonly #key: Buffer;
  readonly #sealed = new Map<string, Buffer>();

  private constructor(rows: SecretRows, key: Buffer) {
    this.#rows = rows;
    this.#key = key;
  }

  /** @throws Error when the key cannot be read or written */
  static async open(rows: SecretRows, folder: string): Promise<SecretBox> {
    const file = join(folder, KEY_FILE);
    const kept = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error)));
    const key = kept === null ? randomBytes(KEY_BYTES) : Buffer.from(kept.trim(), 'base64');
    if (key.length !== KEY_BYTES) throw new Error(`The file ${KEY_FILE} in the data folder holds no key.`);
    if (kept === null) await writeWhole(file, `${key.toString('base64')}\n`, 0o600);
    const box = new SecretBox(rows, key);
    for (const [id, sealed] of await rows.all()) box.#sealed.set(id, Buffer.from(sealed, 'base64'));
    return box;
  }

  /** @returns the id under which it is kept */
  async keep(secret: string): Promise<string> {
    const id = uuid();
    await this.keepAs(id, secret);
    return id;
  }

  /** Keeps one under the id that it has elsewhere. */
  async keepAs(id: string, secret: string): Promise<void> {
    const iv = randomBytes(IV_BYTES);
    // Bound to its id: a row that is moved to another opens nothing.
    const cipher = createCipheriv(CIPHER, this.#key, iv).setAAD(Buffer.from(id));
    const sealed = Buffer.concat([iv, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
    await this.#rows.add(id, sealed.toString('base64'));
    this.#sealed.set(id, sealed);
  }

  /** Null where it is not kept here, or was altered. */
  reveal(id: string): string | null {
    const sealed = this.#sealed.get(id);
    if (!sealed || sealed.length < IV_BYTES + TAG_BYTES) return null;
    try {
      const open = createDecipheriv(CIPHER, this.#key, sealed.subarray(0, IV_BYTES)).setAAD(Buffer.from(id));
      open.setAuthTag(sealed.subarray(-TAG_BYTES));
      return Buffer.concat([open.update(sealed.subarray(IV_BYTES, -TAG_BYTES)), open.final()]).toString('utf8');
    } catch {
      return null;
    }
  }

  /** Settings for a driver, with the secrets themselves; one that is not kept here is empty. */
  revealed(schema: SettingsSchema, settings: Settings): Settings {
    const names = secretsIn(schema);
    if (names.length === 0) return settings;
    const open = { ...settings };
    for (const name of names) {
      const id = settings[name];
      open[name] = typeof id === 'string' && id !== '' ? (this.reveal(id) ?? '') : '';
    }
    return open;
  }
}

export function secretTable(database: Database): SecretRows {
  return {
    all: async () => (await database.query('select id, sealed from secrets')).map((row) => [String(row.id), String(row.sealed)] as const),
    add: async (id, sealed) => {
      await database.query('insert into secrets (id, sealed) values ($1, $2)', [id, sealed]);
    },
  };
}
