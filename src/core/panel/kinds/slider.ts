import { choice, count, liveNumber } from '../setting.ts';
import { COMMON, ENDS, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  unit: VALUE.unit,
  decimals: VALUE.decimals,
  ...ENDS,
  step: liveNumber('Steps of', 'Empty: a hundredth of its way'),
  sends: choice('Writes', { release: 'when it is let go', moving: 'while it moves' }, 'release'),
  pauseMs: count('Pause between writes, ms', 100, 10_000, 250, 'While it moves'),
  direction: choice('Grows', { right: 'to the right', up: 'upwards' }, 'right'),
  ...COMMON,
};

export const slider: ElementKindEntry<typeof settings> = {
  name: 'Slider',
  use: 'sets a value by moving a handle',
  w: 280,
  h: 80,
  takes: 'number',
  settings,
  phone: 'full',
  showsText: true,
  isTouched: true,
  writes: () => 'free',
};
