/**
 * A block of values that are known beforehand. A controller's program fills it, and how it lies in memory tells how the
 * controller counts, orders bytes and bits, and lays out texts and structures.
 */
/** Found first: three words in a row. */
export const MARKS = [0x4d4c, 0x1b2e, 0xc35a] as const;
/** Words between which one thing lies, in their order. */
export const FENCES = [0xf0a1, 0xf0a2, 0xf0a3, 0xf0a4, 0xf0a5, 0xf0a6] as const;
/** All bytes of each are different, so that an order shows itself. */
export const WHOLE = 0x91a3_b5c7n;
export const LONG = 0x0718_293a_4b5c_6d7en;
/** As IEEE 754 has 123.456 in 32 and 12345.6789 in 64 bits. */
export const REAL = { literal: '123.456', bits: 0x42f6_e979n } as const;
export const LONG_REAL = { literal: '12345.6789', bits: 0x40c8_1cd6_e631_f8a1n } as const;
/** The bit that is set, by the number that the controller gives to it. */
export const SET_BIT = 3;
/** Elements of the array of BOOL that are on. */
export const FLAGS_ON = [1, 4, 5] as const;
export const FLAGS = 16;
export const TEXT = 'Mill';
export const TEXT_ROOM = 10;

/** A structure whose bytes show how members follow each other. */
export const INNER: readonly { readonly name: string; readonly type: 'BYTE' | 'WORD' | 'DWORD'; readonly value: number }[] = [
  { name: 'First', type: 'BYTE', value: 0xa7 },
  { name: 'Wide', type: 'DWORD', value: 0xb1d3_c5e7 },
  { name: 'Third', type: 'BYTE', value: 0xc9 },
  { name: 'Half', type: 'WORD', value: 0xd2e4 },
  { name: 'Fifth', type: 'BYTE', value: 0x5b },
  { name: 'Sixth', type: 'BYTE', value: 0x6d },
];

/** Words that the block takes at the most, whatever the layout. */
export const MOST_WORDS = 96;
