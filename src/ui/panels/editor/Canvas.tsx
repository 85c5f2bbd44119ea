'use client';
/** The page while it is arranged: elements are chosen, moved and sized by pointer or by keys. */
import { useCallback, useEffect, useLayoutEffect, useRef, useState, type ClipboardEvent, type DragEvent, type PointerEvent } from 'react';
import Selecto from 'react-selecto';
import { tinykeys } from 'tinykeys';
import { BAR_PX, pageHeight } from '@/core/panel/sizes.ts';
import { forSubject } from '@/core/panel/subjects.ts';
import type { Element, Page, Panel, Tag } from '@/core/project/entities.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { PanelElement } from '../PanelElement.tsx';
import { useStage } from '../SceneContext.tsx';
import { useSubject } from '../Subjects.tsx';
import { Handles, type HandlesOf } from './Handles.tsx';
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
export function Canvas({ panel, page, elements, chosen, edit, zoom, onTagDropped }: CanvasProps) {
  const project = useProject();
  const { scene } = useStage();
  const subject = useSubject(page.id);
  // Drawn in the language that is looked at; what is arranged is as it was written.
  const worded = scene.elementsOn(page.id);
  const frame = useRef<HTMLDivElement>(null);
  const [sheet, setSheet] = useState<HTMLDivElement | null>(null);
  const handles = useRef<HandlesOf>(null);
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
          {elements.map((element, at) => (
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
              onMouseDown={(e) => handles.current?.carryTogether(e.nativeEvent, element.id)}
              onTouchStart={(e) => handles.current?.carryTogether(e.nativeEvent, element.id)}
            >
              <PanelElement
                key={subject.choice?.number}
                element={subject.choice ? forSubject(worded[at] ?? element, subject.choice).element : (worded[at] ?? element)}
              />
              {element.isLocked && chosen.has(element.id) ? (
                <span className="bg-base-100 absolute -top-2 left-0 rounded px-1 text-[11px]">locked</span>
              ) : null}
            </div>
          ))}
          <Handles ref={handles} panel={panel} page={page} elements={elements} chosen={chosen} edit={edit} scale={scale} sheet={sheet} />
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
            if (handles.current?.isPartOf(target) || target.closest('[data-box]')) e.stop();
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
