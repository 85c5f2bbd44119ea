import { choice, condition, liveNumber, tags } from '../setting.ts';
import { COMMON, STATES, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  from: choice('Items', { states: 'its states', tags: 'values of tags' }, 'states'),
  itemTags: tags('Tags whose values are offered'),
  count: liveNumber('How many items', 'Empty: all of them'),
  readWhen: choice(
    'Items are read',
    { live: 'all the time', opening: 'when the page opens', start: 'once, at the start', asked: 'when somebody asks for it' },
    'live',
  ),
  readOn: condition('Read again when', 'Empty: never; a bit that turns on'),
  writesWhat: choice('Writes', { value: 'the item', place: 'its place, from 0' }, 'value'),
  ...STATES,
  ...COMMON,
};

export const pick: ElementKindEntry<typeof settings> = {
  name: 'Pick list',
  use: 'opens a list of items and writes the one that is picked',
  w: 220,
  h: 64,
  takes: 'any',
  settings,
  phone: 'full',
  showsText: true,
  isTouched: true,
  writes: () => 'states',
};
