/** Arranging elements of a page: lines, gaps, sizes, heights. Each gives the fields that change, by element. */
import type { Element } from '../project/kinds/element.ts';
import { byHeight } from './scene.ts';

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}
export type Moved = ReadonlyMap<string, Partial<Pick<Element, 'x' | 'y' | 'w' | 'h' | 'z'>>>;

export const ALIGNMENTS = {
  left: 'left edges',
  centre: 'centres, side by side',
  right: 'right edges',
  top: 'upper edges',
  middle: 'centres, one above another',
  bottom: 'lower edges',
} as const;
export type Alignment = keyof typeof ALIGNMENTS;

/** Around all of them; null for none. */
export function around(boxes: readonly Box[]): Box | null {
  if (boxes.length === 0) return null;
  const x = Math.min(...boxes.map((box) => box.x));
  const y = Math.min(...boxes.map((box) => box.y));
  return { x, y, w: Math.max(...boxes.map((box) => box.x + box.w)) - x, h: Math.max(...boxes.map((box) => box.y + box.h)) - y };
}

/** To the first that was chosen. */
export function aligned(elements: readonly Element[], to: Alignment): Moved {
  const [first, ...rest] = elements;
  if (!first) return new Map();
  return changed(rest, ({ w, h }) => {
    switch (to) {
      case 'left':
        return { x: first.x };
      case 'right':
        return { x: first.x + first.w - w };
      case 'centre':
        return { x: Math.round(first.x + (first.w - w) / 2) };
      case 'top':
        return { y: first.y };
      case 'bottom':
        return { y: first.y + first.h - h };
      case 'middle':
        return { y: Math.round(first.y + (first.h - h) / 2) };
    }
  });
}

/** Equal gaps between the outermost two, which stay. */
export function distributed(elements: readonly Element[], along: 'x' | 'y'): Moved {
  const size = along === 'x' ? 'w' : 'h';
  const sorted = [...elements].sort((a, b) => a[along] - b[along]);
  const [first, last] = [sorted[0], sorted.at(-1)];
  if (!first || !last || sorted.length < 3) return new Map();
  const free = last[along] + last[size] - first[along] - sorted.reduce((sum, element) => sum + element[size], 0);
  const places = new Map<string, number>();
  let at = first[along];
  for (const element of sorted) {
    places.set(element.id, Math.round(at));
    at += element[size] + free / (sorted.length - 1);
  }
  return changed(elements, ({ id }) => ({ [along]: places.get(id) ?? 0 }));
}

/** As wide and as high as the first that was chosen. */
export function sameSize(elements: readonly Element[]): Moved {
  const [first, ...rest] = elements;
  return first ? changed(rest, () => ({ w: first.w, h: first.h })) : new Map();
}

/** By so many pixels; what is locked stays. */
export function shifted(elements: readonly Element[], dx: number, dy: number): Moved {
  return changed(elements, ({ x, y }) => ({ x: x + dx, y: y + dy }));
}

/** As what is around them has become larger or smaller; edges that met meet again. What is locked stays. */
export function stretched(elements: readonly Element[], from: Box, to: Box): Moved {
  const along = (at: number, old: number, length: number, now: number, nowLength: number): number =>
    Math.round(now + ((at - old) * nowLength) / Math.max(1, length));
  return changed(elements, ({ x, y, w, h }) => {
    const [left, right] = [along(x, from.x, from.w, to.x, to.w), along(x + w, from.x, from.w, to.x, to.w)];
    const [top, bottom] = [along(y, from.y, from.h, to.y, to.h), along(y + h, from.y, from.h, to.y, to.h)];
    return { x: left, y: top, w: Math.max(1, right - left), h: Math.max(1, bottom - top) };
  });
}

/** Above or below all others of the page, in the order that they have among themselves. */
export function reordered(all: readonly Element[], chosen: ReadonlySet<string>, to: 'front' | 'back'): Moved {
  const sorted = [...all].sort(byHeight);
  const [those, others] = [sorted.filter(({ id }) => chosen.has(id)), sorted.filter(({ id }) => !chosen.has(id))];
  const order = to === 'front' ? [...others, ...those] : [...those, ...others];
  return changed(order, (element) => ({ z: order.indexOf(element) }));
}

function changed(elements: readonly Element[], next: (element: Element) => Partial<Element>): Moved {
  const moved = new Map<string, Partial<Element>>();
  for (const element of elements) {
    const fields = next(element);
    const differs = (Object.keys(fields) as (keyof Element)[]).some((key) => fields[key] !== element[key]);
    if (differs && (!element.isLocked || 'z' in fields)) moved.set(element.id, fields);
  }
  return moved;
}

/** A free place for something new, as far up and left as there is room; below everything where there is none. */
export function freePlace(
  taken: readonly Box[],
  { w, h }: Pick<Box, 'w' | 'h'>,
  page: { readonly width: number; readonly height: number },
  pitch: number,
): Pick<Box, 'x' | 'y'> {
  const step = Math.max(pitch, 8);
  const gap = step;
  for (let y = gap; y + h <= page.height; y += step)
    for (let x = gap; x + w <= page.width; x += step)
      if (!taken.some((box) => x < box.x + box.w + gap && box.x < x + w + gap && y < box.y + box.h + gap && box.y < y + h + gap)) return { x, y };
  const below = around(taken);
  return { x: gap, y: below ? Math.min(below.y + below.h + gap, Math.max(gap, page.height - h)) : gap };
}

/** Chosen elements with all that are grouped with them. */
export function withGroups(all: readonly Element[], chosen: Iterable<string>): readonly string[] {
  const ids = new Set(chosen);
  const groups = new Set(all.filter(({ id, group }) => ids.has(id) && group !== '').map(({ group }) => group));
  const together = all.filter(({ id, group }) => !ids.has(id) && groups.has(group)).map(({ id }) => id);
  return [...ids, ...together];
}
