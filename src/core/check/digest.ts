/** The digest of an effective signal path: two tags with the same digest show the same number for the same memory. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { scaleParts, scalePhrase } from '../scaling/scale.ts';
import type { SignalDefinition } from '../signal.ts';
import { formatDataType } from '../value/dataType.ts';

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

/** One setting on the signal path, in words. */
export interface PathPart {
  readonly what: 'source' | 'type' | 'order' | 'bit' | 'scale' | 'unit' | 'decimals' | 'names' | 'no value';
  readonly text: string;
}

/** What the digest is made of, to be read: where two differ, one of these does. */
export function pathParts(wherefrom: readonly string[], def: SignalDefinition): readonly PathPart[] {
  return [
    { what: 'source', text: wherefrom.join(' ') },
    { what: 'type', text: formatDataType(def.type) },
    { what: 'order', text: def.order },
    { what: 'bit', text: def.bit === null ? '' : String(def.bit) },
    { what: 'scale', text: scalePhrase(def.scale) },
    { what: 'unit', text: def.unit },
    { what: 'decimals', text: def.decimals === null ? '' : String(def.decimals) },
    { what: 'names', text: (def.names ?? []).map(({ value, name }) => `${String(value)} ${name}`).join(', ') },
    { what: 'no value', text: (def.unavailable ?? []).map(String).join(', ') },
  ];
}

/** `order was ABCD, is CDAB`; empty where nothing that is told has changed. */
export function changedParts(before: readonly PathPart[], now: readonly PathPart[]): readonly string[] {
  return now.flatMap(({ what, text }) => {
    const was = before.find((part) => part.what === what)?.text ?? '';
    return was === text ? [] : [`${what} was ${was || 'none'}, is ${text || 'none'}`];
  });
}
