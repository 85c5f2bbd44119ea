import { count, tags } from '../setting.ts';
import { COMMON, ENDS, nothing, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  moreTags: tags('Further lines'),
  minutes: count('Minutes', 1, 60, 5),
  unit: VALUE.unit,
  ...ENDS,
  ...COMMON,
};

export const trend: ElementKindEntry<typeof settings> = {
  name: 'Trend',
  use: 'draws the last minutes of up to six values',
  w: 420,
  h: 220,
  takes: 'number',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
