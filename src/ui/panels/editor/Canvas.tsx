'use client';
/** The page while it is arranged: elements are chosen, moved and sized by pointer or by keys. */
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type ClipboardEvent, type DragEvent, type PointerEvent } from 'react';
import Moveable, { type OnDragEnd, type OnDragGroupEnd, type OnResizeEnd, type OnResizeGroupEnd } from 'react-moveable';
import Selecto from 'react-selecto';
import { tinykeys } from 'tinykeys';
import { BAR_PX, pageHeight } from '@/core/panel/sizes.ts';
import type { Element, Page, Panel, Tag } from '@/core/project/entities.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { PanelElement } from '../PanelElement.tsx';
import type { Chosen } from './useChosen.ts';
import { nameOf, type Edit } from './useEdit.ts';

interface CanvasProps {
  readonly panel: Panel;
  readonly page: Page;
  readonly elements: readonly Element[];
  readonly chosen: Chosen;
  readonly edit: Edit;
  /** Null for as large as there is room. */
  readonly zoom: number | null;
  readonly onTagDropped: (tag: Tag, at: { readonly x: number; readonly y: number }, on: Element | null) => void;
}

export const TAG_MIME = 'application/x-mill-latch-tag';
/** Beyond this many the edges of the others are not looked at while something is moved: the eye sees no more anyway. */
const MOST_GUIDES = 120;
/** Beyond this many the others are outlines while something is carried: it follows the pointer then. */
const MOST_DRAWN = 300;

