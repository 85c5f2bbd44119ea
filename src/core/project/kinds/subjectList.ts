import { array, object, string } from 'yup';
import { MOST_SUBJECTS, SUBJECT_KINDS, type Subject } from '../../panel/subjects.ts';
import { ID_FIELD, idText, nameField, whole, words } from './fieldSchemas.ts';
import { names, type Kind } from './kind.ts';

/** Like things that one page serves: it is drawn with the tags of the first, and shows those of the one that is chosen. */
export interface SubjectList {
  readonly id: string;
  readonly name: string;
  readonly subjects: readonly Subject[];
  /** The tag whose number says which one is shown; null where each glass chooses for itself. */
  readonly tagId: string | null;
}

const MOST_RENAMES = 500;

const subject = object({
  of: string().oneOf(SUBJECT_KINDS).defined(),
  id: idText().defined(),
  number: whole('The number of a subject', 0, 65_535).defined(),
  text: words('The text of a subject', 80).defined(),
  find: words('What stands in its names', 80).defined(),
  put: words('What stands in its names', 80).defined(),
  renames: array()
    .of(
      object({ member: words('The member', 400).min(1).defined(), as: words('The member', 400).nullable().defined() }).noUnknown(
        true,
        'A member of another name has member and as.',
      ),
    )
    .max(MOST_RENAMES, `A subject has at most ${MOST_RENAMES} members of another name.`)
    .defined(),
}).noUnknown(true, 'A subject has no such field.');

export const subjectListKind = {
  plural: 'subjectLists',
  table: 'subject_lists',
  words: 'lists of subjects',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `Subjects named “${name}” are there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The list of subjects'),
    subjects: {
      label: 'Subjects',
      schema: array()
        .of(subject)
        .max(MOST_SUBJECTS, `At most ${MOST_SUBJECTS} subjects.`)
        .test('numbers', 'Two subjects have one number.', (all) => new Set(all?.map(({ number }) => number)).size === (all?.length ?? 0))
        .defined(),
      column: 'subjects',
      stored: 'plain',
    },
    tagId: { label: 'Chosen by', schema: idText().nullable().defined(), column: 'tag_id', stored: 'text', unsaid: null, refers: names('tag') },
  },
} as const satisfies Kind<SubjectList>;
