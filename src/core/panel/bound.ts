/** A property of an element that follows something: an expression over tags, or a table of what it is by such a value. */
import { withIds } from '../expression/references.ts';
import type { Resolve } from '../expression/parse.ts';
import { ok, type Result } from '../result.ts';

/** An expression as it is stored, with the ids of its tags. */
export interface Bound {
  readonly by: string;
}

/** A property that is a constant, or what an expression gives. */
export type Live<T> = T | Bound;

export const LONGEST_EXPRESSION = 2000;

export function isBound(value: unknown): value is Bound {
  return typeof value === 'object' && value !== null && 'by' in value && typeof value.by === 'string';
}

/** Places that no expression stands in: what the page serves, and the words for the value of the element's own tag. */
export const isNamedPlace = (by: string): boolean => by === 'subject' || by === 'state';

/** Places for values in a text: `{bed_temp} of {bed_temp_sp} °C`; two braces stand for one. */
const PLACE = /\{\{|\}\}|\{([^{}]*)\}/g;

export interface TextPart {
  readonly text: string;
  /** An expression whose value stands here, null for the text itself. */
  readonly by: string | null;
}

export function textParts(template: string): readonly TextPart[] {
  const parts: TextPart[] = [];
  let at = 0;
  let plain = '';
  for (const match of template.matchAll(PLACE)) {
    plain += template.slice(at, match.index);
    at = match.index + match[0].length;
    if (match[1] === undefined) plain += match[0][0];
    else {
      if (plain !== '') parts.push({ text: plain, by: null });
      plain = '';
      parts.push({ text: '', by: match[1] });
    }
  }
  plain += template.slice(at);
  if (plain !== '') parts.push({ text: plain, by: null });
  return parts;
}

/** Every expression in the settings of an element: bound properties, and places in its texts. */
export function expressionsIn(settings: Readonly<Record<string, unknown>>): readonly string[] {
  const found: string[] = [];
  walked(settings, (expression) => {
    found.push(expression);
    return expression;
  });
  return found;
}

/** The same settings with the paths of tags in their expressions made ids. Refuses an expression that cannot be read. */
export function withBoundIds<S extends object>(settings: S, resolve: Resolve): Result<S> {
  let wrong: Result<never> | null = null;
  const bound = walked(settings, (expression) => {
    const done = withIds(expression, resolve);
    if (done.ok) return done.value;
    wrong ??= done;
    return expression;
  });
  return wrong ?? ok(bound as S);
}

/** The same settings with every expression changed. */
export function walked(value: unknown, change: (expression: string) => string): unknown {
  if (isBound(value)) {
    const by = change(value.by);
    return by === value.by ? value : { ...value, by };
  }
  if (Array.isArray(value)) {
    const items = value.map((item) => walked(item, change));
    return items.every((item, i) => item === value[i]) ? value : items;
  }
  if (typeof value !== 'object' || value === null) return value;
  let next: Record<string, unknown> | null = null;
  for (const [key, item] of Object.entries(value)) {
    const changed = key === 'template' && typeof item === 'string' ? changedTemplate(item, change) : walked(item, change);
    if (changed !== item) next = { ...(next ?? value), [key]: changed };
  }
  return next ?? value;
}

function changedTemplate(template: string, change: (expression: string) => string): string {
  return template.replace(PLACE, (whole: string, expression: string | undefined) =>
    expression === undefined || isNamedPlace(expression) ? whole : `{${change(expression)}}`,
  );
}
