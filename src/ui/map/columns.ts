/** Columns of the map: what each shows, and how a text typed into it becomes a change. */
import { confirmText, parseConfirm } from '@/core/project/confirm.ts';
import type { Change } from '@/core/project/command.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import { accessOf } from '@/core/project/inherited.ts';
import { PERIODS_MS } from '@/core/project/kinds/periods.ts';
import { addressOf, deviceIdOf, isPeriod, pointIn, withIndex, withPoint } from '@/core/project/tagSource.ts';
import { labelOf, type Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
import { parseScaleText, scaleText, type GivenScale } from './scaleCell.ts';
import { expressionText, readingOf, storedExpression } from '../expression/reading.ts';
import type { ProjectView } from '../live/project.ts';
import { DATA_TYPE_NAMES, formatDataType, LAID_OUT_NAMES, parseDataType } from '@/core/value/dataType.ts';

export type ColumnKey =
  | 'name'
  | 'device'
  | 'group'
  | 'address'
  | 'index'
  | 'type'
  | 'order'
  | 'period'
  | 'access'
  | 'unavailable'
  | 'decimals'
  | 'range'
  | 'scale'
  | 'value'
  | 'unit'
  | 'state'
  | 'proof'
  | 'comment';

/** What a text typed into a cell comes to. */
export interface TagEdit {
  readonly set: Partial<Tag>;
  /** The scale that it is given; absent where the edit says nothing of it. */
  readonly scale?: GivenScale;
  /** What has to be made first: groups. */
  readonly first?: readonly Change[];
}

export interface MapColumn {
  readonly key: ColumnKey;
  readonly title: string;
  readonly width: string;
  readonly mono?: boolean;
  readonly right?: boolean;
  /** Shown only where somebody chose it; the others unless they did not. */
  readonly isExtra?: boolean;
  /** Null for columns that only show. */
  readonly edit: {
    readonly text: (tag: Tag, project: ProjectView) => string;
    readonly set: (text: string, tag: Tag, project: ProjectView) => Result<TagEdit>;
    readonly choices?: (tag: Tag, project: ProjectView) => readonly string[];
  } | null;
}

/** `500 ms`, `1 s`: as people say it. */
export function periodText(ms: number): string {
  return ms % 1000 === 0 ? `${ms / 1000} s` : `${ms} ms`;
}

/** Empty: as the group says. */
function parsePeriod(text: string, tag: Tag): Result<TagEdit> {
  if (text.trim() === '') return ok({ set: withPoint(tag, { periodMs: null }) });
  const match = /^(\d+(?:\.\d+)?)\s*(ms|s)?$/i.exec(text.trim());
  const ms = match ? Math.round(Number(match[1]) * (match[2]?.toLowerCase() === 's' ? 1000 : 1)) : NaN;
  return isPeriod(ms) ? ok({ set: withPoint(tag, { periodMs: ms }) }) : fail('period', 'A period is 100 ms to 3600 s.', 'Write 500 ms or 2 s.');
}

/** R: only read. RW: may be written too, once its device is unlocked; then how a write is confirmed: `RW ±0.5`. */
export function accessText(tag: Tag, project: ProjectView): string {
  return accessOf(tag, project.inheritedBy(tag.groupId)) === 'readWrite'
    ? `RW ${confirmText(tag.confirm, (id) => project.tag(id)?.name ?? null)}`.trim()
    : 'R';
}

/** Empty: as the group says. */
function parseAccess(text: string, _tag: Tag, project: ProjectView): Result<TagEdit> {
  const plain = text.trim();
  if (plain === '') return ok({ set: { access: null } });
  if (/^R$/i.test(plain)) return ok({ set: { access: 'read' } });
  const match = /^RW(?:\s+(.*))?$/i.exec(plain);
  if (!match)
    return fail('access', 'Access is R or RW.', 'R only reads; RW may write. RW ±0.5, RW none and RW follows fan_speed ±5 say how it is confirmed.');
  const confirm = parseConfirm(match[1] ?? '', (name) => project.tags.find((t) => t.name.toLowerCase() === name.toLowerCase())?.id ?? null);
  return confirm.ok ? ok({ set: { access: 'readWrite', confirm: confirm.value } }) : confirm;
}

/** Empty where it has the period of its group. */
function ownPeriodText(tag: Tag): string {
  const periodMs = pointIn(tag)?.periodMs ?? null;
  return periodMs === null ? '' : periodText(periodMs);
}

/** The expression that moves the address; empty for one that stays. */
function indexText(tag: Tag, project: ProjectView): string {
  return pointIn(tag) ? expressionText(project, tag) : '';
}

function parseIndex(text: string, tag: Tag, project: ProjectView): Result<TagEdit> {
  if (text.trim() === '') return ok({ set: withIndex(tag, '') });
  if (!pointIn(tag)) return fail('index', `${tag.name} has no address that an index could move.`, 'Choose a tag of a device.');
  const stored = storedExpression(project, text);
  if (stored !== null) return ok({ set: withIndex(tag, stored) });
  const reading = readingOf(project, text);
  return fail('index', reading.ok ? 'This is no expression.' : reading.problem.message, reading.ok ? undefined : reading.problem.remedy);
}

/** `20…140`; empty for none. */
function rangeText({ rangeLow, rangeHigh }: Tag): string {
  return rangeLow === null || rangeHigh === null ? '' : `${rangeLow}…${rangeHigh}`;
}

function parseRange(text: string): Result<TagEdit> {
  if (text.trim() === '') return ok({ set: { rangeLow: null, rangeHigh: null } });
  const match = /^([+-]?\d+(?:\.\d+)?(?:e[+-]?\d+)?)\s*(?:…|\.\.\.?|to|;)\s*([+-]?\d+(?:\.\d+)?(?:e[+-]?\d+)?)$/i.exec(text.trim());
  if (!match) return fail('range', `“${text.trim().slice(0, 40)}” is no range.`, 'Write both ends, as in 20…140 or 20 to 140.');
  return ok({ set: { rangeLow: Number(match[1]), rangeHigh: Number(match[2]) } });
}

function parseScale(text: string, tag: Tag, project: ProjectView): Result<TagEdit> {
  const given = parseScaleText(text, tag, project);
  return given.ok ? ok({ set: {}, scale: given.value }) : given;
}

function parseDecimals(text: string): Result<TagEdit> {
  if (text.trim() === '') return ok({ set: { decimals: null } });
  return /^\d{1,2}$/.test(text.trim())
    ? ok({ set: { decimals: Number(text) } })
    : fail('decimals', 'The number of decimals is 0 to 12.', 'Leave it empty for as many as the value is worth.');
}

function parseType(text: string): Result<TagEdit> {
  const type = parseDataType(text);
  return type.ok ? ok({ set: { type: formatDataType(type.value) } }) : type;
}

/** A group that is not there yet is made. */
function parseGroup(text: string, tag: Tag, project: ProjectView): Result<TagEdit> {
  const { ids, changes } = groupsNamed(project, deviceIdOf(tag), [text]);
  return ok({ set: { groupId: ids.get(text) ?? null }, first: changes });
}

function groupsOf(deviceId: string | null, project: ProjectView): readonly string[] {
  return project.groups.flatMap((group) => (group.deviceId === deviceId ? project.groupTextOf(group.id) : []));
}

function ordersFor(tag: Tag): readonly string[] {
  const type = parseDataType(tag.type);
  return type.ok ? ORDERS[orderWidth(type.value)] : [];
}

/** Wider where addresses are long, unless somebody has drawn it. */
const USUAL_ADDRESS = 'minmax(5rem, 0.8fr)';

export const MAP_COLUMNS: readonly MapColumn[] = [
  { key: 'name', title: 'Tag', width: 'minmax(8rem, 1.5fr)', edit: { text: (t) => t.name, set: (text) => ok({ set: { name: text.trim() } }) } },
  { key: 'device', title: 'Device', width: 'minmax(4.5rem, 0.6fr)', isExtra: true, edit: null },
  {
    key: 'group',
    title: labelOf('tag', 'groupId'),
    width: 'minmax(4.2rem, 0.6fr)',
    edit: { text: (t, project) => project.groupTextOf(t.groupId), set: parseGroup, choices: (t, project) => groupsOf(deviceIdOf(t), project) },
  },
  {
    key: 'address',
    title: 'Address',
    width: USUAL_ADDRESS,
    mono: true,
    edit: { text: addressOf, set: (text, tag) => ok({ set: withPoint(tag, { address: text.trim() }) }) },
  },
  { key: 'index', title: 'Index', width: 'minmax(5rem, 0.8fr)', mono: true, isExtra: true, edit: { text: indexText, set: parseIndex } },
  {
    key: 'type',
    title: labelOf('tag', 'type'),
    width: 'minmax(6.2rem, 0.9fr)',
    mono: true,
    edit: { text: (t) => t.type, set: parseType, choices: () => [...DATA_TYPE_NAMES, ...LAID_OUT_NAMES] },
  },
  {
    key: 'order',
    title: 'Order',
    width: 'minmax(5.6rem, 0.9fr)',
    mono: true,
    edit: {
      text: (t) => pointIn(t)?.order ?? '',
      set: (text, tag) => ok({ set: withPoint(tag, { order: text.trim().toUpperCase() }) }),
      choices: ordersFor,
    },
  },
  {
    key: 'period',
    title: 'Period',
    width: 'minmax(3.8rem, 0.4fr)',
    edit: { text: ownPeriodText, set: parsePeriod, choices: () => PERIODS_MS.map(periodText) },
  },
  {
    key: 'access',
    title: labelOf('tag', 'access'),
    width: 'minmax(4.2rem, 0.5fr)',
    edit: {
      text: (t, project) => (t.access === null ? '' : accessText(t, project)),
      set: parseAccess,
      choices: () => ['R', 'RW', 'RW none', 'RW ±0.5'],
    },
  },
  {
    key: 'unavailable',
    title: labelOf('tag', 'unavailable'),
    width: 'minmax(6rem, 0.8fr)',
    mono: true,
    isExtra: true,
    edit: {
      text: (t) => t.unavailable ?? '',
      set: (text) => ok({ set: { unavailable: text.trim() === '' ? null : text.trim() } }),
      choices: () => ['16#8000', '16#FFFF', '16#7FFF', '-9999'],
    },
  },
  {
    key: 'range',
    title: 'Expected',
    width: 'minmax(6rem, 0.8fr)',
    mono: true,
    isExtra: true,
    edit: { text: rangeText, set: parseRange },
  },
  {
    key: 'decimals',
    title: labelOf('tag', 'decimals'),
    width: 'minmax(4rem, 0.4fr)',
    mono: true,
    isExtra: true,
    edit: { text: (t) => (t.decimals === null ? '' : String(t.decimals)), set: parseDecimals },
  },
  {
    key: 'scale',
    title: labelOf('scale', 'scale'),
    width: 'minmax(7rem, 1fr)',
    isExtra: true,
    edit: { text: scaleText, set: parseScale, choices: (_, project) => project.sharedScales.map(({ name }) => name) },
  },
  { key: 'value', title: 'Value', width: 'minmax(11.2rem, 1.5fr)', mono: true, right: true, edit: null },
  {
    key: 'unit',
    title: labelOf('tag', 'unit'),
    width: 'minmax(3.2rem, 0.4fr)',
    edit: { text: (t) => t.unit, set: (text) => ok({ set: { unit: text.trim() } }) },
  },
  { key: 'state', title: 'State', width: 'minmax(5.2rem, 0.6fr)', edit: null },
  { key: 'proof', title: 'Proof', width: 'minmax(6rem, 0.7fr)', edit: null },
  {
    key: 'comment',
    title: labelOf('tag', 'comment'),
    width: '1.5fr',
    edit: { text: (t) => t.comment, set: (text) => ok({ set: { comment: text.trim() } }) },
  },
];

/** An address by name takes more room than a number. */
const LONG_ADDRESS = 12;

/** The widths of the columns for some tags: comments give way to addresses that are names. */
export function gridTemplate(tags: readonly Tag[], columns: readonly MapColumn[]): string {
  const isLong = tags.some((tag) => addressOf(tag).length > LONG_ADDRESS);
  return columns.map(({ key, width }) => (isLong && key === 'address' && width === USUAL_ADDRESS ? 'minmax(9rem, 1.9fr)' : width)).join(' ');
}
