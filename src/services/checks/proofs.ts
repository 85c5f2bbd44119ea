/** What is known of proofs: of each tag and signal path the record that counts. New ones go into the trail. */
import type { FiledProof, Proof, Seal } from '@/core/check/proof.ts';
import { outweighs } from '@/core/check/proofState.ts';
import { ok, type Result } from '@/core/result.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Statement } from '@/store/protocol.ts';
import type { RecordStore } from '@/store/recordStore.ts';
import type { StoredProof, Trail } from '@/store/trail.ts';

export class Proofs {
  readonly #model: ProjectModel;
  readonly #records: RecordStore;
  readonly #trail: Trail;
  readonly #proofs = new Map<string, Map<string, Proof>>();
  readonly #listeners = new Set<(proof: Proof) => void>();
  /** Seals of what is known, by tag and digest, for project files. */
  readonly #seals = new Map<string, Seal>();
  #installation = '';
  #doubt = { altered: 0, gaps: 0 };

  constructor(model: ProjectModel, records: RecordStore, trail: Trail) {
    this.#model = model;
    this.#records = records;
    this.#trail = trail;
  }

  async load(): Promise<void> {
    this.#installation = await this.#records.installation();
    const { proofs, altered, gaps } = await this.#trail.load();
    this.#doubt = { altered, gaps };
    for (const { seal, ...proof } of proofs) this.#remember(this.#placed(proof), seal);
  }

  onProof(listener: (proof: Proof) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Whether a witness has seen the value by the path of a tag as it is now. */
  isProven(tagId: string): boolean {
    const proof = this.current(tagId);
    return proof?.outcome === 'proven' && !proof.isElsewhere;
  }

  /** What counts of the path of a tag as it is now. */
  current(tagId: string): Proof | null {
    const byDigest = this.#proofs.get(tagId);
    const signal = byDigest ? this.#model.effective(tagId) : null;
    return (signal?.ok && byDigest?.get(signal.value.digest)) || null;
  }

  /** What is known of a tag, of each signal path that it ever had. */
  of(tagId: string): readonly Proof[] {
    return [...(this.#proofs.get(tagId)?.values() ?? [])];
  }

  /** The id of this data folder. */
  get installation(): string {
    return this.#installation;
  }

  /** All proofs that are known, what counts of each tag and signal path. */
  all(): readonly Proof[] {
    return [...this.#proofs.values()].flatMap((byDigest) => [...byDigest.values()]);
  }

  /** Records that are not what was signed here, and places where some are missing. */
  get doubt(): { readonly altered: number; readonly gaps: number } {
    return this.#doubt;
  }

  /** A proof as a project file has it. */
  filed({ isElsewhere: _, ...proof }: Proof): FiledProof {
    return { ...proof, seal: this.#seals.get(proof.tagId + proof.digest) ?? null };
  }

  /** Records a proof that was made here. */
  async add(proof: Omit<StoredProof, 'madeIn'>): Promise<Proof> {
    const own = { ...proof, madeIn: null };
    await this.addAlone([own], null);
    return this.#placed(own);
  }

  /** Proofs of a file that are news here. Only one that was signed here was made here, whatever it says. */
  *newsIn(filed: readonly FiledProof[]): Generator<void, readonly StoredProof[]> {
    const news: StoredProof[] = [];
    for (const { seal, ...proof } of filed) {
      yield;
      const isOurs = this.#trail.isOurs(proof, seal);
      const placed = { ...proof, madeIn: isOurs ? null : proof.madeIn === this.#installation ? 'unknown' : proof.madeIn };
      if (!this.#knows(placed)) news.push(placed);
    }
    return news;
  }

  /** Records proofs that come with a change. @param store stores the statements with it, or nothing where it refuses */
  async addWith<T>(proofs: readonly StoredProof[], store: (statements: readonly Statement[]) => Promise<Result<T>>): Promise<Result<T>> {
    const { seals, done } = await this.#trail.add(proofs, store);
    if (done.ok) for (const [i, proof] of proofs.entries()) this.#tell(proof, seals[i]);
    return done;
  }

  /** Records proofs that come with no change. @returns the value, once they are recorded */
  addAlone<T>(proofs: readonly StoredProof[], value: T): Promise<Result<T>> {
    return this.addWith(proofs, async (statements) => {
      await this.#records.store(statements);
      return ok(value);
    });
  }

  #tell(proof: StoredProof, seal: Seal | undefined): void {
    const placed = this.#placed(proof);
    if (seal) this.#remember(placed, seal);
    for (const listener of this.#listeners) listener(this.#proofs.get(proof.tagId)?.get(proof.digest) ?? placed);
  }

  /** Whether a proof, or a newer one of the same signal path, is in the records. */
  #knows(proof: StoredProof): boolean {
    const known = this.#proofs.get(proof.tagId)?.get(proof.digest);
    return known !== undefined && (known.at >= proof.at || (!known.isElsewhere && this.#placed(proof).isElsewhere));
  }

  #placed(proof: StoredProof): Proof {
    const madeIn = proof.madeIn ?? this.#installation;
    return { ...proof, madeIn, isElsewhere: madeIn !== this.#installation };
  }

  #remember(proof: Proof, seal: Seal): void {
    const byDigest = this.#proofs.get(proof.tagId) ?? new Map<string, Proof>();
    this.#proofs.set(proof.tagId, byDigest);
    if (!outweighs(proof, byDigest.get(proof.digest))) return;
    byDigest.set(proof.digest, proof);
    this.#seals.set(proof.tagId + proof.digest, seal);
  }
}
