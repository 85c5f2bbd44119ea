/** Projects on their way in, a part after the other. Nothing of one is on the disk before it is there whole. */
import { createHash } from 'node:crypto';
import { MOST_BYTES } from '@/core/hosting/messages.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';

/** A transfer that stands still is forgotten. */
const LONGEST_MS = 60_000;
/** Benches that send at one time. */
const AT_ONCE = 3;

interface Coming {
  readonly benchId: string;
  readonly parts: Buffer[];
  size: number;
  at: number;
}

export class Incoming {
  readonly #clock: Clock;
  readonly #coming = new Map<string, Coming>();

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  /** @returns how many bytes of it are here */
  take(benchId: string, transfer: string, from: number, bytes: Buffer): Result<number> {
    const now = this.#clock.now();
    for (const [id, { at }] of this.#coming) if (now - at > LONGEST_MS) this.#coming.delete(id);
    let coming = this.#coming.get(transfer);
    if (!coming && from === 0) {
      // A bench that begins anew has given up what it sent before.
      for (const [id, other] of this.#coming) if (other.benchId === benchId) this.#coming.delete(id);
      if (this.#coming.size >= AT_ONCE) return fail('too-many', 'Others are sending at the moment.', 'Try again in a minute.');
      coming = { benchId, parts: [], size: 0, at: now };
      this.#coming.set(transfer, coming);
    }
    if (coming?.benchId !== benchId || coming.size !== from) return LOST;
    if (coming.size + bytes.length > MOST_BYTES)
      return fail('too-large', `A project has at most ${MOST_BYTES / 1_000_000} MB.`, 'Use fewer or smaller pictures.');
    coming.parts.push(bytes);
    coming.size += bytes.length;
    coming.at = now;
    return ok(coming.size);
  }

  /** All of it, if it is what was sent. */
  whole(benchId: string, transfer: string, sha256: string): Result<Uint8Array> {
    const coming = this.#coming.get(transfer);
    this.#coming.delete(transfer);
    if (coming?.benchId !== benchId) return LOST;
    const bytes = Buffer.concat(coming.parts);
    if (createHash('sha256').update(bytes).digest('hex') !== sha256) return fail('damaged', 'What came is not what was sent.', 'Send it again.');
    return ok(bytes);
  }
}

const LOST = fail('lost', 'A part of the project did not arrive.', 'Send it again; what runs there is as it was.');
