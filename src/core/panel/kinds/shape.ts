import { choice, count, template } from '../setting.ts';
import { COMMON, nothing, TONES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  shape: choice('Shape', { box: 'box', round: 'box with round corners', ellipse: 'ellipse', triangle: 'triangle', hopper: 'hopper' }, 'box'),
  fill: choice('Filled', { ...TONES, none: 'not' }, 'surface'),
  line: choice('Line', { ...TONES, none: 'none' }, 'line'),
  width: count('Line width', 1, 20, 1),
  template: template('Text in it'),
  ...COMMON,
};

export const shape: ElementKindEntry<typeof settings> = {
  name: 'Shape',
  use: 'a box, an ellipse, a triangle behind or beside other things',
  w: 160,
  h: 100,
  takes: 'none',
  settings,
  phone: 'hidden',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
