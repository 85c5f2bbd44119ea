import { string } from 'yup';
import { MOST_LEVEL } from '../../panel/levels.ts';
import { ID_FIELD, idText, nameField, whole } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';

/** What elements snap to while they are moved: nothing, each other's edges, or the grid. */
export const SNAPS = ['off', 'edges', 'grid'] as const;
export type Snap = (typeof SNAPS)[number];

export const ABSENT = ['hide', 'say'] as const;
export type Absent = (typeof ABSENT)[number];

export interface Page {
  readonly id: string;
  readonly panelId: string;
  readonly name: string;
  readonly position: number;
  readonly snap: Snap;
  /** Of its grid, in pixels. */
  readonly pitch: number;
  /** What a controller calls it; null for its place, counted from 1. */
  readonly number: number | null;
  /** That of who may open it; 0 for everybody. */
  readonly level: number;
  /** The like things that it serves; null where it is of nothing in particular. */
  readonly subjectListId: string | null;
  /** Of what the chosen subject does not have: hidden, or said. */
  readonly absent: Absent;
}

export const pageKind = {
  plural: 'pages',
  table: 'pages',
  fields: {
    id: ID_FIELD,
    panelId: { label: 'Panel', schema: idText().defined(), column: 'panel_id', stored: 'text', refers: belongsTo('panel') },
    name: nameField('The page'),
    position: { label: 'Position', schema: whole('The position', 0, 10_000).defined(), column: 'position', stored: 'number' },
    snap: { label: 'Snaps to', schema: string().oneOf(SNAPS).defined(), column: 'snap', stored: 'plain', unsaid: 'grid' },
    pitch: { label: 'Grid', schema: whole('The pitch of the grid', 2, 200).defined(), column: 'pitch', stored: 'number', unsaid: 8 },
    number: {
      label: 'Number',
      schema: whole('The number of the page', 0, 65_535).nullable().defined(),
      column: 'page_number',
      stored: 'number',
      unsaid: null,
    },
    level: { label: 'Level', schema: whole('The level', 0, MOST_LEVEL).defined(), column: 'level', stored: 'number', unsaid: 0 },
    subjectListId: {
      label: 'Subjects',
      schema: idText().nullable().defined(),
      column: 'subject_list_id',
      stored: 'text',
      unsaid: null,
      refers: names('subjectList'),
    },
    absent: { label: 'What it does not have', schema: string<Absent>().oneOf(ABSENT).defined(), column: 'absent', stored: 'text', unsaid: 'hide' },
  },
} as const satisfies Kind<Page>;
