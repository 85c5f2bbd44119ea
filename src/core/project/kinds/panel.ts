import '../../units/ucumUnits.ts';
import { array, boolean, number, object, string } from 'yup';
import { ID_FIELD, idText, nameField, whole, words } from './fieldSchemas.ts';
import { names, type Kind } from './kind.ts';
import { NO_EXCHANGE, SCREENS, WHEN_BOTH, type Exchange, type Screens } from '../../panel/exchange.ts';
import type { ShownUnit } from '../../panel/shownOn.ts';
import { LEAST_PX, MOST_PX } from '../../panel/sizes.ts';
import { MOST_LANGUAGES, type PanelLanguage } from '../../panel/wording.ts';
import { languageSchema } from './translation.ts';
import { unitLine } from '../../units/unitLine.ts';

/** By day, by night, or as the browser that shows it has it. */
export const THEMES = ['day', 'night', 'browser'] as const;
export type Theme = (typeof THEMES)[number];

export interface Panel {
  readonly id: string;
  readonly name: string;
  readonly units: readonly ShownUnit[];
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** Of its glass, in inches. */
  readonly diagonal: number;
  readonly theme: Theme;
  /** The page that it opens with; null for the first. */
  readonly startPageId: string | null;
  /** It has a bar at its top with the name of the page, the way to the others, and whether writing is open. */
  readonly hasBar: boolean;
  /** How it agrees with its controller on the page. */
  readonly exchange: Exchange;
  /** Those that it speaks; the first is the one that its texts are written in. None: that one alone, whatever it is. */
  readonly languages: readonly PanelLanguage[];
  /** Without a touch for so long whoever is signed in is signed out. */
  readonly signOutMinutes: number;
  /** Each screen its own page, all one page, or that of the screen that leads. */
  readonly screens: Screens;
}

const MOST_UNITS = 40;

const units = array()
  .of(
    object({ from: words('The unit', 20).min(1).defined(), to: words('The unit', 20).min(1).defined() })
      .noUnknown(true, 'A unit that is shown has from and to.')
      .test('converts', (value, context) => {
        const line = unitLine(value.from, value.to);
        return line.ok || context.createError({ message: line.problem.message });
      }),
  )
  .max(MOST_UNITS, `A panel shows at most ${MOST_UNITS} units in another one.`)
  .test('once', 'Each unit is shown in one other.', (value) => new Set(value?.map(({ from }) => from)).size === (value?.length ?? 0))
  .defined();

const languages = array()
  .of(
    object({ code: languageSchema().defined(), number: whole('The number of a language', 0, 65_535).defined() }).noUnknown(
      true,
      'A language has code and number.',
    ),
  )
  .max(MOST_LANGUAGES, `A panel speaks at most ${MOST_LANGUAGES} languages.`)
  .test('codes', 'Each language is there once.', (all) => new Set(all?.map(({ code }) => code)).size === (all?.length ?? 0))
  .test('numbers', 'Two languages have one number.', (all) => new Set(all?.map(({ number: n }) => n)).size === (all?.length ?? 0))
  .defined();

const diagonal = number().min(1, 'The diagonal is at least 1 inch.').max(100, 'The diagonal is at most 100 inches.').defined();

const exchange = object({
  offset: whole('The offset', -65_535, 65_535).defined(),
  noWish: whole('The number for no page', -65_535, 65_535).nullable().defined(),
  whenBoth: string().oneOf(WHEN_BOTH).defined(),
  personSeconds: whole('The time after a touch', 1, 3600).defined(),
  clockDaily: whole('The minute of the day', 0, 1439).nullable().defined(),
})
  .noUnknown(true, 'What a panel agrees on with its controller has no such field.')
  .defined();

export const panelKind = {
  plural: 'panels',
  table: 'panels',
  fields: {
    id: ID_FIELD,
    name: nameField('The panel'),
    units: { label: 'Units shown', schema: units, column: 'units', stored: 'plain', unsaid: [] },
    width: { label: 'Width', schema: whole('The width', LEAST_PX, MOST_PX).defined(), column: 'width', stored: 'number', unsaid: 1280 },
    height: { label: 'Height', schema: whole('The height', LEAST_PX, MOST_PX).defined(), column: 'height', stored: 'number', unsaid: 800 },
    diagonal: { label: 'Diagonal', schema: diagonal, column: 'diagonal', stored: 'number', unsaid: 10.1 },
    theme: { label: 'Theme', schema: string().oneOf(THEMES).defined(), column: 'theme', stored: 'plain', unsaid: 'browser' },
    startPageId: {
      label: 'Start page',
      schema: idText().nullable().defined(),
      column: 'start_page_id',
      stored: 'text',
      unsaid: null,
      refers: names('page'),
    },
    hasBar: { label: 'Bar at its top', schema: boolean().defined(), column: 'has_bar', stored: 'plain', unsaid: true },
    exchange: { label: 'With the controller', schema: exchange, column: 'exchange', stored: 'plain', unsaid: NO_EXCHANGE },
    languages: { label: 'Languages', schema: languages, column: 'languages', stored: 'plain', unsaid: [] },
    signOutMinutes: {
      label: 'Signs out after',
      schema: whole('The time until signing out, in minutes,', 1, 720).defined(),
      column: 'sign_out_minutes',
      stored: 'number',
      unsaid: 5,
    },
    screens: { label: 'Screens', schema: string<Screens>().oneOf(SCREENS).defined(), column: 'screens', stored: 'text', unsaid: 'apart' },
  },
} as const satisfies Kind<Panel>;
