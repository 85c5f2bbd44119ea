import { count } from '../setting.ts';
import { COMMON, LOOKING, nothing, STATES, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = { ...VALUE, ...STATES, ...LOOKING, length: count('Characters at most', 0, 400, 0, '0: as many as there are'), ...COMMON };

export const value: ElementKindEntry<typeof settings> = {
  name: 'Value',
  use: 'shows a number or a text with its unit',
  w: 200,
  h: 64,
  takes: 'any',
  settings,
  phone: 'half',
  showsText: true,
  isTouched: false,
  writes: nothing,
};
