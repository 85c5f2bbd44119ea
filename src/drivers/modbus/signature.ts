/** What a block of known values says of a Modbus device, as its protocol options. */
import type { Signature } from '@/core/signature/recognise.ts';
import { MOST_WORDS } from '@/core/signature/pattern.ts';
import { fail, ok } from '@/core/result.ts';
import { formatReference } from '@/core/modbus/address.ts';
import type { SignaturePart } from '../contract.ts';
import { dialectOf, type Dialect } from './settings.ts';

/** How far memory may begin from register 0, either way, to be found without being told where. */
const AROUND = 16;
const LAST = 65_535;

export const signature: SignaturePart = {
  placeTitle: 'First word of the block',
  placeHelp: 'As the program of the controller counts: 100 for %MW100.',
  referenceHelp: 'If the manual gives that place one, such as 40101. May be empty.',
  declared: (word) => `%MW${word}`,
  windows(word, dialect) {
    const { memoryStart } = dialectOf(dialect);
    // Words counted by words, or by bytes; from where the options say that memory begins, or from the first register.
    const starts = new Set([memoryStart + word, word, Math.floor(word / 2), memoryStart + Math.floor(word / 2)]);
    return [...starts].map((start) => {
      const from = Math.max(0, start - AROUND);
      return { area: 'HR', from, count: Math.min(LAST - from + 1, MOST_WORDS + 2 * AROUND) };
    });
  },
  settings(found, { word, reference, firstCell, dialect }) {
    const register = firstCell + found.at;
    const place = placeOf(register, word);
    if (!place)
      return fail(
        'signature-place',
        `The block was found in holding register ${register}, and word ${word} is not near it.`,
        'Check the number of its first word.',
        'word',
      );
    const base = reference === '' ? null : baseOf(reference, register);
    if (reference !== '' && base === null)
      return fail(
        'signature-reference',
        `The block lies in holding register ${register}, which is ${formatReference({ area: 'HR', offset: register, bit: null }, 1)} counted from 1; “${reference.slice(0, 20)}” is neither that nor one less.`,
        'Check the number, or leave it empty.',
        'reference',
      );
    return ok({
      ...place,
      ...(base === null ? {} : { countingBase: base }),
      ...ofSignature(found),
      memoryName: dialectOf(dialect).memoryName || '%MW',
    });
  },
};

/** Where word 0 lies, and whether the words of the program count bytes. */
function placeOf(register: number, word: number): Partial<Dialect> | null {
  const isNear = (start: number): boolean => Math.abs(start) <= AROUND;
  if (isNear(register - word) && register >= word) return { memoryStart: register - word };
  if (word % 2 === 0 && isNear(register - word / 2) && register >= word / 2) return { memoryStart: register - word / 2, locations: 'bytes' };
  return register >= word ? { memoryStart: register - word } : null;
}

/** What the reference numbers of its manual count from; null where the number is not that of the register. */
function baseOf(reference: string, register: number): 0 | 1 | null {
  const digits = reference.trim().replace(/^4x?(?=\d{4,5}$)/i, '');
  const number = /^\d{1,6}$/.test(digits) ? Number(digits) : NaN;
  return number === register ? 0 : number === register + 1 ? 1 : null;
}

function ofSignature({ order16, order32, order64, orderText, bits, textLayout, structures }: Signature): Partial<Dialect> {
  return {
    order16,
    ...(order32 === null ? {} : { order32 }),
    ...(order64 === null ? {} : { order64 }),
    ...(orderText === null ? {} : { orderText }),
    ...(bits === null ? {} : { bitFrom: bits.from, bitBase: bits.base }),
    ...(textLayout === null ? {} : { textLayout }),
    ...(structures === null ? {} : { structures }),
  };
}
