/** What a project is made of, and the rules each part obeys on its own. The same rules serve forms and API. */
import { UUID, WITHOUT_CONTROL_CHARACTERS } from '../patterns.ts';
import {
  array,
  boolean,
  mixed,
  number,
  object,
  string,
  type AnyObject,
  type AnyObjectSchema,
  type MixedSchema,
  type NumberSchema,
  type StringSchema,
} from 'yup';
import { BUTTON_ACTIONS, ELEMENT_KINDS, type ElementKind, type ElementSettings } from '../panel/element.ts';
import { confirmSchema, EQUAL, type Confirm } from './confirm.ts';
import type { DraftChoices } from '../taglist/draft.ts';
import { draftChoicesSchema } from '../taglist/choicesSchema.ts';
import { parseDataType } from '../value/dataType.ts';
import { checkNames, type ValueNames } from '../value/valueNames.ts';
import { checkScale, type Scale } from '../scaling/scale.ts';

export interface Project {
  readonly id: string;
  readonly name: string;
  /** Dialects saved under a name, to be used for other devices. */
  readonly dialects: readonly SavedDialect[];
}
export interface SavedDialect {
  readonly name: string;
  readonly settings: Readonly<Record<string, unknown>>;
}
export interface Link {
  readonly id: string;
  readonly name: string;
  /** Which driver speaks on it. */
  readonly driver: string;
  readonly settings: Readonly<Record<string, unknown>>;
  /** How the machine is reached while the link leads to a simulation of it; null while it leads there. */
  readonly real: RealWay | null;
}
export interface RealWay {
  readonly driver: string;
  readonly settings: Readonly<Record<string, unknown>>;
}
export interface Device {
  readonly id: string;
  readonly linkId: string;
  readonly name: string;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly dialect: Readonly<Record<string, unknown>>;
  /** Address of a control channel that tells values without our mapping; empty when there is none. */
  readonly witnessUrl: string;
  /** The tag that tells which machine this is, and what it must say before writing is unlocked; null for none. */
  readonly identityTagId: string | null;
  readonly identity: string;
  /** The tag that changes as long as the controller's program runs, and how long it may stand still. */
  readonly lifeTagId: string | null;
  readonly lifeSeconds: number;
  /** The tag that Mill Latch counts up for the controller to watch, while writing is open for rules; null for none. */
  readonly ownLifeTagId: string | null;
}
export interface Tag {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  readonly group: string;
  /** As its list or a person wrote it, in a notation of the device. */
  readonly address: string;
  readonly type: string;
  /** Empty: the device's order for this width. */
  readonly order: string;
  readonly periodMs: number;
  readonly access: 'read' | 'readWrite';
  readonly confirm: Confirm;
  readonly unit: string;
  readonly decimals: number | null;
  readonly rangeLow: number | null;
  readonly rangeHigh: number | null;
  readonly comment: string;
  /** Names of its values, from an enumeration of the controller's program. */
  readonly names: ValueNames;
  /** What the controller's program sets it to at its start, as the program writes it; empty where nobody knows. */
  readonly initial: string;
  /** The list that brought it, and its name there; empty when made by hand. */
  readonly sourceId: string;
  readonly listName: string;
  /** Its list no longer has it; it stays because something uses it. */
  readonly isGone: boolean;
}
/** A tag's scale; its id is the tag's. */
export interface TagScale {
  readonly id: string;
  readonly scale: Scale;
}
export interface Panel {
  readonly id: string;
  readonly name: string;
}
export interface Page {
  readonly id: string;
  readonly panelId: string;
  readonly name: string;
  readonly position: number;
}
export interface Element {
  readonly id: string;
  readonly pageId: string;
  readonly kind: ElementKind;
  readonly tagId: string | null;
  readonly label: string;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  readonly settings: ElementSettings;
}
/** A tag list that was imported. */
export interface Source {
  readonly id: string;
  readonly deviceId: string;
  readonly fileName: string;
  readonly importedAt: string;
  readonly rowCount: number;
  /** The version of the list that the tags stand at; null for one that was imported before versions were kept. */
  readonly versionId: string | null;
  /** Reading options and what is chosen of it: the recipe for its next version. */
  readonly choices: DraftChoices;
}

export interface Entities {
  readonly project: Project;
  readonly link: Link;
  readonly device: Device;
  readonly source: Source;
  readonly tag: Tag;
  readonly scale: TagScale;
  readonly panel: Panel;
  readonly page: Page;
  readonly element: Element;
}
export type EntityKind = keyof Entities;
export type AnyEntity = Entities[EntityKind];

/** In the order in which they can be stored: each refers only to earlier ones. */
export const ENTITY_KINDS: readonly EntityKind[] = ['project', 'link', 'device', 'source', 'tag', 'scale', 'panel', 'page', 'element'];

/** What an entity has where its maker says nothing: fields that came later than the first projects. */
export const ENTITY_DEFAULTS: { readonly [K in EntityKind]?: Partial<Entities[K]> } = {
  project: { dialects: [] },
  link: { real: null },
  device: { identityTagId: null, identity: '', lifeTagId: null, lifeSeconds: 5, ownLifeTagId: null },
  source: { versionId: null, choices: {} },
  tag: { confirm: EQUAL, listName: '', isGone: false, names: [], initial: '' },
};

