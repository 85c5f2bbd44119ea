import { choice, template } from '../setting.ts';
import { ALIGNS, COMMON, nothing, SIZES, STATES, TONES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  template: template('Text'),
  size: choice('Text size', SIZES, 'normal'),
  align: choice('Aligned', ALIGNS, 'left'),
  tone: choice('Colour', TONES, 'plain'),
  ...STATES,
  ...COMMON,
};

export const text: ElementKindEntry<typeof settings> = {
  name: 'Text',
  use: 'stands on the page, with values inside where it has braces; {state} are the words for the value of its tag',
  w: 240,
  h: 32,
  takes: 'any',
  standsAlone: true,
  settings,
  phone: 'full',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
