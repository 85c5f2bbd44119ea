import { actions, choice, flag, text } from '../setting.ts';
import { COMMON, SIZES, STATES, type ElementKindEntry } from '../elementKind.ts';
import { isWriting } from '../actions.ts';

const settings = {
  actions: actions(),
  ...STATES,
  caption: text('Words on it', 60),
  showsState: flag('State on it', true),
  size: choice('Text size', SIZES, 'normal'),
  tone: choice('Colour', { primary: 'green', accent: 'amber', bad: 'red', quiet: 'quiet' }, 'primary'),
  confirm: text('Asks first', 120),
  ...COMMON,
};

export const button: ElementKindEntry<typeof settings> = {
  name: 'Button',
  use: 'sets, toggles, writes, holds, or goes to another page; several things in order',
  w: 160,
  h: 72,
  takes: 'any',
  settings,
  phone: 'half',
  showsText: true,
  standsAlone: true,
  isTouched: true,
  writes: ({ actions: steps }) => (steps.some(({ act }) => act === 'hold') ? 'hold' : steps.some(isWriting) ? 'state' : null),
  actions: ({ actions: steps }) => steps,
};
