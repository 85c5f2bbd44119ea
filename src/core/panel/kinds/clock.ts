import { choice } from '../setting.ts';
import { ALIGNS, COMMON, nothing, SIZES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  shows: choice('Shows', { time: 'time', date: 'date', both: 'date and time' }, 'time'),
  size: choice('Text size', SIZES, 'normal'),
  align: choice('Aligned', ALIGNS, 'left'),
  ...COMMON,
};

export const clock: ElementKindEntry<typeof settings> = {
  name: 'Clock',
  use: 'shows the time of the server',
  w: 140,
  h: 36,
  takes: 'none',
  settings,
  phone: 'hidden',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
