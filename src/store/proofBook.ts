/**
 * The records of proofs: only ever added to. Each names the hash of the one before it and is signed (Ed25519, RFC 8032)
 * with a key that lies in the data folder, beside the database: what was put into the database by hand, or into a project
 * file, is no proof of this installation.
 */
import { createHash, createPrivateKey, createPublicKey, generateKeyPairSync, sign, verify, type KeyObject } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Proof, Seal } from '@/core/check/checkResult.ts';
import { inSlices } from '@/core/inSlices.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import type { Database, Row } from './database.ts';
import type { Statement } from './protocol.ts';
import { writeWhole } from './writeWhole.ts';

const KEY_FILE = 'proof-key.json';
/** What the first record comes after. */
const BEGINNING = '0'.repeat(64);
const COLUMNS = 'seq, tag_id, digest, agrees, witness, who, at, seen, made_in, after_hash, signature';

/** @see Proof; made here where it does not say where. */
export interface StoredProof extends Omit<Proof, 'madeIn' | 'isElsewhere'> {
  readonly madeIn: string | null;
}
export interface SealedProof extends StoredProof {
  readonly seal: Seal;
}

export interface Book {
  /** In the order of their records. */
  readonly proofs: readonly SealedProof[];
  /** Records that are not what was signed here. They prove nothing. */
  readonly altered: number;
  /** Places at which records are missing, or were put in another order. */
  readonly gaps: number;
}

export class ProofBook {
  readonly #database: Database;
  readonly #privateKey: KeyObject;
  readonly #publicKey: KeyObject;
  /** One after the other: each names the one before it. */
  #queue: Promise<unknown> = Promise.resolve();

  private constructor(database: Database, privateKey: KeyObject) {
    this.#database = database;
    this.#privateKey = privateKey;
    this.#publicKey = createPublicKey(privateKey);
  }

  /** @throws Error when the key cannot be read or written */
  static async open(database: Database, folder: string): Promise<ProofBook> {
    const file = join(folder, KEY_FILE);
    const kept = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error)));
    if (kept !== null) return new ProofBook(database, createPrivateKey((JSON.parse(kept) as { readonly privateKey: string }).privateKey));
    const { privateKey } = generateKeyPairSync('ed25519');
    const book = new ProofBook(database, privateKey);
    // Records that were there before there was any key are taken over as they are, once.
    if (!(await book.#isSealed())) await book.#sealAll();
    await writeWhole(file, JSON.stringify({ privateKey: privateKey.export({ type: 'pkcs8', format: 'pem' }) }), 0o600);
    return book;
  }

  /** Reads all records and looks whether they are what was signed. */
  async load(): Promise<Book> {
    const rows = await this.#database.query(`select ${COLUMNS} from proofs order by seq`, [], true);
    return inSlices(this.#judging(rows));
  }

  /**
   * Adds records, all or none.
   * @param store runs the statements in a transaction of its own or with others
   */
  add<T>(
    proofs: readonly StoredProof[],
    store: (statements: readonly Statement[]) => Promise<T>,
  ): Promise<{ readonly done: T; readonly seals: readonly Seal[] }> {
    const adding = this.#queue.then(async () => {
      const seals = await inSlices(this.#sealing(proofs, await this.#lastHash()));
      return { done: await store(seals.map((seal, i) => insertion(proofs[i] as StoredProof, seal))), seals };
    });
    this.#queue = adding.catch(() => undefined);
    return adding;
  }

  /** Whether a record that comes from outside was made here, whatever it says of itself. */
  isOurs(proof: StoredProof, seal: Seal | null): boolean {
    return seal !== null && this.#isSignedHere({ ...proof, madeIn: null }, seal);
  }

  *#judging(rows: readonly Row[]): Generator<void, Book> {
    const all: SealedProof[] = [];
    let gaps = 0;
    let after = BEGINNING;
    for (const row of rows) {
      yield;
      const proof = sealedOf(row);
      if (proof.seal.after !== after) gaps++;
      after = hashOf(proof, proof.seal.after);
      all.push(proof);
    }
    const last = all.at(-1);
    // The signature of the last one vouches for all that the chain leads back to; where it is broken each speaks for itself.
    if (gaps === 0 && (last === undefined || this.#isSignedHere(last, last.seal))) return { proofs: all, altered: 0, gaps };
    const proofs: SealedProof[] = [];
    let altered = 0;
    for (const proof of all) {
      yield;
      const isGood = this.#isSignedHere(proof, proof.seal);
      if (!isGood) altered++;
      proofs.push(isGood ? proof : { ...proof, madeIn: proof.madeIn ?? ALTERED });
    }
    return { proofs, altered, gaps };
  }

  /** Seals of records that follow each other. */
  *#sealing(proofs: readonly StoredProof[], from: string): Generator<void, readonly Seal[]> {
    let after = from;
    const seals: Seal[] = [];
    for (const proof of proofs) {
      yield;
      const hash = hashOf(proof, after);
      seals.push({ after, signature: sign(null, Buffer.from(hash), this.#privateKey).toString('base64') });
      after = hash;
    }
    return seals;
  }

  #isSignedHere(proof: StoredProof, { after, signature }: Seal): boolean {
    return verify(null, Buffer.from(hashOf(proof, after)), this.#publicKey, Buffer.from(signature, 'base64'));
  }

  async #lastHash(): Promise<string> {
    const [row] = await this.#database.query(`select ${COLUMNS} from proofs order by seq desc limit 1`);
    if (!row) return BEGINNING;
    const last = sealedOf(row);
    return hashOf(last, last.seal.after);
  }

  async #isSealed(): Promise<boolean> {
    return (await this.#database.query('select 1 from proofs where signature is not null limit 1')).length > 0;
  }

  async #sealAll(): Promise<void> {
    const rows = await this.#database.query(`select ${COLUMNS} from proofs order by seq`, [], true);
    const seals = await inSlices(this.#sealing(rows.map(sealedOf), BEGINNING));
    const sql = 'update proofs set after_hash = $2, signature = $3 where seq = $1';
    if (seals.length > 0) await this.#database.transaction(seals.map((seal, i) => ({ sql, params: [rows[i]?.seq, seal.after, seal.signature] })));
  }
}

function insertion(proof: StoredProof, seal: Seal): Statement {
  const { tagId, digest, agrees, witness, who, at, seen, madeIn } = proof;
  return {
    sql: `insert into proofs (tag_id, digest, agrees, witness, who, at, seen, made_in, after_hash, signature)
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
    params: [tagId, digest, agrees, witness, who, at, seen, madeIn, seal.after, seal.signature],
  };
}

/** Where a record is from that was not signed here, though it says it was made here. */
const ALTERED = 'altered';

/** SHA-256 of the record and of what it comes after, hexadecimal. */
function hashOf({ tagId, digest, agrees, witness, who, at, seen, madeIn }: StoredProof, after: string): string {
  return createHash('sha256')
    .update(JSON.stringify(['proof 1', after, tagId, digest, agrees, witness, who, new Date(at).toISOString(), sortedJson(seen), madeIn]))
    .digest('hex');
}

function sealedOf(row: Row): SealedProof {
  return {
    tagId: String(row.tag_id),
    digest: String(row.digest),
    agrees: row.agrees === true,
    witness: String(row.witness),
    who: String(row.who),
    at: new Date(row.at as string).toISOString(),
    seen: row.seen as Proof['seen'],
    madeIn: row.made_in as string | null,
    seal: { after: textOf(row.after_hash), signature: textOf(row.signature) },
  };
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : '';
}
