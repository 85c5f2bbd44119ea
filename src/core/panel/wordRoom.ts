/** Whether a text has room where it stands: what a translator has to know before it is seen on a glass. */
import type { Element } from '../project/kinds/element.ts';
import { textParts } from './bound.ts';
import { ELEMENTS, settingsOf } from './kinds.ts';
import { fitted, roomOf, sidePx, TEXT_PX } from './textRoom.ts';
import { textEms } from './textWidth.ts';
import { plainSource, sourceOf } from './wording.ts';

const LABEL_PX = 13;
const LEADING = 1.25;
/** What stands for a value whose digits are not known here. */
const VALUE = '00000.0';

/** As it will be seen, with values in its places. */
const seen = (text: string): string => textParts(text).map(({ text: part, by }) => (by === null ? part : VALUE)).join(''); // prettier-ignore

/**
 * @param source of the text, as it was written
 * @param text that is to stand in its place
 */
export function isTooLong(element: Element, source: string, text: string): boolean {
  const shown = seen(text);
  const { kind, settings, w, h } = element;
  const inner = w - 2 * sidePx(w);
  if (element.label !== '' && plainSource(element.label) === source && kind !== 'text') return textEms(shown, 'sans') * LABEL_PX > inner;
  const template = Object.entries(ELEMENTS[kind].settings).find(([, { control }]) => control.kind === 'template')?.[0];
  const written = template === undefined ? undefined : settings[template];
  if (typeof written === 'string' && sourceOf(written) === source) {
    const px = kind === 'text' ? TEXT_PX[settingsOf('text', element).size] : TEXT_PX.normal;
    const lines = shown.split('\n').reduce((sum, line) => sum + Math.max(1, Math.ceil((textEms(line, 'sans') * px) / w)), 0);
    return lines * px * LEADING > h + px * 0.3;
  }
  const room = roomOf(element, { unit: '', hasLabel: element.label !== '' });
  return room !== null && !fitted(room, shown).isWhole;
}
