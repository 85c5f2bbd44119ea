/** Bytes as CIP has them: the least significant first (volume 1, appendix C: transfer syntax). */

export function joined(...parts: readonly (Uint8Array | readonly number[])[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((all, part) => all + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

export function u16(value: number): readonly number[] {
  return [value & 0xff, (value >>> 8) & 0xff];
}

export function u32(value: number): readonly number[] {
  return [value & 0xff, (value >>> 8) & 0xff, (value >>> 16) & 0xff, (value >>> 24) & 0xff];
}

export function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

/** Characters of one byte each, ISO 8859-1. */
export function textAt(bytes: Uint8Array, at: number, length: number): string {
  let text = '';
  for (const code of bytes.subarray(at, at + length)) text += String.fromCharCode(code);
  return text;
}

export function asciiOf(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i) & 0xff;
  return bytes;
}

export function hexOf(value: number, digits: number): string {
  return `${value.toString(16).toUpperCase().padStart(digits, '0')}h`;
}
