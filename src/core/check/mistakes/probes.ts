/** Memory as it might be: what ways show at it tells whether any value could tell them apart. */
import type { Sight } from './way.ts';

const PROBES = 6;

/** As wide as what was seen, with other bytes; always the same ones for the same sights. */
export function probesAround(sights: readonly Sight[]): readonly Sight[] {
  const [first] = sights;
  if (!first) return [];
  let state = 0x2545f491;
  const next = (): number => {
    // Marsaglia, Xorshift RNGs (2003), 32 bits.
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return state & 0xff;
  };
  const probes = Array.from({ length: PROBES }, (_, at): Sight => {
    const { wire, around } = first;
    if (wire?.kind !== 'bytes')
      return wire?.kind === 'typed' && typeof wire.value === 'number'
        ? { wire: { ...wire, value: wire.value + 17 * (at + 1) }, around: null }
        : first;
    const size = around ? around.bytes.length : wire.bytes.length;
    const bytes = Uint8Array.from({ length: size }, next);
    // Two of them as small numbers are: with zeros in front.
    if (at < 2) for (let i = 0; i + 1 < size; i += 2) bytes[i] = (bytes[i] ?? 0) & 0x03;
    const from = around?.at ?? 0;
    return { wire: { kind: 'bytes', bytes: bytes.subarray(from, from + wire.bytes.length) }, around: around ? { bytes, at: from } : null };
  });
  return [...sights, ...probes];
}
