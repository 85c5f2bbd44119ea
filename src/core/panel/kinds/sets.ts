import { flag, tags, text } from '../setting.ts';
import { COMMON, nothing, type ElementKindEntry } from '../elementKind.ts';

const settings = {
  name: text('Sets are called', 60, 'Recipes'),
  members: tags('Tags of a set'),
  canStore: flag('Sets can be stored and removed here', true),
  ...COMMON,
};

export const sets: ElementKindEntry<typeof settings> = {
  name: 'Value sets',
  use: 'stores the values of several tags under a name, and writes them back as one',
  w: 480,
  h: 280,
  takes: 'none',
  settings,
  phone: 'full',
  showsText: false,
  isTouched: true,
  writesListed: true,
  writes: nothing,
};
