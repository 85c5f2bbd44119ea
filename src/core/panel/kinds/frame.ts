import { choice } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const settings = { fill: choice('Filled', { none: 'not', surface: 'surface', page: 'page' }, 'none'), ...COMMON };

export const frame: ElementKindEntry<typeof settings> = {
  name: 'Frame',
  use: 'a titled frame around what belongs together',
  w: 360,
  h: 220,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
