/** The frame of a PNG file: W3C PNG (Third Edition), 5.2 signature, 5.3 chunks, 11.2.1 IHDR. Its points are left to the browser. */
import { fail, ok, type Result } from '../result.ts';

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

export function isPng(bytes: Uint8Array): boolean {
  return SIGNATURE.every((byte, i) => bytes[i] === byte);
}

export interface Png {
  readonly type: 'png';
  readonly width: number;
  readonly height: number;
  readonly bytes: Uint8Array;
  readonly removed: readonly string[];
}

/** Walks its chunks from IHDR to IEND; what follows the end is left out. */
export function readPng(bytes: Uint8Array): Result<Png> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let size: { readonly width: number; readonly height: number } | null = null;
  let hasData = false;
  for (let at = SIGNATURE.length; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    const name = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    const next = at + 12 + length;
    if (next > bytes.length) break;
    if (size === null) {
      if (name !== 'IHDR' || length !== 13) return DAMAGED;
      size = { width: view.getUint32(at + 8), height: view.getUint32(at + 12) };
    }
    if (name === 'IDAT') hasData = true;
    if (name === 'IEND') {
      const isLonger = next < bytes.length;
      return hasData ? ok({ type: 'png', ...size, bytes: bytes.slice(0, next), removed: isLonger ? ['what follows its end'] : [] }) : DAMAGED;
    }
    at = next;
  }
  return DAMAGED;
}

const DAMAGED = fail('damaged', 'The PNG is damaged or not complete.', 'Save it again where it was made.');
