/** One element, or a few, made into rows and columns of them: tags, labels, bits and masks count on. */
import { settingsWithTags } from './retag.ts';
import { walked } from './bound.ts';
import type { Element } from '../project/kinds/element.ts';
import { around } from './arrange.ts';
import type { Action } from './actions.ts';

export interface Multiply {
  readonly rows: number;
  readonly columns: number;
  /** Pixels between two neighbours. */
  readonly gapX: number;
  readonly gapY: number;
  /** Numbers in labels and texts count on. */
  readonly countsLabels: boolean;
  /** Masks in expressions, and in the values that are written, are doubled: 1, 2, 4, 8 … */
  readonly doublesMasks: boolean;
  /** First along a row, or first down a column. */
  readonly order: 'rows' | 'columns';
}

export const MOST_COPIES = 1000;

export interface Multiplied {
  readonly elements: readonly Element[];
  /** How many copies have a tag that does not count on: they have none. */
  readonly withoutTag: number;
}

/**
 * @param tagAt the tag that is n after another one, null where there is none
 * @returns the copies; the elements themselves are the first of them and stay
 */
export function multiplied(
  elements: readonly Element[],
  { rows, columns, gapX, gapY, countsLabels, doublesMasks, order }: Multiply,
  { newId, tagAt }: { readonly newId: () => string; readonly tagAt: (tagId: string, n: number) => string | null },
): Multiplied {
  const box = around(elements);
  if (!box) return { elements: [], withoutTag: 0 };
  const made: Element[] = [];
  let withoutTag = 0;
  const total = rows * columns;
  for (let n = 1; n < total; n++) {
    const [row, column] = order === 'rows' ? [Math.floor(n / columns), n % columns] : [n % rows, Math.floor(n / rows)];
    const group = newId();
    for (const element of elements) {
      const next = new Map<string, string | null>();
      const tagOf = (id: string): string | null => {
        const known = next.get(id);
        if (known !== undefined) return known;
        const found = tagAt(id, n);
        next.set(id, found);
        return found;
      };
      const tagId = element.tagId === null ? null : tagOf(element.tagId);
      if (element.tagId !== null && tagId === null) withoutTag++;
      const retagged = settingsWithTags(element.settings, (id) => tagOf(id) ?? id);
      const masked = doublesMasks ? withMasks(retagged, n) : retagged;
      made.push({
        ...element,
        id: newId(),
        tagId,
        x: element.x + column * (box.w + gapX),
        y: element.y + row * (box.h + gapY),
        z: element.z + n,
        group: elements.length > 1 || element.group !== '' ? group : '',
        label: countsLabels ? labelAfter(element.label, n, doublesMasks) : element.label,
        settings: countsLabels ? withCountedTexts(masked, n) : masked,
      });
    }
  }
  return { elements: made, withoutTag };
}

/** The last number in a text, n further, with as many digits: `Input 09` and 3 give `Input 12`. A text without one stays. */
export function countedOn(text: string, n: number): string {
  return text.replace(/(\d+)(?!.*\d)/s, (digits) => String(Number(digits) + n).padStart(digits.length, '0'));
}

const MASK = /^(?:([0-9a-f]+)h|16#([0-9a-f_]+)|(\d+))$/i;

/**
 * A mask n bits further, written as it was: `1` becomes 2, 4, 8 and then, as the trade writes them, 10h, 20h … 8000h; `16#0001` keeps
 * its base and digits. Null for what is no mask of one bit.
 */
export function maskAfter(text: string, n: number): string | null {
  const match = MASK.exec(text.trim());
  if (!match) return null;
  const hex = match[1] ?? match[2]?.replaceAll('_', '');
  const value = BigInt(hex === undefined ? (match[3] ?? '0') : `0x${hex}`);
  if (value <= 0n || (value & (value - 1n)) !== 0n) return null;
  const next = value << BigInt(n);
  if (match[2] !== undefined) return `16#${next.toString(16).toUpperCase().padStart(match[2].length, '0')}`;
  return next < 10n ? String(next) : `${next.toString(16).toUpperCase()}h`;
}

function labelAfter(label: string, n: number, masks: boolean): string {
  return (masks ? maskAfter(label, n) : null) ?? countedOn(label, n);
}

/** Masks stand after `and` in expressions; as a number there, since an expression knows no `h`. */
function withMasks<S extends object>(settings: S, n: number): S {
  const inExpressions = walked(settings, (expression) =>
    expression.replace(/\b(and\s+)(16#[0-9a-f_]+|\d+)\b/gi, (whole, word: string, literal: string) => {
      const next = maskAfter(literal, n);
      return next === null ? whole : `${word}${next.endsWith('h') ? String(Number.parseInt(next, 16)) : next}`;
    }),
  ) as S & { readonly actions?: readonly Action[] };
  if (!inExpressions.actions) return inExpressions;
  return {
    ...inExpressions,
    actions: inExpressions.actions.map((action) => {
      const next = action.act === 'subject' ? null : maskAfter(action.value, n);
      return next === null ? action : { ...action, value: next.endsWith('h') ? `16#${next.slice(0, -1)}` : next };
    }),
  };
}

/** Words on buttons count on like labels do, and so do the subjects that they show. */
function withCountedTexts(settings: Element['settings'], n: number): Element['settings'] {
  const { caption, actions } = settings;
  const words = typeof caption === 'string' && caption !== '' ? { caption: countedOn(caption, n) } : {};
  if (!Array.isArray(actions)) return { ...settings, ...words };
  const counted = (actions as readonly Action[]).map((action) =>
    action.act === 'subject' ? { ...action, value: countedOn(action.value, n) } : action,
  );
  return { ...settings, ...words, actions: counted };
}
