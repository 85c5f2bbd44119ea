/** A code is shown on the panel host; a bench that proves to know it is paired. Wrong ones are counted, and soon no code counts any more. */
import { randomInt, randomUUID } from 'node:crypto';
import type { PairingCode } from '@/core/live/network.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { agree, newPairKeys, sameProof, type Agreed } from '@/services/hosting/sealing.ts';
import type { PairedBench } from './hostFolder.ts';

const CODE_MS = 5 * 60_000;
/** Wrong proofs after which the code is void. Each costs the asker a key of its own, and us 64 MB for a moment. */
const WRONG = 5;
/** Pairings that are begun and not proven, at one time. */
const OPEN = 3;
const PROVE_MS = 30_000;

interface Begun {
  readonly bench: string;
  readonly agreed: Agreed;
  readonly until: number;
}

export class Pairing {
  readonly #clock: Clock;
  readonly #begun = new Map<string, Begun>();
  #code: { readonly code: string; readonly until: number } | null = null;
  #wrong = 0;
  #agreeing = 0;

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  /** A new one; the one before is void. */
  show(): PairingCode {
    this.#code = { code: String(randomInt(100_000_000)).padStart(8, '0'), until: this.#clock.now() + CODE_MS };
    this.#wrong = 0;
    this.#begun.clear();
    return { code: this.#code.code, validUntil: new Date(this.#code.until).toISOString() };
  }

  get shown(): PairingCode | null {
    const code = this.#valid();
    return code && { code: code.code, validUntil: new Date(code.until).toISOString() };
  }

  async begin(bench: string, theirKey: string): Promise<Result<{ readonly pairing: string; readonly key: string }>> {
    const code = this.#valid();
    if (!code) return NO_CODE;
    for (const [id, { until }] of this.#begun) if (until < this.#clock.now()) this.#begun.delete(id);
    if (this.#begun.size + this.#agreeing >= OPEN) return fail('too-many', 'Others are being paired.', 'Try again in half a minute.');
    this.#agreeing++;
    const own = newPairKeys();
    const agreed = await agree(own, theirKey, code.code, 'host').finally(() => this.#agreeing--);
    if (!agreed) return fail('invalid', 'That is no key.', undefined, 'key');
    const id = randomUUID();
    this.#begun.set(id, { bench, agreed, until: this.#clock.now() + PROVE_MS });
    return ok({ pairing: id, key: own.publicKey });
  }

  /** @returns the host's own proof, told only to who knows the code */
  prove(pairing: string, proof: string): Result<{ readonly bench: PairedBench; readonly proof: string }> {
    const begun = this.#begun.get(pairing);
    this.#begun.delete(pairing);
    if (!begun || begun.until < this.#clock.now() || !this.#valid()) return NO_CODE;
    if (!sameProof(proof, begun.agreed.benchProof)) {
      if (++this.#wrong >= WRONG) this.#code = null;
      return fail('wrong-code', 'That is not the code that the panel host shows.', 'Enter its eight digits.', 'code');
    }
    this.#code = null;
    const bench = { id: pairing, name: begun.bench, key: begun.agreed.key.toString('base64'), pairedAt: new Date(this.#clock.now()).toISOString() };
    return ok({ bench, proof: begun.agreed.hostProof });
  }

  #valid() {
    return this.#code && this.#clock.now() < this.#code.until ? this.#code : null;
  }
}

const NO_CODE = fail('no-code', 'The panel host shows no code at the moment.', 'Show one on it, and enter that.', 'code');
