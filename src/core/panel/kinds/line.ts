import { choice, count, flag, points } from '../setting.ts';
import { COMMON, nothing, TONES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  points: points([
    { x: 0, y: 500 },
    { x: 1000, y: 500 },
  ]),
  tone: choice('Colour', TONES, 'line'),
  width: count('Width', 1, 20, 2),
  dashed: flag('Dashed'),
  arrow: flag('Arrow at its end'),
  ...COMMON,
};

export const line: ElementKindEntry<typeof settings> = {
  name: 'Line',
  use: 'a line with corners, with an arrow if wanted',
  w: 160,
  h: 16,
  takes: 'none',
  settings,
  phone: 'hidden',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
