import { choice, flag, picture as pictureSetting } from '../setting.ts';
import { COMMON, nothing, STATES, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  pictureId: pictureSetting('Picture'),
  fit: choice('Fits', { whole: 'whole, in its own shape', cover: 'over the whole field, cut at its edges' }, 'whole'),
  of: VALUE.of,
  ...STATES,
  word: flag('State in words below it', true),
  ...COMMON,
};

/** One picture, or one for each state of a value. */
export const picture: ElementKindEntry<typeof settings> = {
  name: 'Picture',
  use: 'shows a PNG or SVG, or one for each state of a value',
  w: 240,
  h: 160,
  takes: 'any',
  settings,
  phone: 'full',
  showsText: true,
  standsAlone: true,
  isTouched: false,
  writes: nothing,
};
