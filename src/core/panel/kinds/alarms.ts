import { PRIORITIES, type Priority } from '../../project/kinds/priorities.ts';
import { choice, flag, text } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const LEAST = Object.fromEntries(PRIORITIES.map((priority) => [priority, priority === 'low' ? 'all' : `${priority} and above`])) as Readonly<
  Record<Priority, string>
>;

/** Which alarms an element shows. */
export const CHOOSES = {
  groups: text('Groups, by commas; empty for all', 400),
  least: choice('Priorities', LEAST, 'low'),
};

const settings = { ...CHOOSES, canShelve: flag('Alarms can be shelved here', true), ...COMMON };

export const alarms: ElementKindEntry<typeof settings> = {
  name: 'Alarm list',
  use: 'lists alarms that are open, and what became of others; acknowledges, shelves and resets them',
  w: 640,
  h: 320,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: true,
  writes: nothing,
};

const barSettings = { ...CHOOSES, ...COMMON };

export const alarmBar: ElementKindEntry<typeof barSettings> = {
  name: 'Alarm line',
  use: 'says what calls loudest, and leads to the list',
  w: 480,
  h: 48,
  takes: 'none',
  settings: barSettings,
  phone: 'full',
  showsText: false,
  isTouched: true,
  writes: nothing,
};
