'use client';
/** The edge of a column's header: drawn with the pointer it makes the column wider or narrower; pressed twice, as it was. */
import type { PointerEvent } from 'react';
import { NARROWEST } from './mapView.ts';

export function WidthHandle({ title, onWidth }: { readonly title: string; readonly onWidth: (width: number | null) => void }) {
  const begin = (event: PointerEvent<HTMLSpanElement>): void => {
    const handle = event.currentTarget;
    const header = handle.parentElement;
    if (!header) return;
    event.preventDefault();
    handle.setPointerCapture(event.pointerId);
    const [from, width] = [event.clientX, header.getBoundingClientRect().width];
    const move = (moved: globalThis.PointerEvent): void => onWidth(Math.max(NARROWEST, Math.round(width + moved.clientX - from)));
    const end = (): void => {
      handle.removeEventListener('pointermove', move);
      handle.removeEventListener('pointerup', end);
      handle.removeEventListener('pointercancel', end);
    };
    handle.addEventListener('pointermove', move);
    handle.addEventListener('pointerup', end);
    handle.addEventListener('pointercancel', end);
  };
  return (
    <span
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of ${title}`}
      title="Draw to change the width; press twice for the usual one"
      className="hover:bg-primary absolute top-1 right-1 bottom-1 w-1 cursor-col-resize rounded"
      onPointerDown={begin}
      onDoubleClick={() => onWidth(null)}
    />
  );
}
