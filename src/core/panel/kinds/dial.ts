import { choice, liveNumber } from '../setting.ts';
import { COMMON, ENDS, LOOKING, nothing, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  ...VALUE,
  ...ENDS,
  sweep: choice('Sweep', { half: 'half a circle', wide: 'three quarters' }, 'wide'),
  bands: choice('Bands', { tag: 'limits of the tag', own: 'its own', none: 'none' }, 'tag'),
  bandLow: liveNumber('Low below', 'A band below this value; empty for none'),
  bandHigh: liveNumber('High above', 'A band above this value; empty for none'),
  target: liveNumber('Mark at', 'A mark such as the set point; empty for none'),
  frame: LOOKING.frame,
  ...COMMON,
};

export const dial: ElementKindEntry<typeof settings> = {
  name: 'Dial',
  use: 'shows a value by a hand on a scale',
  w: 180,
  h: 180,
  takes: 'number',
  settings,
  phone: 'half',
  showsText: true,
  isTouched: false,
  writes: nothing,
};
