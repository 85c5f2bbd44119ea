'use client';
/**
 * What chosen elements are moved and sized by: handles around the one, or around the frame that encloses several. Each of a thousand
 * with handles of its own would hold the page up for seconds.
 */
import { useEffect, useImperativeHandle, useLayoutEffect, useMemo, useRef, useState, type Ref } from 'react';
import Moveable, { type OnDrag, type OnDragEnd, type OnResize, type OnResizeEnd } from 'react-moveable';
import { counted } from '@/core/counted.ts';
import { around, shifted, stretched, type Box, type Moved } from '@/core/panel/arrange.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import type { Element, Page, Panel } from '@/core/project/entities.ts';
import type { Chosen } from './useChosen.ts';
import type { Edit } from './useEdit.ts';

export interface HandlesOf {
  /** Whether it is the handles that are pressed. */
  readonly isPartOf: (target: HTMLElement) => boolean;
  /** Several are carried by any one of them. */
  readonly carryTogether: (e: MouseEvent | TouchEvent, elementId: string) => void;
}

interface HandlesProps {
  readonly ref: Ref<HandlesOf>;
  readonly panel: Panel;
  readonly page: Page;
  readonly elements: readonly Element[];
  readonly chosen: Chosen;
  readonly edit: Edit;
  readonly scale: number;
  /** The page, with a box for each element. */
  readonly sheet: HTMLElement | null;
}

/** Beyond this many the edges of the others are not looked at while something is moved: the eye sees no more anyway. */
const MOST_GUIDES = 120;
/** Beyond this many the others are outlines while something is carried: it follows the pointer then. */
const MOST_DRAWN = 300;
/** Beyond this many that are chosen the frame alone is carried, and they follow when it is put down. */
const MOST_CARRIED = 60;

