import { choice, template } from '../setting.ts';
import { ALIGNS, COMMON, nothing, SIZES, TONES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  template: template('Text'),
  size: choice('Text size', SIZES, 'normal'),
  align: choice('Aligned', ALIGNS, 'left'),
  tone: choice('Colour', TONES, 'plain'),
  ...COMMON,
};

export const text: ElementKindEntry<typeof settings> = {
  name: 'Text',
  use: 'stands on the page, with values inside where it has braces',
  w: 240,
  h: 32,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