export function Canvas({ panel, page, elements, chosen, edit, zoom, onTagDropped }: CanvasProps) {
  const project = useProject();
  const frame = useRef<HTMLDivElement>(null);
  const [sheet, setSheet] = useState<HTMLDivElement | null>(null);
  const moveable = useRef<Moveable>(null);
  const [fitted, setFitted] = useState(0.5);
  const scale = zoom ?? fitted;
  const height = pageHeight(panel);
  useLayoutEffect(() => {
    const outer = frame.current;
    if (!outer) return;
    const measure = (): void => setFitted(Math.max(0.1, Math.min((outer.clientWidth - 16) / panel.width, (outer.clientHeight - 16) / height)));
    // With the window alone: a page that changed its size when something is chosen would slip away under the pointer.
    window.addEventListener('resize', measure);
    measure();
    return () => window.removeEventListener('resize', measure);
  }, [panel.width, height]);

  const [targets, setTargets] = useState<readonly HTMLElement[]>([]);
  useLayoutEffect(() => {
    // What is chosen is found where it was drawn.
    const found = chosen.elements.filter(({ isLocked }) => !isLocked).flatMap(({ id }) => boxOf(sheet, id) ?? []);
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the handles need the boxes that were drawn just now
    setTargets(found);
  }, [chosen, elements, sheet]);
  useEffect(() => moveable.current?.updateRect(), [scale, elements, targets]);

  const guides = useMemo(
    () =>
      page.snap === 'edges' && elements.length <= MOST_GUIDES
        ? elements.filter(({ id }) => !chosen.has(id)).map(({ id }) => `[data-box="${id}"]`)
        : [],
    [page.snap, elements, chosen],
  );
  const keepPlaces = useCallback(
    (boxes: readonly (HTMLElement | SVGElement)[]): void => {
      const moved = new Map<string, Partial<Element>>();
      for (const box of boxes) {
        const element = elements.find(({ id }) => id === box.dataset.box);
        if (!element) continue;
        const at = {
          x: pixels(box.style.left),
          y: pixels(box.style.top),
          w: Math.max(1, pixels(box.style.width)),
          h: Math.max(1, pixels(box.style.height)),
        };
        const fields = Object.fromEntries(Object.entries(at).filter(([key, value]) => element[key as 'x'] !== value));
        if (Object.keys(fields).length > 0) moved.set(element.id, fields);
      }
      if (moved.size > 0) edit.move(moved.size === 1 ? `element placed on ${page.name}` : `${moved.size} elements placed on ${page.name}`, moved);
    },
    [elements, edit, page.name],
  );

  const lift = ({ target }: { readonly target: globalThis.Element }): void =>
    void target.closest('[role=application]')?.setAttribute('data-carrying', elements.length > MOST_DRAWN ? 'outlined' : 'drawn');

  const onKeys = useCanvasKeys({ sheet, elements, chosen, edit, pitch: page.pitch });
  const clipboard = {
    onCopy: (e: ClipboardEvent) => {
      const text = edit.copied();
      if (text === null) return;
      e.clipboardData.setData('text/plain', text);
      e.preventDefault();
    },
    onCut: (e: ClipboardEvent) => {
      const text = edit.copied();
      if (text === null) return;
      e.clipboardData.setData('text/plain', text);
      e.preventDefault();
      void edit.remove();
    },
    onPaste: (e: ClipboardEvent) => {
      e.preventDefault();
      void edit.paste(e.clipboardData.getData('text/plain'));
    },
  };
  const place = (e: { readonly clientX: number; readonly clientY: number }): { readonly x: number; readonly y: number } => {
    const box = sheet?.getBoundingClientRect();
    return { x: (e.clientX - (box?.left ?? 0)) / scale, y: (e.clientY - (box?.top ?? 0)) / scale };
  };
  const drop = (e: DragEvent): void => {
    const tag = project.tag(e.dataTransfer.getData(TAG_MIME));
    if (!tag) return;
    e.preventDefault();
    const on = (e.target as HTMLElement).closest<HTMLElement>('[data-box]')?.dataset.box;
    onTagDropped(tag, place(e), elements.find(({ id }) => id === on) ?? null);
  };
  const press = (e: PointerEvent, element: Element): void => {
    if (e.shiftKey || e.ctrlKey || e.metaKey) chosen.toggle(element.id);
    else if (!chosen.has(element.id)) chosen.choose([element.id]);
  };
  const dots = page.snap === 'grid' && page.pitch * scale >= 5;
  return (
    <div ref={frame} className="card-flat relative h-full min-h-0 overflow-auto p-2" data-canvas>
      <div style={{ width: panel.width * scale, height: height * scale }}>
        <div
          ref={setSheet}
          role="application"
          aria-label={`Page ${page.name}, ${panel.width} × ${height}`}
          tabIndex={0}
          className="bg-base-200 relative origin-top-left outline-none"
          style={{
            width: panel.width,
            height,
            transform: `scale(${scale})`,
            boxShadow: '0 0 0 1px var(--color-base-300)',
            ...(dots
              ? {
                  backgroundImage: 'radial-gradient(circle at 0 0, var(--color-base-300) 1.2px, transparent 1.3px)',
                  backgroundSize: `${page.pitch}px ${page.pitch}px`,
                }
              : {}),
          }}
          onKeyDown={onKeys}
          onDragOver={(e) => e.dataTransfer.types.includes(TAG_MIME) && e.preventDefault()}
          onDrop={drop}
          {...clipboard}
        >
          {elements.map((element) => (
            <div
              key={element.id}
              data-box={element.id}
              role="group"
              tabIndex={0}
              aria-label={`${nameOf(element, (id) => project.tag(id)?.name)}, ${element.x}, ${element.y}`}
              aria-current={chosen.has(element.id) || undefined}
              className={`element-box absolute outline-offset-1 ${chosen.has(element.id) ? 'outline-primary outline-2' : ''} ${element.isLocked ? 'cursor-default' : 'cursor-move'}`}
              style={{ left: element.x, top: element.y, width: element.w, height: element.h }}
              onPointerDown={(e) => press(e, element)}
            >
              <PanelElement element={element} />
              {element.isLocked && chosen.has(element.id) ? (
                <span className="bg-base-100 absolute -top-2 left-0 rounded px-1 text-[11px]">locked</span>
              ) : null}
            </div>
          ))}
          <Moveable
            ref={moveable}
            target={[...targets]}
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
              ? { verticalGuidelines: [0, panel.width / 2, panel.width], horizontalGuidelines: [0, height / 2, height] }
              : {})}
            onDragStart={lift}
            onDragGroupStart={({ targets: [target] }) => target && lift({ target })}
            onDrag={({ target, left, top }) => carry(target, snapped(left, page), snapped(top, page))}
            onDragGroup={({ events }) => {
              for (const { target, left, top } of events) carry(target, Math.round(left), Math.round(top));
            }}
            onResize={({ target, width, height: tall, drag }) => {
              target.style.left = `${snapped(drag.left, page)}px`;
              target.style.top = `${snapped(drag.top, page)}px`;
              target.style.width = `${Math.max(1, snapped(width, page))}px`;
              target.style.height = `${Math.max(1, snapped(tall, page))}px`;
            }}
            onResizeGroup={({ events }) => {
              for (const { target, width, height: tall, drag } of events) {
                target.style.left = `${Math.round(drag.left)}px`;
                target.style.top = `${Math.round(drag.top)}px`;
                target.style.width = `${Math.max(1, Math.round(width))}px`;
                target.style.height = `${Math.max(1, Math.round(tall))}px`;
              }
            }}
            onDragEnd={({ target, isDrag }: OnDragEnd) => {
              setDown(target);
              if (isDrag) keepPlaces([putDown(target)]);
            }}
            onDragGroupEnd={({ targets: boxes, isDrag }: OnDragGroupEnd) => {
              if (boxes[0]) setDown(boxes[0]);
              if (isDrag) keepPlaces(boxes.map(putDown));
            }}
            onResizeEnd={({ target, isDrag }: OnResizeEnd) => isDrag && keepPlaces([target])}
            onResizeGroupEnd={({ targets: boxes, isDrag }: OnResizeGroupEnd) => isDrag && keepPlaces(boxes)}
          />
        </div>
        <Selecto
          container={sheet}
          dragContainer={sheet ?? undefined}
          selectableTargets={['[data-box]']}
          hitRate={0}
          selectByClick={false}
          selectFromInside={false}
          toggleContinueSelect={['shift']}
          onDragStart={(e) => {
            const target = (e.inputEvent as MouseEvent).target as HTMLElement;
            if (moveable.current?.isMoveableElement(target) || target.closest('[data-box]')) e.stop();
          }}
          onSelectEnd={(e) => {
            const ids = e.selected.flatMap((box) => (box as HTMLElement).dataset.box ?? []);
            const isMore = (e.inputEvent as MouseEvent | undefined)?.shiftKey === true;
            chosen.choose(isMore ? [...chosen.ids, ...ids.filter((id) => !chosen.has(id))] : ids);
          }}
        />
      </div>
      {elements.length === 0 ? (
        <p className="quiet pointer-events-none absolute inset-x-0 top-1/3 text-center">
          An empty page: choose beside it what to put on it, or drop a tag here.
        </p>
      ) : null}
      <span className="sr-only">{BAR_PX} pixels above it are the bar.</span>
    </div>
  );
}

