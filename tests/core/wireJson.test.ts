import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { wireFromJson, wireInWords, wireToJson } from '@/core/live/wireJson.ts';
import type { WireValue } from '@/core/signal.ts';

describe('a wire value on its way to a page', () => {
  const wires = fc.oneof(
    fc.uint8Array({ maxLength: 64 }).map((bytes): WireValue => ({ kind: 'bytes', bytes })),
    fc
      .oneof(fc.boolean(), fc.string(), fc.double({ noNaN: true, noDefaultInfinity: true }), fc.bigInt(-(2n ** 63n), 2n ** 64n - 1n))
      .map((value): WireValue => ({ kind: 'typed', value })),
    fc.string().map((text): WireValue => ({ kind: 'text', text })),
  );
  test('comes back as it was, 64-bit integers exact, through JSON', () => {
    fc.assert(
      fc.property(wires, (wire) => {
        const back = wireFromJson(JSON.parse(JSON.stringify(wireToJson(wire))) as ReturnType<typeof wireToJson>);
        // JSON knows no negative zero, and no value is one.
        if (wire.kind === 'typed' && wire.value === 0) expect(back).toEqual({ kind: 'typed', value: 0 });
        else expect(back).toEqual(wire);
      }),
    );
  });
  test('reads as what it is: bytes in pairs, every digit of a value, a text in quotes', () => {
    expect(wireInWords(wireToJson({ kind: 'bytes', bytes: Uint8Array.of(0x42, 0xd1, 0x2c) }))).toBe('42 D1 2C');
    expect(wireInWords(wireToJson({ kind: 'typed', value: 9007199254740993n }))).toBe('9007199254740993');
    expect(wireInWords(wireToJson({ kind: 'typed', value: 98.2 }))).toBe('98.2');
    expect(wireInWords(wireToJson({ kind: 'text', text: 'x'.repeat(50) }))).toBe(`“${'x'.repeat(40)}…”`);
  });
});
