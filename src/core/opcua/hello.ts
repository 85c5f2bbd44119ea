/** The first message of a client over TCP and what a server may answer (IEC 62541-6, 7.1.2.3 to 7.1.2.5). */

/** Message type, F for a final chunk, length of the whole. */
const HEAD = 8;
const BUFFER_BYTES = 65_535;
const LONGEST_REASON = 4096;

/** @param endpoint at most 4096 bytes, as the standard has it */
export function buildHello(endpoint: string): Uint8Array {
  const url = new TextEncoder().encode(endpoint).subarray(0, 4096);
  const message = new Uint8Array(HEAD + 24 + url.length);
  const view = new DataView(message.buffer);
  message.set(new TextEncoder().encode('HELF'));
  view.setUint32(4, message.length, true);
  // Version 0, buffers both ways, messages and chunks without a limit of ours.
  view.setUint32(HEAD + 4, BUFFER_BYTES, true);
  view.setUint32(HEAD + 8, BUFFER_BYTES, true);
  view.setInt32(HEAD + 20, url.length, true);
  message.set(url, HEAD + 24);
  return message;
}

export type HelloAnswer =
  | { readonly kind: 'acknowledge'; readonly receiveBytes: number; readonly sendBytes: number }
  | { readonly kind: 'error'; readonly status: number; readonly reason: string }
  /** Whoever answers speaks something else. */
  | { readonly kind: 'stranger' }
  /** More has to come first. */
  | { readonly kind: 'cut' };

/** @param bytes all that came since the hello */
export function readHelloAnswer(bytes: Uint8Array): HelloAnswer {
  const type = String.fromCharCode(...bytes.subarray(0, 4));
  if (!'ACKF'.startsWith(type) && !'ERRF'.startsWith(type)) return { kind: 'stranger' };
  if (bytes.length < HEAD) return { kind: 'cut' };
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(4, true);
  const least = type === 'ACKF' ? HEAD + 20 : HEAD + 8;
  if (length < least || length > HEAD + 8 + LONGEST_REASON) return { kind: 'stranger' };
  if (bytes.length < length) return { kind: 'cut' };
  if (type === 'ACKF') return { kind: 'acknowledge', receiveBytes: view.getUint32(HEAD + 4, true), sendBytes: view.getUint32(HEAD + 8, true) };
  const words = view.getInt32(HEAD + 4, true);
  const reason = words > 0 ? new TextDecoder().decode(bytes.subarray(HEAD + 8, Math.min(length, HEAD + 8 + words))) : '';
  return { kind: 'error', status: view.getUint32(HEAD, true), reason };
}
