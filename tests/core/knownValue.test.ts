import { describe, expect, test } from '@jest/globals';
import { matchKnownValue, type ProbeReading } from '@/core/find/knownValue.ts';

const seen = (...words: number[]): ProbeReading => ({
  canonical: 'HR0',
  settings: {},
  words: 'function 3',
  bytes: Uint8Array.from(words.flatMap((w) => [w >> 8, w & 255])),
});
const readings = (sighting: ProbeReading, text: string): string[] => {
  const found = matchKnownValue([sighting], text);
  return found.ok ? found.value.map((c) => `${c.type} ${c.order} ${c.exponent}`) : [];
};

describe('how a known value is read', () => {
  test('a reading that shows just that value comes before simpler ones that are one off', () => {
    // 23 plain as INT is near to 23.6 at one step; 23.6 as REAL is 41BCCCCDh (IEEE 754).
    expect(readings(seen(0x41bc, 0xcccd), '23.6')[0]).toBe('REAL ABCD 0');
    // 236 in tenths is the value, 235 swapped is one off.
    const [first, ...others] = readings(seen(236), '23.6');
    expect(first).toBe('INT AB -1');
    expect(others.every((r) => r !== first)).toBe(true);
    // 1000 at 1001: near as it is, and exact nowhere.
    expect(readings(seen(1000), '1001')[0]).toBe('INT AB 0');
  });
  test('among exact ones the simplest comes first: fewer registers, no swapping, no scale', () => {
    // 5 in one register, and in two of them.
    expect(readings(seen(5, 0), '5')[0]).toBe('INT AB 0');
    expect(readings(seen(0, 5), '5')[0]).toBe('DINT ABCD 0');
    // A near plain reading does not go before an exact swapped one: 0500h is 1280 plain, 5 with its bytes swapped.
    expect(readings(seen(0x0500), '5')[0]).toBe('INT BA 0');
  });
});
