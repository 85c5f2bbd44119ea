/** Whether a text fits its element: nobody may read a number whose end is missing. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { ELEMENT_KINDS, ELEMENTS } from '@/core/panel/kinds.ts';
import { fitted, roomForAll, roomOf, SMALLEST_PX } from '@/core/panel/textRoom.ts';
import { textEms } from '@/core/panel/textWidth.ts';

const beside = { unit: 'kg/h', hasLabel: true };

describe('a text in its element', () => {
  test('is written as large as the element says where it fits, smaller where it is longer, and not at all where it would lose digits', () => {
    const room = { px: 32, face: 'mono', has: 100 } as const;
    expect(fitted(room, '12.5')).toEqual({ px: 32, isWhole: true, text: '12.5' });
    const longer = fitted(room, '12345.5');
    expect(longer).toMatchObject({ isWhole: true, text: '12345.5' });
    expect(longer.px).toBeLessThan(32);
    expect(fitted(room, '1234567890123.5')).toEqual({ px: SMALLEST_PX, isWhole: false, text: '✕ no room' });
  });

  test.each(['-1234567890123.5', '16#FFFF_FFFF_FFFF', '06:12:05.123456', '4711-B of the second', '± 1 000 000 000 000'])(
    '%s is not cut: what is left of it is another value',
    (text) => expect(fitted({ px: 16, face: 'mono', has: 60 }, text).text).toBe('✕ no room'),
  );

  test('words keep their beginning: an ellipsis says that more follows', () => {
    expect(fitted({ px: 16, face: 'sans', has: 60 }, 'Waiting for the baggers')).toEqual({
      px: SMALLEST_PX,
      isWhole: false,
      text: 'Waiting for the baggers',
    });
  });

  test('words that take turns have one size: that of the longest of them', () => {
    const room = { px: 17, face: 'sans', has: 70 } as const;
    const all = roomForAll(room, ['Filling', 'Sealing the bag']);
    expect(all.px).toBeLessThan(17);
    expect(fitted(all, 'Filling').px).toBe(all.px);
    expect(roomForAll(room, []).px).toBe(17);
  });

  test('of any kind and size: whole and within its room, or nothing that starts as a number', () => {
    const kinds = ELEMENT_KINDS.filter((kind) => roomOf({ kind, settings: {}, w: 100, h: 60 }, beside) !== null);
    expect(kinds.length).toBeGreaterThan(8);
    const number = fc.double({ noNaN: true, noDefaultInfinity: true }).map(String);
    fc.assert(
      fc.property(fc.constantFrom(...kinds), fc.integer({ min: 8, max: 600 }), fc.integer({ min: 8, max: 300 }), number, (kind, w, h, text) => {
        const room = roomOf({ kind, settings: {}, w, h }, beside);
        if (!room) return;
        const written = fitted(room, text);
        if (written.isWhole) expect(textEms(text, room.face) * written.px).toBeLessThanOrEqual(room.has);
        else expect(written.text).toBe('✕ no room');
        expect(written.px).toBeGreaterThan(0);
        expect(written.px).toBeLessThanOrEqual(room.px);
      }),
    );
  });

  test('as it is put on a page every kind has room for six digits, a point and a sign', () => {
    for (const kind of ELEMENT_KINDS) {
      const room = roomOf({ kind, settings: {}, w: ELEMENTS[kind].w, h: ELEMENTS[kind].h }, { unit: '°C', hasLabel: true });
      if (room?.face === 'mono') expect([kind, fitted(room, '-1234.56').isWhole]).toEqual([kind, true]);
    }
  });
});

test('what another face has to draw is taken for wide, marks on letters for nothing', () => {
  expect(textEms('é', 'sans')).toBe(textEms('e', 'sans'));
  expect(textEms('温度', 'mono')).toBeGreaterThan(textEms('Te', 'mono'));
  expect(textEms('🧑‍🏭', 'sans')).toBe(textEms('温', 'sans'));
});
