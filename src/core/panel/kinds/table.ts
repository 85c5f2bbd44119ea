import { count, flag, tags, text } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  cells: tags('Tags, row by row'),
  columns: count('Columns', 1, 20, 4),
  columnNames: text('Column headings', 400),
  rowNames: text('Row headings', 2000),
  units: flag('Units', true),
  ...COMMON,
};

export const table: ElementKindEntry<typeof settings> = {
  name: 'Table',
  use: 'shows the same values of several devices beside each other',
  w: 480,
  h: 240,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: false,
  writes: nothing,
};
