import { choice, liveNumber } from '../setting.ts';
import { COMMON, LOOKING, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  unit: VALUE.unit,
  decimals: VALUE.decimals,
  least: liveNumber('At least', 'Empty: as the tag says'),
  most: liveNumber('At most', 'Empty: as the tag says'),
  shows: choice('Shown as', { plain: 'it is', hex: 'hexadecimal', hidden: 'dots' }, 'plain'),
  size: LOOKING.size,
  align: LOOKING.align,
  ...COMMON,
};

export const entry: ElementKindEntry<typeof settings> = {
  name: 'Entry',
  use: 'takes a number by keypad or a text by keyboard, and writes it',
  w: 200,
  h: 64,
  takes: 'any',
  settings,
  phone: 'half',
  showsText: true,
  isTouched: true,
  writes: () => 'free',
};
