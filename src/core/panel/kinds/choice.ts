import { choice } from '../setting.ts';
import { COMMON, STATES, type ElementKindEntry } from '../elementKind.ts';

const settings = { ...STATES, direction: choice('Choices', { row: 'in a row', column: 'in a column' }, 'row'), ...COMMON };

export const choiceKind: ElementKindEntry<typeof settings> = {
  name: 'Choice',
  use: 'offers the states of a value beside each other',
  w: 320,
  h: 72,
  takes: 'any',
  settings,
  phone: 'full',
  showsText: true,
  isTouched: true,
  writes: () => 'states',
};
