/** A wire value on its way to a page, for any protocol: bytes as hexadecimal, a typed value, or a text. */
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js';
import type { WireValue } from '../signal.ts';
import { formatValue, fromJson, toJson, type ValueJson } from '../value/engineering.ts';
import { isDecimal } from '../value/decimal.ts';
import { sameJson } from '../project/sameJson.ts';

export type WireJson =
  | { readonly kind: 'bytes'; readonly hex: string }
  | { readonly kind: 'typed'; readonly value: ValueJson }
  | { readonly kind: 'text'; readonly text: string };

/** Letters of a text that are shown of it. */
const SHOWN = 40;

export function wireToJson(wire: WireValue): WireJson {
  switch (wire.kind) {
    case 'bytes':
      return { kind: 'bytes', hex: bytesToHex(wire.bytes) };
    case 'typed':
      return { kind: 'typed', value: toJson(wire.value) };
    case 'text':
      return wire;
  }
}

/** The inverse of {@link wireToJson}; null for what is no wire value. */
export function wireFromJson(json: WireJson): WireValue | null {
  switch (json.kind) {
    case 'bytes':
      return { kind: 'bytes', bytes: hexToBytes(json.hex) };
    case 'typed': {
      const value = fromJson(json.value);
      return value.ok && !isDecimal(value.value) ? { kind: 'typed', value: value.value } : null;
    }
    case 'text':
      return json;
  }
}

/** Told for every sample that comes. */
export function sameWire(a: WireJson, b: WireJson): boolean {
  if (a.kind === 'bytes') return b.kind === 'bytes' && a.hex === b.hex;
  if (a.kind === 'text') return b.kind === 'text' && a.text === b.text;
  return b.kind === 'typed' && sameJson(a.value, b.value);
}

/** For the wire stage: bytes in pairs, a value with every digit, a text in quotes. */
export function wireInWords(json: WireJson): string {
  switch (json.kind) {
    case 'bytes':
      return spaced(json.hex);
    case 'typed': {
      const value = fromJson(json.value);
      return value.ok ? formatValue(value.value, null, 'double') : '';
    }
    case 'text':
      return `“${json.text.slice(0, SHOWN)}${json.text.length > SHOWN ? '…' : ''}”`;
  }
}

export function spaced(hex: string): string {
  return hex.toUpperCase().replace(/(..)(?=.)/g, '$1 ');
}
