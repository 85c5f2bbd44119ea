/** Columns of the map: what each shows, and how a text typed into it becomes a change. */
import { confirmText, parseConfirm } from '@/core/project/confirm.ts';
import { PERIODS_MS } from '@/core/project/kinds/periods.ts';
import { labelOf, type Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
import type { ProjectView } from '../live/project.ts';
import { DATA_TYPE_NAMES, parseDataType } from '@/core/value/dataType.ts';

export type ColumnKey = 'name' | 'group' | 'address' | 'type' | 'order' | 'period' | 'access' | 'value' | 'unit' | 'state' | 'proof' | 'comment';

export interface MapColumn {
  readonly key: ColumnKey;
  readonly title: string;
  readonly width: string;
  readonly mono?: boolean;
  readonly right?: boolean;
  /** Null for columns that only show. */
  readonly edit: {
    readonly text: (tag: Tag, project: ProjectView) => string;
    readonly set: (text: string, project: ProjectView) => Result<Partial<Tag>>;
    readonly choices?: (tag: Tag) => readonly string[];
  } | null;
}

/** `500 ms`, `1 s`: as people say it. */
export function periodText(ms: number): string {
  return ms % 1000 === 0 ? `${ms / 1000} s` : `${ms} ms`;
}

function parsePeriod(text: string): Result<Partial<Tag>> {
  const match = /^(\d+(?:\.\d+)?)\s*(ms|s)?$/i.exec(text.trim());
  const ms = match ? Math.round(Number(match[1]) * (match[2]?.toLowerCase() === 's' ? 1000 : 1)) : NaN;
  return Number.isInteger(ms) && ms >= PERIODS_MS[0] && ms <= 3_600_000
    ? ok({ periodMs: ms })
    : fail('period', 'A period is 100 ms to 3600 s.', 'Write 500 ms or 2 s.');
}

/** R: only read. RW: may be written too, once its device is unlocked; then how a write is confirmed: `RW ±0.5`. */
export function accessText(tag: Tag, project: ProjectView): string {
  return tag.access === 'readWrite' ? `RW ${confirmText(tag.confirm, (id) => project.tag(id)?.name ?? null)}`.trim() : 'R';
}

function parseAccess(text: string, project: ProjectView): Result<Partial<Tag>> {
  const plain = text.trim();
  if (/^R$/i.test(plain)) return ok({ access: 'read' });
  const match = /^RW(?:\s+(.*))?$/i.exec(plain);
  if (!match)
    return fail('access', 'Access is R or RW.', 'R only reads; RW may write. RW ±0.5, RW none and RW follows fan_speed ±5 say how it is confirmed.');
  const confirm = parseConfirm(match[1] ?? '', (name) => project.tags.find((t) => t.name.toLowerCase() === name.toLowerCase())?.id ?? null);
  return confirm.ok ? ok({ access: 'readWrite', confirm: confirm.value }) : confirm;
}

function ordersFor(tag: Tag): readonly string[] {
  const type = parseDataType(tag.type);
  const width = type.ok ? orderWidth(type.value) : null;
  return width === null ? [] : ORDERS[width];
}

export const MAP_COLUMNS: readonly MapColumn[] = [
  { key: 'name', title: 'Tag', width: 'minmax(8rem, 1.5fr)', edit: { text: (t) => t.name, set: (text) => ok({ name: text.trim() }) } },
  { key: 'group', title: labelOf('tag', 'group'), width: '0.6fr', edit: { text: (t) => t.group, set: (text) => ok({ group: text.trim() }) } },
  {
    key: 'address',
    title: labelOf('tag', 'address'),
    width: 'minmax(5rem, 0.8fr)',
    mono: true,
    edit: { text: (t) => t.address, set: (text) => ok({ address: text.trim() }) },
  },
  {
    key: 'type',
    title: labelOf('tag', 'type'),
    width: 'minmax(6.2rem, 0.9fr)',
    mono: true,
    edit: { text: (t) => t.type, set: (text) => ok({ type: text.trim().toUpperCase() }), choices: () => DATA_TYPE_NAMES },
  },
  {
    key: 'order',
    title: labelOf('tag', 'order'),
    width: 'minmax(5.6rem, 0.9fr)',
    mono: true,
    edit: { text: (t) => t.order, set: (text) => ok({ order: text.trim().toUpperCase() }), choices: ordersFor },
  },
  {
    key: 'period',
    title: labelOf('tag', 'periodMs'),
    width: 'minmax(3.8rem, 0.4fr)',
    edit: { text: (t) => periodText(t.periodMs), set: parsePeriod, choices: () => PERIODS_MS.map(periodText) },
  },
  {
    key: 'access',
    title: labelOf('tag', 'access'),
    width: 'minmax(4.2rem, 0.5fr)',
    edit: { text: accessText, set: parseAccess, choices: () => ['R', 'RW', 'RW none', 'RW ±0.5'] },
  },
  { key: 'value', title: 'Value', width: 'minmax(11.2rem, 1.5fr)', mono: true, right: true, edit: null },
  {
    key: 'unit',
    title: labelOf('tag', 'unit'),
    width: 'minmax(3.2rem, 0.4fr)',
    edit: { text: (t) => t.unit, set: (text) => ok({ unit: text.trim() }) },
  },
  { key: 'state', title: 'State', width: 'minmax(5.2rem, 0.6fr)', edit: null },
  { key: 'proof', title: 'Proof', width: 'minmax(6rem, 0.7fr)', edit: null },
  { key: 'comment', title: labelOf('tag', 'comment'), width: '1.5fr', edit: { text: (t) => t.comment, set: (text) => ok({ comment: text.trim() }) } },
];

export const GRID_TEMPLATE = MAP_COLUMNS.map((c) => c.width).join(' ');
