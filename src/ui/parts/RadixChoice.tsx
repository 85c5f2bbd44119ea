'use client';
import { RADIXES, RADIX_WORDS, type Radix } from '@/core/value/radix.ts';
import { showRawIn, useRadix } from '../live/radix.ts';

/** In which base raw values are shown. */
export function RadixChoice() {
  const radix = useRadix();
  return (
    <select
      aria-label="Raw values in"
      title="Raw values in"
      className="select select-xs w-32 shrink-0"
      value={radix}
      onChange={(e) => showRawIn(Number(e.target.value) as Radix)}
    >
      {RADIXES.map((base) => (
        <option key={base} value={base}>
          raw {RADIX_WORDS[base]}
        </option>
      ))}
    </select>
  );
}
