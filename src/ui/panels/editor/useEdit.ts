'use client';
/** What is done to the elements of a page: each is one change that can be undone. */
import { useMemo } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { aligned, ALIGNMENTS, distributed, freePlace, reordered, sameSize, shifted, type Alignment, type Moved } from '@/core/panel/arrange.ts';
import { clipFrom, clipText, copiesOf, pasteShift } from '@/core/panel/clip.ts';
import { ELEMENTS, type ElementKind, type ElementSettings } from '@/core/panel/kinds.ts';
import { newAction } from '@/core/panel/actions.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import { counted } from '@/core/counted.ts';
import { ON_PHONE } from '@/core/project/kinds/element.ts';
import type { Change } from '@/core/project/command.ts';
import type { Element, Page, Panel, Tag } from '@/core/project/entities.ts';
import { useChange, useStep } from '../../live/LiveContext.tsx';
import type { Chosen } from './useChosen.ts';

export interface Edit {
  readonly add: (kind: ElementKind, tag: Tag | null, at?: { readonly x: number; readonly y: number }) => Promise<void>;
  readonly move: (label: string, moved: Moved) => void;
  readonly set: (label: string, fields: Partial<Element>, of?: readonly Element[]) => void;
  readonly setting: (label: string, settings: ElementSettings, of?: readonly Element[]) => void;
  readonly align: (to: Alignment) => void;
  readonly distribute: (along: 'x' | 'y') => void;
  readonly sameSize: () => void;
  readonly order: (to: 'front' | 'back') => void;
  readonly nudge: (dx: number, dy: number) => void;
  readonly group: () => void;
  readonly ungroup: () => void;
  readonly lock: () => void;
  readonly remove: () => Promise<void>;
  readonly duplicate: () => Promise<void>;
  readonly copied: () => string | null;
  readonly paste: (text: string) => Promise<void>;
  readonly put: (label: string, elements: readonly Element[]) => Promise<boolean>;
}

export function nameOf(element: Element, tagName: (id: string) => string | undefined): string {
  return element.label || (element.tagId === null ? undefined : tagName(element.tagId)) || ELEMENTS[element.kind].name;
}

export function useEdit(panel: Panel, page: Page, elements: readonly Element[], chosen: Chosen): Edit {
  const change = useChange();
  const step = useStep();
  return useMemo(() => {
    const room = { width: panel.width, height: pageHeight(panel) };
    const top = elements.reduce((most, { z }) => Math.max(most, z), 0);
    const what = chosen.elements.length === 1 ? (chosen.elements[0]?.label ?? '') || 'element' : counted(chosen.elements.length, 'element');
    const changed = (of: readonly Element[], fields: (element: Element) => Readonly<Record<string, unknown>>): readonly Change[] =>
      of.map((element) => ({ kind: 'element', id: element.id, set: fields(element) }));
    const send = async (label: string, changes: readonly Change[]): Promise<boolean> => changes.length === 0 || (await change(label, changes)).ok;
    const put = async (label: string, news: readonly Element[]): Promise<boolean> => {
      const done = await send(
        label,
        news.map(({ id, ...set }) => ({ kind: 'element', id, set })),
      );
      if (done) chosen.choose(news.map(({ id }) => id));
      return done;
    };
    const move = (label: string, moved: Moved): void =>
      void send(
        label,
        [...moved].map(([id, set]) => ({ kind: 'element', id, set })),
      );
    return {
      put,
      move,
      async add(kind, tag, at) {
        const { w, h, takes } = ELEMENTS[kind];
        const size = { w: Math.min(w, room.width), h: Math.min(h, room.height) };
        const place = at ? { x: Math.round(at.x), y: Math.round(at.y) } : freePlace(elements, size, room, page.snap === 'grid' ? page.pitch : 8);
        await put(`${ELEMENTS[kind].name} put on ${page.name}`, [
          {
            id: uuid(),
            pageId: page.id,
            kind,
            tagId: takes === 'none' ? null : (tag?.id ?? null),
            label: '',
            ...place,
            ...size,
            z: kind === 'frame' || kind === 'shape' ? 0 : top + 1,
            group: '',
            isLocked: false,
            phone: ON_PHONE,
            settings: firstSettings(kind, tag),
          },
        ]);
      },
      set: (label, fields, of = chosen.elements) =>
        void send(
          label,
          changed(of, () => fields),
        ),
      setting: (label, settings, of = chosen.elements) =>
        void send(
          label,
          changed(of, (element) => ({ settings: withSaid(element.settings, settings) })),
        ),
      align: (to) => move(`aligned by ${ALIGNMENTS[to]}`, aligned(chosen.elements, to)),
      distribute: (along) => move('equal gaps', distributed(chosen.elements, along)),
      sameSize: () => move('made one size', sameSize(chosen.elements)),
      order: (to) => move(to === 'front' ? `${what} brought to the front` : `${what} sent to the back`, reordered(elements, new Set(chosen.ids), to)),
      nudge: (dx, dy) => move(`${what} moved on ${page.name}`, shifted(chosen.elements, dx, dy)),
      group: () => {
        const group = uuid();
        if (chosen.elements.length > 1)
          void send(
            `${what} grouped`,
            changed(chosen.elements, () => ({ group })),
          );
      },
      ungroup: () =>
        void send(
          `${what} ungrouped`,
          changed(
            chosen.elements.filter(({ group }) => group !== ''),
            () => ({ group: '' }),
          ),
        ),
      lock: () => {
        const isLocked = chosen.elements.some((element) => !element.isLocked);
        void send(
          isLocked ? `${what} locked` : `${what} unlocked`,
          changed(chosen.elements, () => ({ isLocked })),
        );
      },
      async remove() {
        const gone = chosen.elements.filter(({ isLocked }) => !isLocked);
        if (gone.length === 0) return void (chosen.elements.length > 0 && toast('It is locked. Unlock it first (Ctrl L).'));
        if (
          await send(
            `${what} removed from ${page.name}`,
            gone.map(({ id }) => ({ kind: 'element', id, set: null })),
          )
        )
          toast(`${gone.length === 1 ? 'Element' : counted(gone.length, 'element')} removed`, {
            action: { label: 'Undo', onClick: () => void step('undo') },
          });
      },
      async duplicate() {
        const pitch = Math.max(8, page.pitch);
        await put(`${what} duplicated`, copiesOf(chosen.elements, { pageId: page.id, top, by: { x: pitch, y: pitch } }, uuid));
      },
      copied: () => (chosen.elements.length === 0 ? null : clipText(chosen.elements)),
      async paste(text) {
        const clip = clipFrom(text);
        if (clip === null) return;
        if (!clip.ok) return void toast.error(clip.problem.message, { description: clip.problem.remedy });
        const by = pasteShift(clip.value, elements, room, page.pitch);
        await put(`${counted(clip.value.length, 'element')} pasted on ${page.name}`, copiesOf(clip.value, { pageId: page.id, top, by }, uuid));
      },
    };
  }, [panel, page, elements, chosen, change, step]);
}

/** What is said is kept; what is no longer said is as its kind has it. */
function withSaid(before: ElementSettings, next: ElementSettings): ElementSettings {
  return Object.fromEntries(Object.entries({ ...before, ...next }).filter(([, value]) => value !== undefined));
}

/** A button does something from the first. */
function firstSettings(kind: ElementKind, tag: Tag | null): ElementSettings {
  if (kind !== 'button') return {};
  return { actions: [newAction(tag === null || tag.type === 'BOOL' ? 'toggle' : 'write')] };
}
