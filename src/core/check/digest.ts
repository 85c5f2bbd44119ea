/** The digest of an effective signal path: two tags with the same digest show the same number for the same memory. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { formatDataType } from '../value/dataType.ts';
import type { SignalDefinition } from '../signal.ts';
import { scaleParts } from '../scaling/scale.ts';

/**
 * @param wherefrom  what the driver says identifies the value at its source: host, unit, canonical address
 * @returns 64 hexadecimal digits. Settings that cannot change a number (time-outs, comments, periods, the
 *          expected range) are not part of it.
 */
export function signalDigest(wherefrom: readonly string[], def: SignalDefinition): string {
  const scale = scaleParts(def.scale);
  const names = def.names?.map(({ value, name }) => [value, name]) ?? [];
  const parts: unknown[] = ['signal path 1', wherefrom, formatDataType(def.type), def.order, def.bit, def.scale.kind, scale, def.unit, def.decimals];
  // Only where there are names: what was proven before there were any stays proven.
  if (names.length > 0) parts.push(names);
  if (def.unavailable) parts.push(['not available', def.unavailable.map(String)]);
  return bytesToHex(sha256(utf8ToBytes(JSON.stringify(parts))));
}
