import { choice, condition, count, points } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  points: points([
    { x: 0, y: 500 },
    { x: 1000, y: 500 },
  ]),
  width: count('Width', 4, 60, 12),
  flowing: condition('Flows while', 'Empty: never; arrows run along it'),
  direction: choice('Flows', { ahead: 'from its first corner', back: 'to its first corner' }, 'ahead'),
  ...COMMON,
};

export const pipe: ElementKindEntry<typeof settings> = {
  name: 'Pipe',
  use: 'a pipe or chute with corners, in which something flows while a condition holds',
  w: 200,
  h: 24,
  takes: 'none',
  settings,
  phone: 'hidden',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
