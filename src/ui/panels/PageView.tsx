'use client';
/** A page as the glass shows it: each element at its place; on a phone one under another, in an order of its own. */
import { useState } from 'react';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { readingOrder } from '@/core/panel/scene.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import type { Element } from '@/core/project/entities.ts';
import { PanelElement } from './PanelElement.tsx';
import type { Scene } from '@/core/panel/scene.ts';
import { forSubject, SUBJECT_PLACE } from '@/core/panel/subjects.ts';
import { useStage } from './SceneContext.tsx';
import { PageSubjectProvider, useSubject, type PageSubject } from './Subjects.tsx';
import { useMeasured } from './useMeasured.ts';

export function PageView({ pageId }: { readonly pageId: string }) {
  const { scene, isPhone } = useStage();
  const subject = useSubject(pageId);
  const all = scene.elementsOn(pageId);
  if (!scene.isHere(pageId)) return <p className="quiet p-6">Opening the page …</p>;
  if (all.length === 0) return <p className="quiet p-6">Nothing on this page yet.</p>;
  // Of another subject it is another element: what was being entered, what a trend has drawn, what an expression remembers is of the one before. Only
  // what chooses stays, with its focus.
  const ofSubject = ({ id, kind }: Element): string => (kind === 'subject' ? id : `${id} ${subject.choice?.number ?? ''}`);
  const elements = shownFor(all, subject, scene.pages.find(({ id }) => id === pageId)?.absent === 'say', scene.say);
  return (
    <PageSubjectProvider value={subject}>
      {subject.why === '' ? null : (
        <p className="is-bad p-3 text-[16px] font-semibold" role="alert">
          ✕ {subject.why}
        </p>
      )}
      {isPhone ? (
        <PhonePage elements={elements} ofSubject={ofSubject} />
      ) : (
        <div className="relative overflow-hidden" style={{ width: scene.panel.width, height: pageHeight(scene.panel) }}>
          {elements.map((element) => (
            <PanelElement key={ofSubject(element)} element={element} isPlaced />
          ))}
        </div>
      )}
    </PageSubjectProvider>
  );
}

/**
 * The elements as they are for the subject. Of one that is not known only what chooses another is left: all else would be a value of
 * something that nobody asked for.
 */
export function shownFor(elements: readonly Element[], { list, choice }: PageSubject, saysAbsent: boolean, say: Scene['say']): readonly Element[] {
  if (!list) return elements;
  if (!choice) return elements.filter(({ kind }) => kind === 'subject');
  return elements.flatMap((one) => {
    const { element, isMissing } = forSubject(one, choice);
    if (!isMissing) return element;
    return saysAbsent ? absent(one, say('{subject} has none').replaceAll(SUBJECT_PLACE, choice.text)) : [];
  });
}

/** What stands in the place of something that the subject does not have. */
function absent({ id, pageId, x, y, w, h, z, group, isLocked, phone }: Element, text: string): Element {
  const settings = { template: text.replaceAll('{', '{{').replaceAll('}', '}}'), tone: 'quiet' };
  return { id, pageId, x, y, w, h, z, group, isLocked, phone, kind: 'text', tagId: null, label: '', settings };
}

const GAP_PX = 8;
const widthIn = (grid: HTMLElement): number => grid.offsetWidth;

function PhonePage({ elements, ofSubject }: { readonly elements: readonly Element[]; readonly ofSubject: (element: Element) => string }) {
  const [grid, setGrid] = useState<HTMLDivElement | null>(null);
  const width = useMeasured(grid, widthIn) ?? 0;
  return (
    <div ref={setGrid} className="m-2 grid grid-cols-2" style={{ gap: GAP_PX }}>
      {width === 0
        ? null
        : onPhone(elements).map((element) => {
            const isWide = widthOf(element) === 'full';
            const h = heightOf(element);
            return (
              <div key={ofSubject(element)} className={isWide ? 'col-span-2' : ''} style={{ height: h }}>
                <PanelElement element={element} w={isWide ? width : (width - GAP_PX) / 2} h={h} />
              </div>
            );
          })}
    </div>
  );
}

/** In pixels of a phone: a finger meets it, and it leaves room for others. */
function heightOf({ kind, h }: Element): number {
  return kind === 'frame' ? 32 : Math.max(kind === 'text' ? 24 : 60, Math.min(h, 320));
}

/** Those that stand on a phone, in their order there. */
export function onPhone(elements: readonly Element[]): readonly Element[] {
  const shown = readingOrder(elements).filter((element) => widthOf(element) !== 'hidden');
  const given = shown.map((element, i) => ({ element, place: element.phone.place ?? i, isGiven: element.phone.place !== null }));
  return given.sort((a, b) => a.place - b.place || Number(b.isGiven) - Number(a.isGiven)).map(({ element }) => element);
}

export function widthOf({ phone, kind, label }: Element): 'half' | 'full' | 'hidden' {
  // A frame is a heading there: without a title it is none.
  if (kind === 'frame' && label === '') return 'hidden';
  return phone.width === 'auto' ? ELEMENTS[kind].phone : phone.width;
}