export function Handles({ ref, panel, page, elements, chosen, edit, scale, sheet }: HandlesProps) {
  const moveable = useRef<Moveable>(null);
  const frame = useRef<HTMLDivElement>(null);
  const free = useMemo(() => chosen.elements.filter(({ isLocked }) => !isLocked), [chosen]);
  const enclosing = useMemo(() => (free.length > 1 ? around(free) : null), [free]);
  const [target, setTarget] = useState<HTMLElement | null>(null);
  useLayoutEffect(() => {
    const [first] = free;

    setTarget(enclosing ? frame.current : first ? boxOf(sheet, first.id) : null);
  }, [free, enclosing, sheet]);
  useEffect(() => moveable.current?.updateRect(), [scale, elements, target, enclosing]);

  useImperativeHandle(ref, () => ({
    isPartOf: (pressed) => moveable.current?.isMoveableElement(pressed) === true,
    carryTogether: (e, elementId) => {
      if (enclosing && free.some(({ id }) => id === elementId)) moveable.current?.dragStart(e);
    },
  }));

  const guides = useMemo(
    () =>
      page.snap === 'edges' && elements.length <= MOST_GUIDES
        ? elements.filter(({ id }) => !chosen.has(id)).map(({ id }) => `[data-box="${id}"]`)
        : [],
    [page.snap, elements, chosen],
  );
  /** Those that are seen to move with the frame. */
  const carried = (): readonly HTMLElement[] => (enclosing && free.length <= MOST_CARRIED ? free.flatMap(({ id }) => boxOf(sheet, id) ?? []) : []);
  const keep = (moved: Moved): void => {
    const what = moved.size === 1 ? 'element' : counted(moved.size, 'element');
    if (moved.size > 0) edit.move(`${what} placed on ${page.name}`, moved);
  };
  const drag = ({ target: box, left, top }: OnDrag): void => {
    const { style } = box;
    const [dx, dy] = [snapped(left, page) - pixels(style.left), snapped(top, page) - pixels(style.top)];
    for (const each of [box, ...carried()]) carry(each, dx, dy);
  };
  const dragEnd = ({ target: box, isDrag }: OnDragEnd): void => {
    box.closest('[role=application]')?.removeAttribute('data-carrying');
    const { dx, dy } = way(box);
    for (const each of [box, ...carried()]) putDown(each);
    if (isDrag) keep(shifted(free, dx, dy));
  };
  const resize = ({ target: box, width, height, drag: { left, top } }: OnResize): void => {
    const size = { x: snapped(left, page), y: snapped(top, page), w: Math.max(1, snapped(width, page)), h: Math.max(1, snapped(height, page)) };
    standAt(box, size);
    if (!enclosing) return;
    const moved = stretched(free, enclosing, size);
    for (const each of carried()) standAt(each, moved.get(each.dataset.box ?? '') ?? {});
  };
  const resizeEnd = ({ target: box, isDrag }: OnResizeEnd): void => {
    const { style } = box;
    const size = { x: pixels(style.left), y: pixels(style.top), w: pixels(style.width), h: pixels(style.height) };
    const [one] = free;
    const from = enclosing ?? one;
    if (isDrag && from) keep(stretched(free, from, size));
  };
  return (
    <>
      {enclosing ? (
        <div
          ref={frame}
          className="outline-primary pointer-events-none absolute outline-1 outline-dashed"
          style={{ left: enclosing.x, top: enclosing.y, width: enclosing.w, height: enclosing.h }}
          data-enclosing={free.length}
        />
      ) : null}
      <Moveable
        ref={moveable}
        target={target}
        draggable
        resizable
        origin={false}
        snappable={page.snap !== 'off'}
        snapThreshold={5}
        isDisplaySnapDigit
        elementGuidelines={guides}
        snapDirections={{ left: true, right: true, top: true, bottom: true, center: true, middle: true }}
        elementSnapDirections={{ left: true, right: true, top: true, bottom: true, center: true, middle: true }}
        {...(page.snap === 'edges'
          ? { verticalGuidelines: [0, panel.width / 2, panel.width], horizontalGuidelines: [0, pageHeight(panel) / 2, pageHeight(panel)] }
          : {})}
        onDragStart={({ target: box }) =>
          box.closest('[role=application]')?.setAttribute('data-carrying', elements.length > MOST_DRAWN ? 'outlined' : 'drawn')
        }
        onDrag={drag}
        onDragEnd={dragEnd}
        onResize={resize}
        onResizeEnd={resizeEnd}
      />
    </>
  );
}

type Carried = HTMLElement | SVGElement;

function boxOf(sheet: HTMLElement | null, id: string): HTMLElement | null {
  return sheet?.querySelector<HTMLElement>(`[data-box="${CSS.escape(id)}"]`) ?? null;
}

/** While it is moved it is a layer of its own: nothing is laid out or drawn anew for it, however much stands on the page. */
function carry({ style }: Carried, dx: number, dy: number): void {
  style.willChange = 'transform';
  style.zIndex = '1';
  style.transform = `translate(${dx}px, ${dy}px)`;
}

/** How far it has been carried. */
function way({ style }: Carried): { readonly dx: number; readonly dy: number } {
  const [dx = 0, dy = 0] = (/translate\((.*?)px(?:, (.*?)px)?\)/.exec(style.transform) ?? []).slice(1).map(pixels);
  return { dx, dy };
}

/** It stands where it was carried. */
function putDown(box: Carried): void {
  const { style } = box;
  const { dx, dy } = way(box);
  standAt(box, { x: pixels(style.left) + dx, y: pixels(style.top) + dy });
  style.transform = '';
  style.willChange = '';
  style.zIndex = '';
}

function standAt({ style }: Carried, { x, y, w, h }: Partial<Box>): void {
  if (x !== undefined) style.left = `${x}px`;
  if (y !== undefined) style.top = `${y}px`;
  if (w !== undefined) style.width = `${w}px`;
  if (h !== undefined) style.height = `${h}px`;
}

const pixels = (text: string): number => Math.round(Number.parseFloat(text) || 0);

function snapped(value: number, { snap, pitch }: Page): number {
  return snap === 'grid' ? Math.round(value / pitch) * pitch : Math.round(value);
}
