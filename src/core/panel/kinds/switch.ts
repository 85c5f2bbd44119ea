import { COMMON, STATES, type ElementKindEntry } from '../elementKind.ts';

const settings = { ...STATES, ...COMMON };

export const switchKind: ElementKindEntry<typeof settings> = {
  name: 'Switch',
  use: 'turns a state on and off, and shows it',
  w: 160,
  h: 64,
  takes: 'state',
  settings,
  phone: 'half',
  showsText: true,
  isTouched: true,
  writes: () => 'state',
};
