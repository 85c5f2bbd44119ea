/** Directly represented variables of IEC 61131-3, 6.5.5: `%MW100`, `%IX3.5`, `%QW288`, `%MD8`. */
import { fail, ok, type Result } from '../result.ts';

export type LocationArea = 'I' | 'Q' | 'M';
/** X one bit · B 8 · W 16 · D 32 · L 64 bits. */
export type LocationSize = 'X' | 'B' | 'W' | 'D' | 'L';

export interface IecLocation {
  readonly area: LocationArea;
  readonly size: LocationSize;
  /** The levels of the address as they stand: one, or two with a bit. */
  readonly number: number;
  readonly bit: number | null;
}

/**
 * What the number of a location counts, which the standard leaves to the maker: elements of its own size (%MD8 is the
 * ninth 32-bit value), bytes (%MD8 begins at byte 8), or 16-bit words (%MD8 begins at word 8).
 */
export type LocationCounts = 'own' | 'bytes' | 'words';

export const LOCATION_BITS: Readonly<Record<LocationSize, number>> = { X: 1, B: 8, W: 16, D: 32, L: 64 };

export function isLocation(text: string): boolean {
  return /^%[IQM]/i.test(text.trim());
}

/** Refuses `%I*`, which has no place yet, and addresses of more levels than a plain memory has. */
export function parseLocation(text: string): Result<IecLocation> {
  const plain = text.trim().toUpperCase();
  if (/^%[IQM][XBWDL]?\*$/.test(plain)) return fail('location-open', `${plain} has no place yet: the star stands for one that is given later.`);
  const match = /^%([IQM])([XBWDL]?)(\d{1,7})(?:\.(\d{1,2}))?$/.exec(plain);
  if (!match)
    return fail('address-form', `“${text.trim().slice(0, 40)}” is no address of a plain memory.`, 'Write it like %MW100, %IX3.5, %QW288 or %MD8.');
  const size = (match[2] || 'X') as LocationSize;
  const bit = match[4] === undefined ? null : Number(match[4]);
  if (bit !== null && size !== 'X' && size !== 'W')
    return fail('address-bit', `${plain}: a bit is named with X, as in %${match[1]}X${match[3]}.${match[4]}.`);
  return ok({ area: match[1] as LocationArea, size: bit !== null && size === 'W' ? 'W' : size, number: Number(match[3]), bit });
}

/** The first bit of a location, counted from the first of its area; a bit of a word counts from the least significant. */
export function firstBit({ size, number, bit }: IecLocation, counts: LocationCounts): Result<number> {
  const unit = counts === 'bytes' ? 8 : 16;
  if (size === 'W' && bit !== null) return bit > 15 ? noBit(16) : ok(number * (counts === 'bytes' ? 8 : 16) + bit);
  if (size === 'X') {
    if (bit === null) return ok(counts === 'own' ? number : number * unit);
    // By own size and by bytes a bit is one of a byte; by words, one of a word.
    const of = counts === 'words' ? 16 : 8;
    return bit >= of ? noBit(of) : ok(number * of + bit);
  }
  return ok(number * (counts === 'own' ? LOCATION_BITS[size] : unit));
}

function noBit(of: number): Result<never> {
  return fail(
    'address-bit',
    `A bit of ${of === 8 ? 'a byte is 0 to 7' : 'a word is 0 to 15'} here.`,
    'Check what the numbers of its locations count.',
  );
}