/** Columns of a panel page's grid. */
export const PAGE_COLUMNS = 12;
/** The shortest and longest reading period, in milliseconds. */
export const PERIODS_MS = [100, 200, 500, 1000, 2000, 5000, 10000, 60000] as const;

type Text = StringSchema<string | undefined, AnyObject>;
type Count = NumberSchema<number | undefined, AnyObject>;

const id = (): Text => string().matches(UUID, 'An id must be a UUID.');
const words = (label: string, max: number): Text =>
  string().max(max, `${label} has at most ${max} characters.`).matches(WITHOUT_CONTROL_CHARACTERS, `${label} must not hold control characters.`);
const name = (label: string): Text => words(label, 80).trim(`${label}: no spaces at the ends.`).min(1, `${label} needs a name.`);
const whole = (label: string, min: number, max: number): Count =>
  number().integer(`${label} is a whole number.`).min(min, `${label} is at least ${min}.`).max(max, `${label} is at most ${max}.`);
const finite = (label: string): Count =>
  number().test('finite', `${label} is a number.`, (value) => value === undefined || value === null || Number.isFinite(value));
const record = (): MixedSchema<Record<string, unknown> | undefined, AnyObject> =>
  mixed<Record<string, unknown>>((value): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value));
const settings = (): MixedSchema<Record<string, unknown> | undefined, AnyObject> =>
  record().test('size', 'Settings are too large.', (value) => JSON.stringify(value ?? {}).length < 20000);

/** One strict schema a kind: whole entities only, unknown fields refused. */
export const ENTITY_SCHEMAS: Readonly<Record<EntityKind, AnyObjectSchema>> = {
  project: object({
    id: id().defined(),
    name: name('The project').defined(),
    dialects: array()
      .of(
        object({ name: name('The set of protocol options').defined(), settings: settings().defined() }).noUnknown(
          true,
          'A saved set of protocol options has no such field.',
        ),
      )
      .max(60, 'At most 60 dialects can be saved.')
      .test('once', 'Two saved dialects have the same name.', (all) => new Set(all?.map((d) => d.name.toLowerCase())).size === (all?.length ?? 0))
      .defined(),
  }),
  link: object({
    id: id().defined(),
    name: name('The link').defined(),
    driver: words('The driver', 40).min(1).defined(),
    settings: settings().defined(),
    real: object({ driver: words('The driver', 40).min(1).defined(), settings: settings().defined() })
      .noUnknown(true, 'The real connection of a link has no such field.')
      .nullable()
      .defined()
      .default(null),
  }),
  device: object({
    id: id().defined(),
    linkId: id().defined(),
    name: name('The device').defined(),
    settings: settings().defined(),
    dialect: settings().defined(),
    witnessUrl: words('The control channel', 200)
      .matches(
        /^$|^http:\/\/(127\.\d+\.\d+\.\d+|localhost|\[::1\]):\d{1,5}$/,
        'A control channel is an address on this machine, such as http://127.0.0.1:8502.',
      )
      .defined(),
    identityTagId: id().nullable().defined(),
    identity: words('The identity', 200).defined(),
    lifeTagId: id().nullable().defined(),
    lifeSeconds: whole('The time a heartbeat may stand still', 1, 3600).defined(),
    ownLifeTagId: id().nullable().defined(),
  }),
  source: object({
    id: id().defined(),
    deviceId: id().defined(),
    fileName: words('The file name', 200).min(1).defined(),
    importedAt: string().datetime().defined(),
    rowCount: whole('The count of rows', 0, 1_000_000).defined(),
    versionId: id().nullable().defined(),
    choices: draftChoicesSchema(),
  }),
  tag: object({
    id: id().defined(),
    deviceId: id().defined(),
    name: name('The tag').defined(),
    group: words('The group', 80).defined(),
    address: words('The address', 200)
      .trim('The address: no spaces at the ends.')
      .defined()
      .test('given', 'The tag needs an address.', function (value) {
        // A list may bring a tag before its program gives it an address.
        return value !== '' || Boolean((this.parent as { sourceId?: unknown }).sourceId);
      }),
    type: words('The type', 20)
      .test('type', (value, context) => {
        const parsed = parseDataType(value ?? '');
        return parsed.ok || context.createError({ message: parsed.problem.message });
      })
      .defined(),
    order: words('The order', 8).defined(),
    periodMs: whole('The period', PERIODS_MS[0], 3_600_000).defined(),
    access: string().oneOf(['read', 'readWrite']).defined(),
    confirm: confirmSchema().defined(),
    unit: words('The unit', 20).defined(),
    decimals: whole('The number of decimals', 0, 12).nullable().defined(),
    rangeLow: finite('The low end').nullable().defined(),
    rangeHigh: finite('The high end')
      .nullable()
      .defined()
      .test('above', 'The high end must be above the low end.', function (value) {
        const low: unknown = (this.parent as { rangeLow?: unknown }).rangeLow;
        return typeof value !== 'number' || typeof low !== 'number' || value > low;
      })
      .test('pair', 'A range needs both ends, or neither.', function (value) {
        const low: unknown = (this.parent as { rangeLow?: unknown }).rangeLow;
        return (value === null) === (low === null);
      }),
    comment: words('The comment', 400).defined(),
    names: mixed<ValueNames>((value): value is ValueNames => isNames(value))
      .test('names', (value, context) => {
        const checked = value ? checkNames(value) : null;
        return !checked || checked.ok || context.createError({ message: checked.problem.message });
      })
      .defined(),
    initial: words('The initial value', 200).defined(),
    sourceId: string()
      .matches(/^$|^[0-9a-f-]{36}$/i, 'A source is named by its id.')
      .defined(),
    listName: words('The name in the list', 400).defined(),
    isGone: boolean().defined(),
  }),
  scale: object({
    id: id().defined(),
    scale: mixed<Scale>((value): value is Scale => isScale(value))
      .test('scale', (value, context) => {
        const checked = value ? checkScale(value) : null;
        return !checked || checked.ok || context.createError({ message: checked.problem.message });
      })
      .defined(),
  }),
  panel: object({ id: id().defined(), name: name('The panel').defined() }),
  page: object({
    id: id().defined(),
    panelId: id().defined(),
    name: name('The page').defined(),
    position: whole('The position', 0, 10_000).defined(),
  }),
  element: object({
    id: id().defined(),
    pageId: id().defined(),
    kind: string().oneOf(ELEMENT_KINDS).defined(),
    tagId: id().nullable().defined(),
    label: words('The label', 60).defined(),
    x: whole('The column', 0, PAGE_COLUMNS - 1).defined(),
    y: whole('The row', 0, 200).defined(),
    w: whole('The width', 1, PAGE_COLUMNS)
      .defined()
      .test('inside', 'The element does not fit on the page.', function (value) {
        const x: unknown = (this.parent as { x?: unknown }).x;
        return typeof x !== 'number' || x + value <= PAGE_COLUMNS;
      }),
    h: whole('The height', 1, 20).defined(),
    settings: object({
      low: finite('The low end').nullable(),
      high: finite('The high end')
        .nullable()
        .test('above', 'The high end must be above the low end.', function (value) {
          const low: unknown = (this.parent as { low?: unknown }).low;
          return typeof value !== 'number' || typeof low !== 'number' || value > low;
        }),
      onText: words('The text for on', 40),
      offText: words('The text for off', 40),
      action: string().oneOf(BUTTON_ACTIONS),
      value: words('The value to write', 200),
    })
      .noUnknown(true, 'An element has no such setting.')
      .defined(),
  }),
};

