import { choice } from '../setting.ts';
import { COMMON, LOOKING, nothing, STATES, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  of: VALUE.of,
  ...STATES,
  shape: choice('Shape', { round: 'round', square: 'square', filled: 'the whole field' }, 'round'),
  frame: LOOKING.frame,
  ...COMMON,
};

export const lamp: ElementKindEntry<typeof settings> = {
  name: 'Lamp',
  use: 'shows a state of two or many, by mark and word',
  w: 160,
  h: 64,
  takes: 'any',
  settings,
  phone: 'half',
  showsText: true,
  isTouched: false,
  writes: nothing,
};
