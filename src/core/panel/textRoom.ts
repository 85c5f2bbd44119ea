/**
 * How large an element writes the text of its value. A text that is too long is written smaller; one that is too long even then is
 * not cut where it could be read as another: see {@link fitted}. The drawings take their sizes from here.
 */
import { settingsOf, type ElementKind, type ElementSettings } from './kinds.ts';
import { textEms, type Face } from './textWidth.ts';

export const TEXT_PX = { small: 13, normal: 16, large: 24, huge: 44 } as const;
/** Nobody reads less from before a machine. */
export const SMALLEST_PX = 12;
export const UNIT_PX = 14;

interface Written {
  readonly kind: ElementKind;
  readonly settings: ElementSettings;
  /** In pixels of the panel, as it stands here. */
  readonly w: number;
  readonly h: number;
}

/** What stands in the same line. */
interface Beside {
  readonly unit: string;
  readonly hasLabel: boolean;
}

export interface Room {
  /** The size that it is written in where it fits. */
  readonly px: number;
  readonly face: Face;
  /** Pixels for the text, its unit taken off. */
  readonly has: number;
}

/** Below this height label and value stand in one line. */
export const FLAT_PX = 44;
/** In one line with its label a value takes at most this part, and the label gives way. */
const BESIDE_LABEL = 0.62;
const GAP_PX = 8;

/** What says in the same line that the value is not to be trusted. */
export const MARK_PX = 14;

const LINE_PX = 1;

/** Between the line of an element and what stands in it: little where every pixel counts. */
export function sidePx(w: number): number {
  return w < 100 ? 4 : 12;
}

/** Null for a kind that writes no value of its own. */
export function roomOf(element: Written, { unit, hasLabel }: Beside): Room | null {
  const { w, h } = element;
  const isFlat = h < FLAT_PX;
  const inner = w - 2 * (sidePx(w) + LINE_PX);
  const shared = hasLabel ? BESIDE_LABEL : 1;
  // A label gives way to it.
  const mark = hasLabel ? 0 : MARK_PX + GAP_PX;
  const unitPx = unit === '' ? 0 : textEms(unit, 'sans') * UNIT_PX + GAP_PX;
  switch (element.kind) {
    case 'value':
    case 'entry': {
      const size = TEXT_PX[settingsOf(element.kind, element).size];
      return isFlat
        ? { px: Math.min(size, Math.max(8, h - 10)), face: 'mono', has: inner * shared - unitPx - GAP_PX }
        : { px: Math.min(size * 1.35, Math.max(SMALLEST_PX, (h - 10 - (hasLabel ? 16 : 0)) / 1.25)), face: 'mono', has: inner - unitPx };
    }
    case 'bar':
    case 'dial':
      return { px: 20, face: 'mono', has: inner - unitPx };
    case 'slider':
      return { px: 18, face: 'mono', has: inner - unitPx };
    case 'lamp':
      if (settingsOf('lamp', element).shape === 'filled') return { px: 16, face: 'sans', has: (w - 20) * shared - GAP_PX - mark };
      return { px: 17, face: 'sans', has: isFlat ? inner * shared - 24 - GAP_PX - mark : inner - 30 };
    case 'switch':
      return { px: 17, face: 'sans', has: inner - 64 };
    case 'pick':
      return { px: 18, face: 'sans', has: inner - 26 };
    case 'choice':
      return { px: 13, face: 'sans', has: w * BESIDE_LABEL };
    case 'button':
      return { px: TEXT_PX[settingsOf('button', element).size], face: 'sans', has: w - 20 - 22 };
    case 'symbol':
    case 'picture':
      return { px: 13, face: 'sans', has: w - 15 };
    default:
      return null;
  }
}

export interface Fitted {
  readonly px: number;
  /** It stands there whole; else its end is missing, or it is not there at all. */
  readonly isWhole: boolean;
  readonly text: string;
}

const STARTS_AS_NUMBER = /^[^\p{L}]*\p{N}/u;

/** The room as words that take turns in it leave it: one size for all of them, so that none jumps. */
export function roomForAll(room: Room, words: readonly string[]): Room {
  return { ...room, px: Math.min(...words.map((word) => fitted(room, word).px), room.px) };
}

/**
 * The size that a text is written in, and what is written: all of it, or nothing of what starts as a number and would mean another
 * value with its end missing.
 * @param noRoom what is said in its place
 */
export function fitted({ px, face, has }: Room, text: string, noRoom = 'no room'): Fitted {
  const least = Math.min(px, SMALLEST_PX);
  const most = has / textEms(text, face);
  if (least > most) return { px: least, isWhole: false, text: STARTS_AS_NUMBER.test(text) ? `✕ ${noRoom}` : text };
  return { px: Math.min(px, Math.max(least, Math.floor(most * 2) / 2)), isWhole: true, text };
}
