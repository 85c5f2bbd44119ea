/**
 * The trail of checks: every step of a check and every proof, only ever added to. Each record names the hash of the one before it and is signed
 * (Ed25519, RFC 8032) with a key that lies in the data folder, beside the database: what was put into the database by hand, or into a project
 * file, is no proof of this installation.
 */
import { createHash, createPrivateKey, createPublicKey, generateKeyPairSync, sign, verify, type KeyObject } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Outcome, Proof, ProofDetails, Seal } from '@/core/check/proof.ts';
import type { TrailStep } from '@/core/check/trailStep.ts';
import { inSlices } from '@/core/inSlices.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import type { Database, Row } from './database.ts';
import type { Statement } from './protocol.ts';
import { writeWhole } from './writeWhole.ts';

const KEY_FILE = 'proof-key.json';
/** What the first record comes after. */
const BEGINNING = '0'.repeat(64);
const COLUMNS = 'seq, kind, tag_id, digest, outcome, witness, who, at, seen, made_in, run_id, body, after_hash, signature';

/** @see Proof; made here where it does not say where. */
export interface StoredProof extends Omit<Proof, 'madeIn' | 'isElsewhere'> {
  readonly madeIn: string | null;
}
export interface SealedProof extends StoredProof {
  readonly seal: Seal;
}

type TrailRecord = { readonly kind: 'proof'; readonly proof: StoredProof } | { readonly kind: 'step'; readonly step: TrailStep };
type SealedRecord = TrailRecord & { readonly seal: Seal };

export interface Book {
  /** In the order of their records. */
  readonly proofs: readonly SealedProof[];
  /** Records that are not what was signed here. They prove nothing. */
  readonly altered: number;
  /** Places at which records are missing, or were put in another order. */
  readonly gaps: number;
}

/** Where the trail stands: whoever has written its head down can tell later whether anything before it was changed. */
export interface Head {
  /** SHA-256 of the newest record and of all before it, hexadecimal. */
  readonly hash: string;
  readonly records: number;
}

export class Trail {
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
  static async open(database: Database, folder: string): Promise<Trail> {
    const file = join(folder, KEY_FILE);
    const kept = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error)));
    if (kept !== null) return new Trail(database, createPrivateKey((JSON.parse(kept) as { readonly privateKey: string }).privateKey));
    const { privateKey } = generateKeyPairSync('ed25519');
    const trail = new Trail(database, privateKey);
    // Records that were there before there was any key are taken over as they are, once.
    if (!(await trail.#isSealed())) await trail.#sealAll();
    await writeWhole(file, JSON.stringify({ privateKey: privateKey.export({ type: 'pkcs8', format: 'pem' }) }), 0o600);
    return trail;
  }

  /** Reads all records and looks whether they are what was signed. */
  async load(): Promise<Book> {
    const rows = await this.#database.query(`select ${COLUMNS} from trail order by seq`, [], true);
    return inSlices(this.#judging(rows));
  }

  /** The steps of one run, in their order. */
  async stepsOf(runId: string): Promise<readonly TrailStep[]> {
    const rows = await this.#database.query(`select ${COLUMNS} from trail where kind = 'step' and run_id = $1 order by seq`, [runId]);
    return rows.map(stepOf);
  }

  /** The steps of one tag, in its runs and beside them, in their order. */
  async stepsOfTag(tagId: string): Promise<readonly TrailStep[]> {
    const rows = await this.#database.query(`select ${COLUMNS} from trail where kind = 'step' and tag_id = $1 order by seq`, [tagId]);
    return rows.map(stepOf);
  }

  async head(): Promise<Head> {
    const [row] = await this.#database.query('select count(*)::int as records from trail');
    return { hash: await this.#lastHash(), records: Number(row?.records ?? 0) };
  }

  /**
   * Adds proofs, all or none.
   * @param store runs the statements in a transaction of its own or with others
   */
  add<T>(
    proofs: readonly StoredProof[],
    store: (statements: readonly Statement[]) => Promise<T>,
  ): Promise<{ readonly done: T; readonly seals: readonly Seal[] }> {
    return this.#add(
      proofs.map((proof) => ({ kind: 'proof', proof })),
      store,
    );
  }

  /** Adds steps, all or none. */
  async addSteps(steps: readonly TrailStep[]): Promise<void> {
    await this.#add(
      steps.map((step) => ({ kind: 'step', step })),
      (statements) => this.#database.transaction(statements),
    );
  }

  /** Whether a record that comes from outside was made here, whatever it says of itself. */
  isOurs(proof: StoredProof, seal: Seal | null): boolean {
    return seal !== null && this.#isSignedHere({ kind: 'proof', proof: { ...proof, madeIn: null } }, seal);
  }

  #add<T>(records: readonly TrailRecord[], store: (statements: readonly Statement[]) => Promise<T>): Promise<{ done: T; seals: readonly Seal[] }> {
    const adding = this.#queue.then(async () => {
      const seals = await inSlices(this.#sealing(records, await this.#lastHash()));
      return { done: await store(seals.map((seal, i) => insertion(records[i] as TrailRecord, seal))), seals };
    });
    this.#queue = adding.catch(() => undefined);
    return adding;
  }

  *#judging(rows: readonly Row[]): Generator<void, Book> {
    const all: SealedRecord[] = [];
    let gaps = 0;
    let after = BEGINNING;
    for (const row of rows) {
      yield;
      const record = sealedOf(row);
      if (record.seal.after !== after) gaps++;
      after = hashOf(record, record.seal.after);
      all.push(record);
    }
    const last = all.at(-1);
    // The signature of the last one vouches for all that the chain leads back to; where it is broken each speaks for itself.
    const isWhole = gaps === 0 && (last === undefined || this.#isSignedHere(last, last.seal));
    const proofs: SealedProof[] = [];
    let altered = 0;
    for (const record of all) {
      yield;
      const isGood = isWhole || this.#isSignedHere(record, record.seal);
      if (!isGood) altered++;
      if (record.kind !== 'proof') continue;
      const { proof, seal } = record;
      proofs.push({ ...proof, madeIn: isGood ? proof.madeIn : (proof.madeIn ?? ALTERED), seal });
    }
    return { proofs, altered, gaps };
  }

  /** Seals of records that follow each other. */
  *#sealing(records: readonly TrailRecord[], from: string): Generator<void, readonly Seal[]> {
    let after = from;
    const seals: Seal[] = [];
    for (const record of records) {
      yield;
      const hash = hashOf(record, after);
      seals.push({ after, signature: sign(null, Buffer.from(hash), this.#privateKey).toString('base64') });
      after = hash;
    }
    return seals;
  }

  #isSignedHere(record: TrailRecord, { after, signature }: Seal): boolean {
    return verify(null, Buffer.from(hashOf(record, after)), this.#publicKey, Buffer.from(signature, 'base64'));
  }

  async #lastHash(): Promise<string> {
    const [row] = await this.#database.query(`select ${COLUMNS} from trail order by seq desc limit 1`);
    if (!row) return BEGINNING;
    const last = sealedOf(row);
    return hashOf(last, last.seal.after);
  }

  async #isSealed(): Promise<boolean> {
    return (await this.#database.query('select 1 from trail where signature is not null limit 1')).length > 0;
  }

  async #sealAll(): Promise<void> {
    const rows = await this.#database.query(`select ${COLUMNS} from trail order by seq`, [], true);
    const seals = await inSlices(this.#sealing(rows.map(sealedOf), BEGINNING));
    const sql = 'update trail set after_hash = $2, signature = $3 where seq = $1';
    if (seals.length > 0) await this.#database.transaction(seals.map((seal, i) => ({ sql, params: [rows[i]?.seq, seal.after, seal.signature] })));
  }
}

