/** What a list of states may be. */
import { array, number, object, string, type ISchema } from 'yup';
import { words } from '../project/kinds/fieldSchemas.ts';
import { LONGEST_STATE, LOOKS, MOST_STATES, overlap, type State } from './states.ts';
import { SYMBOLS } from './symbols.ts';

export function statesSchema(): ISchema<unknown> {
  return array()
    .of(
      object({
        at: number().defined(),
        to: number().nullable().defined(),
        text: words('The text of a state', LONGEST_STATE).defined(),
        look: string()
          .oneOf(LOOKS, `A look is one of ${LOOKS.join(', ')}.`)
          .defined(),
        symbol: string()
          .nullable()
          .defined()
          .test('symbol', 'There is no such symbol.', (name) => name === null || Object.hasOwn(SYMBOLS, name)),
        pictureId: string().max(36).nullable().optional(),
      }).noUnknown(true, 'A state has at, to, text, look, symbol and pictureId.'),
    )
    .max(MOST_STATES, `At most ${MOST_STATES} states.`)
    .test('order', 'The end of a range of values lies above its beginning.', (states) =>
      (states ?? []).every(({ at, to }) => to === null || to === undefined || to > at),
    )
    .test('once', 'Each value has one state: two of these overlap.', (states) => overlap((states ?? []) as readonly State[]) === null)
    .defined();
}
