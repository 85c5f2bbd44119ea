import { choice, flag, symbol as symbolSetting } from '../setting.ts';
import { COMMON, nothing, STATES, VALUE, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  of: VALUE.of,
  symbol: symbolSetting('motor'),
  ...STATES,
  turn: choice('Turned', { none: 'not', right: 'to the right', half: 'upside down', left: 'to the left' }, 'none'),
  mirrored: flag('Mirrored'),
  word: flag('State in words below it', true),
  ...COMMON,
};

export const symbol: ElementKindEntry<typeof settings> = {
  name: 'Symbol',
  use: 'shows a machine and its state: pump, valve, motor, silo and many more',
  w: 96,
  h: 96,
  takes: 'any',
  settings,
  phone: 'half',
  showsText: true,
  standsAlone: true,
  isTouched: false,
  writes: nothing,
};