function insertion(record: TrailRecord, { after, signature }: Seal): Statement {
  const sql = `insert into trail (kind, tag_id, digest, outcome, witness, who, at, seen, made_in, run_id, body, after_hash, signature)
               values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)`;
  if (record.kind === 'step') {
    const { runId, tagId, who, at, what } = record.step;
    return { sql, params: ['step', tagId, null, null, null, who, at, null, null, runId, what, after, signature] };
  }
  const { tagId, digest, outcome, witness, who, at, seen, madeIn, more } = record.proof;
  return { sql, params: ['proof', tagId, digest, outcome, witness, who, at, seen, madeIn, more?.runId ?? null, more, after, signature] };
}

/** Where a record is from that was not signed here, though it says it was made here. */
const ALTERED = 'altered';

/** SHA-256 of the record and of what it comes after, hexadecimal. */
function hashOf(record: TrailRecord, after: string): string {
  return createHash('sha256')
    .update(JSON.stringify(record.kind === 'step' ? stepContent(record.step, after) : proofContent(record.proof, after)))
    .digest('hex');
}

function proofContent({ tagId, digest, outcome, witness, who, at, seen, madeIn, more }: StoredProof, after: string): readonly unknown[] {
  const when = new Date(at).toISOString();
  // As it was signed before there was more to say than that they agree.
  if (more === null) return ['proof 1', after, tagId, digest, outcome === 'proven', witness, who, when, sortedJson(seen), madeIn];
  return ['proof 2', after, tagId, digest, outcome, witness, who, when, sortedJson(seen), madeIn, sortedJson(more)];
}

function stepContent({ runId, tagId, who, at, what }: TrailStep, after: string): readonly unknown[] {
  return ['step 1', after, runId, tagId, who, new Date(at).toISOString(), sortedJson(what)];
}

function sealedOf(row: Row): SealedRecord {
  const seal = { after: textOf(row.after_hash), signature: textOf(row.signature) };
  if (row.kind === 'step') return { kind: 'step', step: stepOf(row), seal };
  const proof: StoredProof = {
    tagId: String(row.tag_id),
    digest: String(row.digest),
    outcome: row.outcome as Outcome,
    witness: String(row.witness),
    who: String(row.who),
    at: new Date(row.at as string).toISOString(),
    seen: row.seen as Proof['seen'],
    madeIn: row.made_in as string | null,
    more: row.body as ProofDetails | null,
  };
  return { kind: 'proof', proof, seal };
}

function stepOf(row: Row): TrailStep {
  return {
    runId: row.run_id as string | null,
    tagId: row.tag_id as string | null,
    who: String(row.who),
    at: new Date(row.at as string).toISOString(),
    what: row.body as TrailStep['what'],
  };
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : '';
}
