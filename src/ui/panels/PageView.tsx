'use client';
/** A page as the glass shows it: each element at its place; on a phone one under another, in an order of its own. */
import type { CSSProperties } from 'react';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { readingOrder } from '@/core/panel/scene.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import type { Element } from '@/core/project/entities.ts';
import { PanelElement } from './PanelElement.tsx';
import { useStage } from './SceneContext.tsx';

export function PageView({ pageId }: { readonly pageId: string }) {
  const { scene, isPhone } = useStage();
  const elements = scene.elementsOn(pageId);
  if (!scene.isHere(pageId)) return <p className="quiet p-6">Opening the page …</p>;
  if (elements.length === 0) return <p className="quiet p-6">Nothing on this page yet.</p>;
  if (isPhone) return <PhonePage elements={elements} />;
  return (
    <div className="relative overflow-hidden" style={{ width: scene.panel.width, height: pageHeight(scene.panel) }}>
      {elements.map((element) => (
        <div key={element.id} className="element-box absolute" style={placeOf(element)}>
          <PanelElement element={element} />
        </div>
      ))}
    </div>
  );
}

export function placeOf({ x, y, w, h, kind }: Element): CSSProperties {
  // A frame and a shape lie around others, which are pressed through them.
  const isBehind = kind === 'frame' || kind === 'shape' || kind === 'line' || kind === 'pipe';
  return { left: x, top: y, width: w, height: h, ...(isBehind ? { pointerEvents: 'none' } : {}) };
}

const LEAST_HEIGHT = 60;

function PhonePage({ elements }: { readonly elements: readonly Element[] }) {
  return (
    <div className="grid grid-cols-2 gap-2 p-2">
      {onPhone(elements).map((element) => (
        <div
          key={element.id}
          className={widthOf(element) === 'full' ? 'col-span-2' : ''}
          style={{ height: Math.max(element.kind === 'text' ? 24 : LEAST_HEIGHT, Math.min(element.h, 320)) }}
        >
          <PanelElement element={element} />
        </div>
      ))}
    </div>
  );
}

/** Those that stand on a phone, in their order there. */
export function onPhone(elements: readonly Element[]): readonly Element[] {
  const shown = readingOrder(elements).filter((element) => widthOf(element) !== 'hidden');
  const given = shown.map((element, i) => ({ element, place: element.phone.place ?? i, isGiven: element.phone.place !== null }));
  return given.sort((a, b) => a.place - b.place || Number(b.isGiven) - Number(a.isGiven)).map(({ element }) => element);
}

export function widthOf({ phone, kind }: Element): 'half' | 'full' | 'hidden' {
  return phone.width === 'auto' ? ELEMENTS[kind].phone : phone.width;
}
