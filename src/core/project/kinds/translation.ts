import { string } from 'yup';
import { languageCode, LONGEST_SOURCE, translationOf } from '../../panel/wording.ts';
import { ID_FIELD } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

/** What a text of panels is in another language. */
export interface Translation {
  readonly id: string;
  /** BCP 47, as it is written. */
  readonly language: string;
  /** What the text is known by: its values as numbered places. */
  readonly source: string;
  /** Empty while nobody has said it. */
  readonly text: string;
}

const long = (label: string) => string().max(LONGEST_SOURCE, `${label} has at most ${LONGEST_SOURCE} characters.`); // prettier-ignore

export const languageSchema = () =>
  string()
    .max(35)
    .test('code', function (value) {
      const code = languageCode(value ?? '');
      if (!code.ok) return this.createError({ message: `${code.problem.message} ${code.problem.remedy ?? ''}` });
      return code.value === value || this.createError({ message: `The language is written “${code.value}”.` });
    });

export const translationKind = {
  plural: 'translations',
  table: 'translations',
  title: ({ language, source }) => `${source.slice(0, 60)} in ${language}`,
  siblings: {
    // Words of other capitals are other words.
    nameOf: ({ source }) => source.replace(/\p{Lu}/gu, '^$&'),
    among: ({ language }) => language,
    taken: () => 'This text has a translation already.',
  },
  fields: {
    id: ID_FIELD,
    language: { label: 'Language', schema: languageSchema().defined(), column: 'language', stored: 'text' },
    source: { label: 'Text', schema: long('A text').min(1).defined(), column: 'source', stored: 'text' },
    text: {
      label: 'Translation',
      schema: long('A translation')
        .defined()
        .test('places', function (value) {
          const source: unknown = (this.parent as Record<string, unknown>).source;
          if (value === '' || typeof value !== 'string' || typeof source !== 'string') return true;
          const kept = translationOf(source, value);
          return kept.ok || this.createError({ message: `${kept.problem.message} ${kept.problem.remedy ?? ''}` });
        }),
      column: 'text',
      stored: 'text',
    },
  },
} as const satisfies Kind<Translation>;
