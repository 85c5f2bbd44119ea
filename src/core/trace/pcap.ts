/**
 * Frames as a capture file: the pcap format (draft-ietf-opsawg-pcap, version 2.4), so that a network analyser opens
 * it. Frames of a connection are wrapped in the packets that could have carried them; those of a serial line stand
 * alone, under the link type that is free for users (147).
 */
export interface CapturedFrame {
  /** Milliseconds since 1970. */
  readonly at: number;
  readonly direction: 'sent' | 'received';
  readonly bytes: Uint8Array;
}

/** How frames travelled. @param port of the device */
export type Encapsulation = { readonly kind: 'tcp' | 'udp'; readonly port: number } | { readonly kind: 'serial' };

const ETHERNET = 1;
const USER0 = 147;
/** Made-up ends, from the block for documentation (RFC 5737) and locally administered adapters. */
const OURS = { mac: [2, 0, 0, 0, 0, 1], ip: [192, 0, 2, 1], port: 50_000 };
const THEIRS = { mac: [2, 0, 0, 0, 0, 2], ip: [192, 0, 2, 2] };

export function pcapOf(frames: readonly CapturedFrame[], encapsulation: Encapsulation): Uint8Array {
  const header = new DataView(new ArrayBuffer(24));
  header.setUint32(0, 0xa1b2c3d4);
  header.setUint16(4, 2);
  header.setUint16(6, 4);
  header.setUint32(16, 65_535);
  header.setUint32(20, encapsulation.kind === 'serial' ? USER0 : ETHERNET);
  const parts: Uint8Array[] = [new Uint8Array(header.buffer)];
  // Bytes sent so far by each side: where the next segment begins.
  const sequence = { sent: 1, received: 1 };
  for (const { at, direction, bytes } of frames) {
    const packet = encapsulation.kind === 'serial' ? bytes : wrapped(bytes, direction, encapsulation, sequence);
    sequence[direction] += bytes.length;
    const record = new DataView(new ArrayBuffer(16));
    record.setUint32(0, Math.floor(at / 1000));
    record.setUint32(4, Math.floor((at % 1000) * 1000));
    record.setUint32(8, packet.length);
    record.setUint32(12, packet.length);
    parts.push(new Uint8Array(record.buffer), packet);
  }
  return joined(parts);
}

function wrapped(
  bytes: Uint8Array,
  direction: 'sent' | 'received',
  { kind, port }: { readonly kind: 'tcp' | 'udp'; readonly port: number },
  sequence: { readonly sent: number; readonly received: number },
): Uint8Array {
  const isSent = direction === 'sent';
  const [from, to] = isSent ? [OURS, THEIRS] : [THEIRS, OURS];
  const ports = isSent ? [OURS.port, port] : [port, OURS.port];
  const transport = new DataView(new ArrayBuffer(kind === 'tcp' ? 20 : 8));
  transport.setUint16(0, ports[0] ?? 0);
  transport.setUint16(2, ports[1] ?? 0);
  if (kind === 'tcp') {
    transport.setUint32(4, sequence[direction]);
    transport.setUint32(8, sequence[isSent ? 'received' : 'sent']);
    // Header of five words; push and acknowledge.
    transport.setUint16(12, 0x5018);
    transport.setUint16(14, 65_535);
  } else transport.setUint16(4, 8 + bytes.length);
  const protocol = kind === 'tcp' ? 6 : 17;
  const segment = joined([new Uint8Array(transport.buffer), bytes]);
  // The check sum runs over a pseudo header too (RFC 9293, 3.1; RFC 768).
  const pseudo = joined([Uint8Array.of(...from.ip, ...to.ip, 0, protocol, segment.length >> 8, segment.length & 0xff), segment]);
  new DataView(segment.buffer).setUint16(kind === 'tcp' ? 16 : 6, internetSum(pseudo) || 0xffff);
  const ip = new DataView(new ArrayBuffer(20));
  ip.setUint16(0, 0x4500);
  ip.setUint16(2, 20 + segment.length);
  ip.setUint16(6, 0x4000);
  ip.setUint8(8, 64);
  ip.setUint8(9, protocol);
  const ipHeader = new Uint8Array(ip.buffer);
  ipHeader.set([...from.ip, ...to.ip], 12);
  ip.setUint16(10, internetSum(ipHeader));
  return joined([Uint8Array.of(...to.mac, ...from.mac, 8, 0), ipHeader, segment]);
}

/** RFC 1071. */
function internetSum(bytes: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < bytes.length; i += 2) sum += ((bytes[i] ?? 0) << 8) | (bytes[i + 1] ?? 0);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >> 16);
  return ~sum & 0xffff;
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
