/**
 * How a bench and a panel host come to trust each other, and how they talk afterwards. Both make a key (X25519, RFC 7748) and prove to
 * each other that they know the code that the host shows: the code goes into the key by scrypt (RFC 7914), so that who stands between
 * them and sees a proof has months of computing before the code, which lasts for minutes. What is said later is sealed
 * (AES-256-GCM, NIST SP 800-38D) and bound to a number that the host gives out for one call, so that nothing can be sent again.
 */
import {
  createCipheriv,
  createDecipheriv,
  createHash,
  createHmac,
  createPublicKey,
  diffieHellman,
  generateKeyPairSync,
  hkdfSync,
  randomBytes,
  scrypt,
  timingSafeEqual,
  type KeyObject,
} from 'node:crypto';

const CIPHER = 'aes-256-gcm';
const IV_BYTES = 12;
const TAG_BYTES = 16;
const KEY_BYTES = 32;
/** 64 MB for each guess. */
const COST = { N: 2 ** 16, r: 8, p: 1, maxmem: 128 * 1024 * 1024 };
/** What stands before the 32 bytes of a public key (RFC 8410, 4). */
const SPKI = Buffer.from('302a300506032b656e032100', 'hex');

export interface PairKeys {
  /** In base64. */
  readonly publicKey: string;
  readonly privateKey: KeyObject;
}

export function newPairKeys(): PairKeys {
  const { publicKey, privateKey } = generateKeyPairSync('x25519');
  return { publicKey: publicKey.export({ type: 'spki', format: 'der' }).subarray(SPKI.length).toString('base64'), privateKey };
}

export interface Agreed {
  readonly key: Buffer;
  /** In base64; each shows that its side knows the code. */
  readonly benchProof: string;
  readonly hostProof: string;
}

/** @returns null where the other's key is none */
export async function agree(own: PairKeys, other: string, code: string, side: 'bench' | 'host'): Promise<Agreed | null> {
  const raw = Buffer.from(other, 'base64');
  if (raw.length !== KEY_BYTES) return null;
  let secret: Buffer;
  try {
    secret = diffieHellman({
      privateKey: own.privateKey,
      publicKey: createPublicKey({ key: Buffer.concat([SPKI, raw]), format: 'der', type: 'spki' }),
    });
  } catch {
    return null;
  }
  const keys = side === 'bench' ? [own.publicKey, other] : [other, own.publicKey];
  const both = createHash('sha256').update(keys.join('|')).digest();
  const stretched = await stretch(code, both);
  const derived = Buffer.from(hkdfSync('sha256', secret, stretched, Buffer.concat([Buffer.from('mill-latch panel host'), both]), 3 * KEY_BYTES));
  const proof = (from: number): string =>
    createHmac('sha256', derived.subarray(from, from + KEY_BYTES))
      .update(both)
      .digest('base64');
  return { key: derived.subarray(0, KEY_BYTES), benchProof: proof(KEY_BYTES), hostProof: proof(2 * KEY_BYTES) };
}

function stretch(code: string, salt: Buffer): Promise<Buffer> {
  return new Promise((resolve, reject) => scrypt(code, salt, KEY_BYTES, COST, (error, made) => (error ? reject(error) : resolve(made))));
}

/** Compares without telling by its time how far they are the same. */
export function sameProof(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a, 'base64'), Buffer.from(b, 'base64')];
  return x.length === y.length && timingSafeEqual(x, y);
}

/** Bound to who speaks and to the number of the call: what was said in one place counts in no other. */
export function seal(key: Buffer, to: 'host' | 'bench', nonce: string, message: unknown): string {
  const iv = randomBytes(IV_BYTES);
  const cipher = createCipheriv(CIPHER, key, iv).setAAD(Buffer.from(`${to}|${nonce}`));
  return Buffer.concat([iv, cipher.update(JSON.stringify(message), 'utf8'), cipher.final(), cipher.getAuthTag()]).toString('base64');
}

/** @returns undefined for what was not sealed with this key for this call */
export function unseal(key: Buffer, to: 'host' | 'bench', nonce: string, box: string): unknown {
  const sealed = Buffer.from(box, 'base64');
  if (sealed.length < IV_BYTES + TAG_BYTES) return undefined;
  try {
    const open = createDecipheriv(CIPHER, key, sealed.subarray(0, IV_BYTES)).setAAD(Buffer.from(`${to}|${nonce}`));
    open.setAuthTag(sealed.subarray(-TAG_BYTES));
    const text = Buffer.concat([open.update(sealed.subarray(IV_BYTES, -TAG_BYTES)), open.final()]).toString('utf8');
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}