function boxOf(sheet: HTMLElement | null, id: string): HTMLElement | null {
  return sheet?.querySelector<HTMLElement>(`[data-box="${CSS.escape(id)}"]`) ?? null;
}

/** While it is moved it is a layer of its own: nothing is laid out or drawn anew for it, however much stands on the page. */
function carry({ style }: HTMLElement | SVGElement, left: number, top: number): void {
  style.willChange = 'transform';
  style.zIndex = '1';
  style.transform = `translate(${left - pixels(style.left)}px, ${top - pixels(style.top)}px)`;
}

const setDown = (target: globalThis.Element): void => target.closest('[role=application]')?.removeAttribute('data-carrying');

/** It stands where it was carried. */
function putDown<B extends HTMLElement | SVGElement>(box: B): B {
  const { style } = box;
  const [dx = 0, dy = 0] = (/translate\((.*?)px(?:, (.*?)px)?\)/.exec(style.transform) ?? []).slice(1).map(pixels);
  style.left = `${pixels(style.left) + dx}px`;
  style.top = `${pixels(style.top) + dy}px`;
  style.transform = '';
  style.willChange = '';
  style.zIndex = '';
  return box;
}

const pixels = (text: string): number => Math.round(Number.parseFloat(text) || 0);

function snapped(value: number, { snap, pitch }: Page): number {
  return snap === 'grid' ? Math.round(value / pitch) * pitch : Math.round(value);
}

