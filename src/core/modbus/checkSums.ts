/** Check sums of serial frames: Modbus over Serial Line V1.02, 2.5.1.2 (CRC) and 2.5.2.2 (LRC). */

const TABLE = Uint16Array.from({ length: 256 }, (_, byte) => {
  let crc = byte;
  for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1;
  return crc;
});

/** CRC-16 with polynomial A001h and start FFFFh; it goes on the wire low byte first. @param end exclusive */
export function crc16(bytes: Uint8Array, from = 0, end = bytes.length): number {
  let crc = 0xffff;
  for (let i = from; i < end; i++) crc = (crc >> 8) ^ (TABLE[(crc ^ (bytes[i] ?? 0)) & 0xff] ?? 0);
  return crc;
}

/** The negative sum of the bytes, one byte. */
export function lrc8(bytes: Uint8Array): number {
  let sum = 0;
  for (const byte of bytes) sum += byte;
  return -sum & 0xff;
}
