/** Where the value of a tag comes from. Whatever it is, the tag has one value with quality and time, a scale, ranges, a proof. */
import { mixed, type AnyObject, type MixedSchema } from 'yup';
import { CONTROL_CHARACTER, UUID } from '../patterns.ts';
import { PERIODS_MS } from './kinds/periods.ts';

export type TagSource = PointSource | LocalSource | CalculatedSource;

/** A value of a device. */
export interface PointSource {
  readonly kind: 'point';
  readonly deviceId: string;
  /** As its list or a person wrote it, in a notation of the device. */
  readonly address: string;
  /** Empty: the device's order for this width. */
  readonly order: string;
  /** How often it is read, or a change of it is wanted; null for what its group says. */
  readonly periodMs: number | null;
  /** What else its driver asks of a point. */
  readonly settings: Readonly<Record<string, unknown>>;
  /** An expression over other tags that says by how many places the address is moved; absent where it stays. */
  readonly index?: string;
}

/** A value that Mill Latch keeps itself. It begins with the tag's initial value. */
export interface LocalSource {
  readonly kind: 'local';
}

/** A value that follows from other tags. */
export interface CalculatedSource {
  readonly kind: 'calculated';
  readonly expression: string;
}

/** The expression that a tag goes by: of its value, or of its index; null for a tag that uses no other. */
export function expressionIn({ source }: { readonly source: TagSource }): string | null {
  return source.kind === 'calculated' ? source.expression : source.kind === 'point' ? (source.index ?? null) : null;
}

/** The same tag with another expression where it has one. */
export function withExpression<T extends { readonly source: TagSource }>(tag: T, expression: string): T {
  const { source } = tag;
  if (expressionIn(tag) === null) return tag;
  return { ...tag, source: source.kind === 'calculated' ? { ...source, expression } : { ...source, index: expression } };
}

/** The point moved by an index. @param expression empty for an address that stays */
export function withIndex({ source }: { readonly source: TagSource }, expression: string): { readonly source: TagSource } {
  if (source.kind !== 'point') return { source };
  const { index: _, ...still } = source;
  return { source: expression === '' ? still : { ...still, index: expression } };
}

/** The field that an expression stands in, as refusals name it. */
export function expressionField({ source }: { readonly source: TagSource }): 'source.expression' | 'source.index' {
  return source.kind === 'point' ? 'source.index' : 'source.expression';
}

/** The point of a device that a tag reads, null for a tag of another source. */
export function pointIn({ source }: { readonly source: TagSource }): PointSource | null {
  return source.kind === 'point' ? source : null;
}

/** The device that a tag belongs to, null for one of another source. */
export function deviceIdOf({ source }: { readonly source: TagSource }): string | null {
  return source.kind === 'point' ? source.deviceId : null;
}

/** The address of a tag's point; empty where it has none. */
export function addressOf({ source }: { readonly source: TagSource }): string {
  return source.kind === 'point' ? source.address : '';
}

/** The point as the tag has it, with some of it changed; a tag of another source stays what it is. */
export function withPoint(tag: { readonly source: TagSource }, change: Partial<PointSource>): { readonly source: TagSource } {
  return { source: tag.source.kind === 'point' ? { ...tag.source, ...change } : tag.source };
}

/** A new point whose settings are those of its device and group. */
export function newPoint(deviceId: string, address: string, more: Partial<PointSource> = {}): PointSource {
  return { kind: 'point', deviceId, address, order: '', periodMs: null, settings: {}, ...more };
}

const LONGEST_PERIOD_MS = 3_600_000;
const LONGEST_ADDRESS = 200;
const LONGEST_EXPRESSION = 4000;

export function tagSourceSchema(): MixedSchema<TagSource | undefined, AnyObject> {
  return mixed<TagSource>((value): value is TagSource => typeof value === 'object' && value !== null && 'kind' in value).test(
    'source',
    (value, context) => {
      const problem = value ? problemIn(value) : null;
      return !problem || context.createError({ message: problem.message, path: `${context.path}.${problem.field}` });
    },
  );
}

interface FieldProblem {
  readonly field: string;
  readonly message: string;
}

function problemIn(source: TagSource): FieldProblem | null {
  switch (source.kind) {
    case 'local':
      return unknownField(source, ['kind']);
    case 'calculated':
      return unknownField(source, ['kind', 'expression']) ?? expressionProblem('expression', source.expression);
    case 'point':
      return pointProblem(source);
    default:
      return { field: 'kind', message: 'The source of a tag is a point, local or calculated.' };
  }
}

function pointProblem(point: PointSource): FieldProblem | null {
  const surplus = unknownField(point, ['kind', 'deviceId', 'address', 'order', 'periodMs', 'settings'], ['index']);
  if (surplus) return surplus;
  if (typeof point.deviceId !== 'string' || !UUID.test(point.deviceId)) return { field: 'deviceId', message: 'An id must be a UUID.' };
  if (!isText(point.address, LONGEST_ADDRESS))
    return { field: 'address', message: `The address has at most ${LONGEST_ADDRESS} characters, none of them a control character.` };
  if (point.address.trim() !== point.address) return { field: 'address', message: 'The address: no spaces at the ends.' };
  if (!isText(point.order, 8)) return { field: 'order', message: 'The order has at most 8 characters.' };
  if (point.periodMs !== null && !isPeriod(point.periodMs)) return { field: 'periodMs', message: periodRule('The period') };
  if (typeof point.settings !== 'object' || point.settings === null || Array.isArray(point.settings) || JSON.stringify(point.settings).length > 4000)
    return { field: 'settings', message: 'The settings of a point are an object of at most 4000 characters.' };
  if (point.index === '') return { field: 'index', message: 'The index is empty.' };
  return point.index === undefined ? null : expressionProblem('index', point.index);
}

function expressionProblem(field: string, expression: unknown): FieldProblem | null {
  return isText(expression, LONGEST_EXPRESSION) ? null : { field, message: `An expression is a text of at most ${LONGEST_EXPRESSION} characters.` };
}

/** What a scan period may be. */
export function isPeriod(value: unknown): value is number {
  return Number.isInteger(value) && Number(value) >= PERIODS_MS[0] && Number(value) <= LONGEST_PERIOD_MS;
}

export function periodRule(label: string): string {
  return `${label} is a whole number of ${PERIODS_MS[0]} to ${LONGEST_PERIOD_MS} milliseconds.`;
}

function isText(value: unknown, most: number): value is string {
  return typeof value === 'string' && value.length <= most && !CONTROL_CHARACTER.test(value);
}

function unknownField(source: TagSource, fields: readonly string[], optional: readonly string[] = []): FieldProblem | null {
  const keys = Object.keys(source);
  const surplus = keys.find((key) => !fields.includes(key) && !optional.includes(key));
  if (surplus !== undefined) return { field: surplus, message: `A ${source.kind} has no field “${surplus.slice(0, 40)}”.` };
  const missing = fields.find((field) => !keys.includes(field));
  return missing === undefined ? null : { field: missing, message: `A ${source.kind} needs its field “${missing}”.` };
}