interface CanvasKeys {
  readonly sheet: HTMLDivElement | null;
  readonly elements: readonly Element[];
  readonly chosen: Chosen;
  readonly edit: Edit;
  readonly pitch: number;
}

/** Keys alone are enough for all of it. */
function useCanvasKeys({ sheet, elements, chosen, edit, pitch }: CanvasKeys): (e: React.KeyboardEvent) => void {
  const now = useRef({ elements, chosen, edit, pitch });
  useEffect(() => {
    now.current = { elements, chosen, edit, pitch };
  });
  useEffect(() => {
    const host = sheet;
    if (!host) return;
    const by = (dx: number, dy: number, isFine: boolean) => (e: KeyboardEvent) => {
      if (now.current.chosen.ids.length === 0) return;
      e.preventDefault();
      const step = isFine ? 1 : now.current.pitch;
      now.current.edit.nudge(dx * step, dy * step);
    };
    const sized = (dw: number, dh: number) => (e: KeyboardEvent) => {
      e.preventDefault();
      const step = now.current.pitch;
      now.current.edit.resize(dw * step, dh * step);
    };
    const doing = (run: () => unknown) => (e: KeyboardEvent) => {
      e.preventDefault();
      run();
    };
    const bindings = {
      ArrowLeft: by(-1, 0, false),
      ArrowRight: by(1, 0, false),
      ArrowUp: by(0, -1, false),
      ArrowDown: by(0, 1, false),
      'Shift+ArrowLeft': by(-1, 0, true),
      'Shift+ArrowRight': by(1, 0, true),
      'Shift+ArrowUp': by(0, -1, true),
      'Shift+ArrowDown': by(0, 1, true),
      'Alt+Shift+ArrowLeft': sized(-1, 0),
      'Alt+Shift+ArrowRight': sized(1, 0),
      'Alt+Shift+ArrowUp': sized(0, -1),
      'Alt+Shift+ArrowDown': sized(0, 1),
      '$mod+a': doing(() => now.current.chosen.choose(now.current.elements.map(({ id }) => id))),
      '$mod+d': doing(() => now.current.edit.duplicate()),
      '$mod+g': doing(() => now.current.edit.group()),
      '$mod+Shift+G': doing(() => now.current.edit.ungroup()),
      '$mod+l': doing(() => now.current.edit.lock()),
      '$mod+ArrowUp': doing(() => now.current.edit.order('front')),
      '$mod+ArrowDown': doing(() => now.current.edit.order('back')),
      Delete: doing(() => now.current.edit.remove()),
      Escape: doing(() => now.current.chosen.choose([])),
    };
    // A key that is held goes on; fields keep their keys.
    return tinykeys(host, bindings, { ignore: (e) => e.target instanceof HTMLElement && e.target.matches('input, select, textarea') });
  }, [sheet]);
  return useCallback((e) => {
    if (!(e.target instanceof HTMLElement) || !e.target.dataset.box) return;
    // Tab walks through them; Enter chooses one, Space one more or one less.
    if (e.key === ' ') now.current.chosen.toggle(e.target.dataset.box);
    else if (e.key === 'Enter') now.current.chosen.choose([e.target.dataset.box]);
    else return;
    e.preventDefault();
  }, []);
}
