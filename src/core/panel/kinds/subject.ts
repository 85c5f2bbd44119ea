import { choice } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  shows: choice('Choices', { row: 'in a row', column: 'in a column', list: 'as a list that opens' }, 'row'),
  ...COMMON,
};

export const subject: ElementKindEntry<typeof settings> = {
  name: 'Subject',
  use: 'chooses which of the like things its page shows',
  w: 480,
  h: 56,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: true,
  writes: nothing,
};
