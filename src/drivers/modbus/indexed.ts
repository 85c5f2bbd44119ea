/** Places that an index moves: so many registers further on, or bits where places are single bits. */
import { AREA_WORDS, formatArea } from '@/core/modbus/address.ts';
import { fail, ok } from '@/core/result.ts';
import type { IndexedPart } from '../contract.ts';
import { parseCanonical, unitsOf } from './notation.ts';
import { dialectOf } from './settings.ts';

const LAST = 65_535;

export const indexed: IndexedPart = {
  counts: 'registers; coils and discrete inputs where the address is one',
  moved(canonical, by, type, settings) {
    const address = parseCanonical(canonical);
    if (!address) return fail('address-form', `“${canonical.slice(0, 40)}” is not a Modbus address.`);
    const offset = address.offset + by;
    const last = offset + unitsOf(address, type, dialectOf(settings)) - 1;
    return offset < 0 || last > LAST
      ? fail(
          'address-range',
          `${canonical} moved by ${by} would lie ${offset < 0 ? 'before the first' : 'past the last'} ${AREA_WORDS[address.area]}.`,
          'Check the index, or bound it in its expression.',
        )
      : ok(formatArea({ ...address, offset }));
  },
};
