import { readCodes } from '../../value/unavailable.ts';
import { words } from './fieldSchemas.ts';

/** Raw values that are none, as a tag or a group has them. */
export function unavailableCodes() {
  return words('Not available', 200)
    .test('codes', (value, context) => {
      const read = readCodes(value ?? '');
      return read.ok || context.createError({ message: `${read.problem.message} ${read.problem.remedy ?? ''}`.trim() });
    })
    .nullable()
    .defined();
}
