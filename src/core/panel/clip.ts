/** Elements on the clipboard: as JSON text, so that they go from page to page, panel to panel and window to window. */
import { array, object, string } from 'yup';
import { ENTITY_SCHEMAS, ENTITY_DEFAULTS, type Element } from '../project/entities.ts';
import { fail, ok, type Result } from '../result.ts';
import { MOST_ELEMENTS } from '../project/kinds/element.ts';
import { around } from './arrange.ts';

const MARK = 'mill-latch-elements';

export function clipText(elements: readonly Element[]): string {
  return JSON.stringify({ [MARK]: 1, elements });
}

const SCHEMA = object({ elements: array().of(object()).min(1).max(MOST_ELEMENTS).defined(), [MARK]: string().optional() });

/** Null for a text that is something else; refuses what is damaged. */
export function clipFrom(text: string): Result<readonly Element[]> | null {
  if (!text.includes(MARK) || text.length > 10_000_000) return null;
  try {
    const clip: unknown = JSON.parse(text);
    if (typeof clip !== 'object' || clip === null || !(MARK in clip)) return null;
    const { elements } = SCHEMA.cast(clip, { assert: false }) as { elements?: unknown };
    if (!Array.isArray(elements)) return null;
    return ok(
      elements.map((element: unknown) => {
        const whole = { ...ENTITY_DEFAULTS.element, ...(element as object) };
        ENTITY_SCHEMAS.element.validateSync(whole, { strict: true });
        return whole as unknown as Element;
      }),
    );
  } catch (error) {
    return fail(
      'clip',
      `What is on the clipboard cannot be put on a page: ${error instanceof Error ? error.message : 'it is damaged'}`,
      'Copy it again.',
    );
  }
}

/**
 * Copies for a page: new ids, groups of their own, above what is there.
 * @param by how far they are moved; @param newId a new UUID each time
 */
export function copiesOf(
  elements: readonly Element[],
  to: { readonly pageId: string; readonly top: number; readonly by: { readonly x: number; readonly y: number } },
  newId: () => string,
): readonly Element[] {
  const groups = new Map<string, string>();
  const groupOf = (group: string): string => {
    if (group === '') return '';
    const known = groups.get(group) ?? newId();
    groups.set(group, known);
    return known;
  };
  return elements.map((element, i) => ({
    ...element,
    id: newId(),
    pageId: to.pageId,
    x: element.x + to.by.x,
    y: element.y + to.by.y,
    z: to.top + 1 + i,
    group: groupOf(element.group),
    isLocked: false,
  }));
}

/** How far copies are moved so that they do not lie exactly over what is there, and on the page. */
export function pasteShift(
  clip: readonly Element[],
  there: readonly Element[],
  page: { readonly width: number; readonly height: number },
  pitch: number,
): { readonly x: number; readonly y: number } {
  const box = around(clip);
  if (!box) return { x: 0, y: 0 };
  const isTaken = (by: number): boolean => there.some(({ x, y }) => x === box.x + by && y === box.y + by);
  let by = 0;
  while (isTaken(by) && by < 400) by += Math.max(8, pitch);
  const into = (at: number, size: number, room: number): number => Math.max(Math.min(at, room - size), 0) - at;
  return { x: by + into(box.x + by, box.w, page.width), y: by + into(box.y + by, box.h, page.height) };
}
