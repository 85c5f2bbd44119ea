import { choice, flag, liveNumber } from '../setting.ts';
import { COMMON, ENDS, LOOKING, nothing, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  ...VALUE,
  ...ENDS,
  direction: choice('Grows', { right: 'to the right', up: 'upwards', left: 'to the left', down: 'downwards' }, 'right'),
  from: choice('Filled from', { low: 'its low end', zero: 'zero', high: 'its high end' }, 'low'),
  shape: choice('Shape', { bar: 'bar', tank: 'tank', silo: 'silo' }, 'bar'),
  bands: choice('Bands', { tag: 'limits of the tag', own: 'its own', none: 'none' }, 'tag'),
  bandLow: liveNumber('Low below', 'A band below this value; empty for none'),
  bandHigh: liveNumber('High above', 'A band above this value; empty for none'),
  target: liveNumber('Mark at', 'A mark such as the set point; empty for none'),
  ends: flag('Ends written beside it', true),
  frame: LOOKING.frame,
  ...COMMON,
};

export const bar: ElementKindEntry<typeof settings> = {
  name: 'Bar or level',
  use: 'shows where a value lies between two ends: as a bar, a tank or a silo',
  w: 240,
  h: 80,
  takes: 'number',
  settings,
  phone: 'full',
  showsText: true,
  isTouched: false,
  writes: nothing,
};