function isNames(value: unknown): value is ValueNames {
  return (
    Array.isArray(value) &&
    value.every(
      (n: unknown) =>
        typeof n === 'object' &&
        n !== null &&
        Object.keys(n).length === 2 &&
        typeof (n as { value?: unknown }).value === 'number' &&
        typeof (n as { name?: unknown }).name === 'string',
    )
  );
}

function isScale(value: unknown): value is Scale {
  if (typeof value !== 'object' || value === null || !('kind' in value)) return false;
  const keys = Object.keys(value);
  const numbers = (names: readonly string[]): boolean =>
    keys.length === names.length + 1 && names.every((n) => typeof (value as Record<string, unknown>)[n] === 'number');
  return value.kind === 'none'
    ? keys.length === 1
    : value.kind === 'linear'
      ? numbers(['rawA', 'engA', 'rawB', 'engB'])
      : value.kind === 'power'
        ? numbers(['exponent'])
        : false;
}

/** One change of a command: a whole entity, some fields of one that exists, or null to remove it. */
export interface Change {
  readonly kind: EntityKind;
  readonly id: string;
  readonly set: Readonly<Record<string, unknown>> | null;
  /** What the sender saw in the fields before: when they are something else by now, the change is refused. */
  readonly was?: Readonly<Record<string, unknown>> | undefined;
}
/** A change of a project as it is sent: the sender makes the ids. */
export interface Command {
  readonly id: string;
  /** What was done, in words for the history: “scale of bed_temp changed”. */
  readonly label: string;
  readonly changes: readonly Change[];
}

export const MAX_CHANGES = 20_000;

export const COMMAND_SCHEMA = object({
  id: id().defined(),
  label: words('The label', 200).min(1).defined(),
  changes: array()
    .of(
      object({
        kind: string<EntityKind>().oneOf(ENTITY_KINDS).defined(),
        id: id().defined(),
        set: record().nullable().defined(),
        was: record().optional(),
      }).noUnknown(true, 'A change has kind, id, set and was.'),
    )
    .min(1, 'A command needs at least one change.')
    .max(MAX_CHANGES, `A command has at most ${MAX_CHANGES} changes.`)
    .defined(),
}).noUnknown(true, 'A command has id, label and changes.');
