/** The block of known values: whatever way a controller lays it out, it is found out again; and nothing is claimed that is not shown. */
import { describe, expect, test } from '@jest/globals';
import { MOST_WORDS } from '@/core/signature/pattern.ts';
import { recognise, type Signature } from '@/core/signature/recognise.ts';
import { signatureText } from '@/core/signature/text.ts';
import { parseDeclarations } from '@/core/taglist/declarations/parse.ts';
import { ORDERS } from '@/core/value/byteOrder.ts';
import { TEXT_LAYOUTS } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { fillBlock, type ScratchLayout } from '@/standins/scratch/layout.ts';
import { parseProgram } from '@/standins/scratch/program.ts';

const PLAIN: ScratchLayout = {
  firstRegister: 0, counts: 'words', order16: 'AB', order32: 'ABCD', order64: 'ABCDEFGH', orderText: 'AB',
  structures: 'words', flags: 'words', texts: 'zero-ended', bitFrom: 'least', bitBase: 0, hasLong: true,
}; // prettier-ignore
const WORD = 100;
const program = parseProgram(signatureText(`%MW${WORD}`));
const REGISTERS = 400;

function wordsOf(layout: Partial<ScratchLayout>): readonly Uint8Array[] {
  const memory = fillBlock(program, { ...PLAIN, ...layout }, REGISTERS);
  return Array.from({ length: REGISTERS }, (_, i) => Uint8Array.from(memory.subarray(i * 2, i * 2 + 2)));
}
function found(layout: Partial<ScratchLayout>): Signature {
  const signature = recognise(wordsOf(layout));
  if (!signature.ok) throw new Error(signature.problem.message);
  return signature.value;
}
/** What it must come to. */
function expected(layout: Partial<ScratchLayout>) {
  const { order16, order32, order64, orderText, bitFrom, bitBase, texts, structures, hasLong, counts, firstRegister } = { ...PLAIN, ...layout };
  const at = firstRegister + (counts === 'bytes' ? WORD / 2 : WORD);
  return {
    at,
    order16,
    order32,
    order64: hasLong ? order64 : null,
    orderText,
    bits: { from: bitFrom, base: bitBase },
    textLayout: texts,
    structures,
  };
}

/** What controllers are like: high byte first; low byte first with swapped registers; low byte first as it lies; and mixed ones. */
const MAKES = ORDERS[2].flatMap((order16) =>
  ORDERS[2].flatMap((orderText) => ORDERS[4].flatMap((order32) => ORDERS[8].map((order64) => ({ order16, orderText, order32, order64 })))),
);
const LAYOUTS = (['words', 'bytes', 'even', 'aligned'] as const).flatMap((structures) =>
  TEXT_LAYOUTS.flatMap((texts) =>
    (structures === 'words' ? (['words'] as const) : (['packed', 'bytes'] as const)).flatMap((flags) =>
      (['least', 'most'] as const).flatMap((bitFrom) =>
        ([0, 1] as const).flatMap((bitBase) =>
          [true, false].map((hasLong) => ({ structures, texts, flags, bitFrom, bitBase, hasLong, firstRegister: bitBase * 7 })),
        ),
      ),
    ),
  ),
);

describe('is recognised', () => {
  test(`in all ${MAKES.length} ways to order bytes, and all ${LAYOUTS.length} layouts of texts, structures and bits`, () => {
    for (const [i, make] of MAKES.entries()) {
      const layout = { ...make, ...LAYOUTS[i % LAYOUTS.length] };
      expect({ layout, ...found(layout) }).toMatchObject(expected(layout));
    }
    for (const [i, laidOut] of LAYOUTS.entries()) {
      const layout = { ...laidOut, ...MAKES[(i * 7) % MAKES.length] };
      expect({ layout, ...found(layout) }).toMatchObject(expected(layout));
    }
  });

  test('with the bytes that show it', () => {
    const { evidence } = found({ order32: 'CDAB' });
    const of32 = evidence.find(({ title }) => title === 'Order of 32-bit values');
    // 91A3B5C7 with its words swapped.
    expect(of32).toEqual({ title: 'Order of 32-bit values', found: 'CDAB, words swapped', seen: 'B5 C7  91 A3' });
  });

  test('as far as it goes: where a stretch is missing, what lies there is not claimed', () => {
    const words = wordsOf({}).map((word, i) => (i > WORD + 8 ? null : word));
    const signature = recognise(words);
    expect(signature.ok && signature.value).toMatchObject({
      order16: 'AB',
      order32: 'ABCD',
      order64: null,
      orderText: null,
      bits: null,
      textLayout: null,
      structures: null,
    });
  });

  test('not among other values', () => {
    expect(recognise(wordsOf({}).map((word, i) => (i === WORD + 1 ? Uint8Array.of(0, 0) : word))).ok).toBe(false);
    expect(recognise([]).ok).toBe(false);
    expect(recognise(Array.from({ length: 500 }, (_, i) => Uint8Array.of(i >> 8, i & 255))).ok).toBe(false);
  });
});

test('its text is declarations of IEC 61131-3 that our own reader of lists understands, and takes no more words than it says', () => {
  const declared = parseDeclarations(signatureText('%MW100'), '');
  expect(declared.problems).toEqual([]);
  expect([...declared.types.keys()]).toEqual(['milllatchinner', 'milllatchblock']);
  for (const layout of LAYOUTS) {
    const words = wordsOf({ ...layout, firstRegister: 0 });
    const last = words.findLastIndex((word) => (word[0] ?? 0) + (word[1] ?? 0) > 0);
    expect(last - WORD + 1).toBeLessThanOrEqual(MOST_WORDS);
  }
});

describe('the options of a Modbus device that follow', () => {
  const part = describeDriver('modbus-tcp')?.bytes?.signature;
  const settings = (layout: Partial<ScratchLayout>, reference = '') => {
    const signature = found(layout);
    const done = part?.settings(signature, { word: WORD, reference, firstCell: 0, dialect: {} });
    return done?.ok ? done.value : `${done?.problem.place}: ${done?.problem.code}`;
  };
  test('where memory begins, and whether its words count bytes', () => {
    expect(settings({})).toMatchObject({ memoryName: '%MW', memoryStart: 0, order32: 'ABCD' });
    expect(settings({})).not.toHaveProperty('locations');
    expect(settings({ firstRegister: 12 })).toMatchObject({ memoryStart: 12 });
    expect(settings({ counts: 'bytes' })).toMatchObject({ memoryStart: 0, locations: 'bytes' });
    expect(settings({ firstRegister: 200 })).toMatchObject({ memoryStart: 200 });
  });
  test('what its manual counts from, where it is told the number', () => {
    expect(settings({}, '40101')).toMatchObject({ countingBase: 1 });
    expect(settings({}, '40100')).toMatchObject({ countingBase: 0 });
    expect(settings({}, '400101')).toMatchObject({ countingBase: 1 });
    expect(settings({}, '40107')).toBe('reference: signature-reference');
    expect(settings({})).not.toHaveProperty('countingBase');
  });
  test('orders, bits, texts and structures', () => {
    const layout = {
      order16: 'BA',
      order32: 'DCBA',
      order64: 'HGFEDCBA',
      bitFrom: 'most',
      bitBase: 1,
      texts: 'length-byte',
      structures: 'aligned',
      flags: 'packed',
    } as const;
    expect(settings(layout)).toMatchObject({
      order16: 'BA',
      order32: 'DCBA',
      order64: 'HGFEDCBA',
      orderText: 'AB',
      bitFrom: 'most',
      bitBase: 1,
      textLayout: 'length-byte',
      structures: 'aligned',
    });
  });
});
