/** Things on a panel page, and the text that each draws for a value. */
import type { Range } from '../ranges/range.ts';
import { NO_VALUE_TEXT } from '../signal.ts';
import type { QualityLevel } from '../value/quality.ts';

export const ELEMENT_KINDS = ['number', 'bar', 'lamp', 'button', 'entry'] as const;
export type ElementKind = (typeof ELEMENT_KINDS)[number];

/** `hold` is on only while the button is held. */
export const BUTTON_ACTIONS = ['toggle', 'set', 'reset', 'write', 'hold'] as const;
export type ButtonAction = (typeof BUTTON_ACTIONS)[number];

export interface ElementSettings {
  /** Ends of a bar in the tag's own unit, whatever unit is shown; where they are not said, those of the tag. */
  readonly low?: number | null;
  readonly high?: number | null;
  /** Words of a lamp or button for its two states. */
  readonly onText?: string;
  readonly offText?: string;
  /** What a button does to its tag. */
  readonly action?: ButtonAction;
  /** What a button writes whose action is to write a value. */
  readonly value?: string;
  /** The unit that it shows, where that is another than the panel's. */
  readonly unit?: string;
}

export const ELEMENT_WORDS: Readonly<Record<ElementKind, { readonly name: string; readonly use: string; readonly w: number; readonly h: number }>> = {
  number: { name: 'Number', use: 'shows a value with its unit', w: 3, h: 2 },
  bar: { name: 'Bar', use: 'shows where a value lies between two ends', w: 4, h: 2 },
  lamp: { name: 'Lamp', use: 'shows a state in words', w: 2, h: 2 },
  button: { name: 'Button', use: 'sets, resets or toggles a state', w: 2, h: 2 },
  entry: { name: 'Number entry', use: 'takes a value and writes it', w: 3, h: 2 },
};

/** The part of a sample that an element draws. */
export interface DrawnSample {
  readonly text: string;
  readonly level: QualityLevel;
  /** The engineering value when it is a state. */
  readonly state: boolean | null;
}

/**
 * The exact text that an element draws for a sample. A bad value is never drawn as a number or a state.
 * Drawing (panel page) and checking both call this.
 */
export function elementText(kind: ElementKind, settings: ElementSettings, sample: DrawnSample | null): string {
  if (sample === null || sample.level === 'bad') return NO_VALUE_TEXT;
  if ((kind === 'lamp' || kind === 'button') && sample.state !== null)
    return (sample.state ? settings.onText : settings.offText) || (sample.state ? 'on' : 'off');
  return sample.text;
}

/** The ends of a bar: its own, or those of its tag. */
export function barEnds(settings: ElementSettings, ofTag: Range | null): Range {
  const [low, high] = [settings.low ?? ofTag?.low ?? 0, settings.high ?? ofTag?.high ?? 100];
  return high > low ? { low, high } : { low, high: low + 100 };
}

/** Where a value lies between two ends, 0…1; null when there is none to draw. */
export function barFill({ low, high }: Range, value: number | null): number | null {
  if (value === null) return null;
  return Math.min(1, Math.max(0, (value - low) / (high - low)));
}

/** The first free place for a new element, row by row; below everything when no gap fits. */
export function freePlace(
  taken: readonly { readonly x: number; readonly y: number; readonly w: number; readonly h: number }[],
  columns: number,
  w: number,
  h: number,
): { readonly x: number; readonly y: number } {
  const bottom = taken.reduce((low, e) => Math.max(low, e.y + e.h), 0);
  for (let y = 0; y <= bottom; y++)
    for (let x = 0; x + w <= columns; x++) if (!taken.some((e) => x < e.x + e.w && e.x < x + w && y < e.y + e.h && e.y < y + h)) return { x, y };
  return { x: 0, y: bottom };
}
