'use client';
/**
 * What is done to the elements of a page: each is one change that can be undone. They are done in turn, each from what the one before has
 * left: a key that is held comes faster than the server answers.
 */
import { useMemo, useRef } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { aligned, ALIGNMENTS, distributed, freePlace, reordered, sameSize, shifted, type Alignment, type Moved } from '@/core/panel/arrange.ts';
import { clipFrom, clipText, copiesOf, pasteShift } from '@/core/panel/clip.ts';
import { ELEMENTS, type ElementKind, type ElementSettings } from '@/core/panel/kinds.ts';
import { byHeight } from '@/core/panel/scene.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import { counted } from '@/core/counted.ts';
import { ON_PHONE } from '@/core/project/kinds/element.ts';
import type { Change } from '@/core/project/command.ts';
import type { Element, Page, Panel, Tag } from '@/core/project/entities.ts';
import { useBench, useChange, useStep } from '../../live/LiveContext.tsx';
import { firstSettings } from './firstSettings.ts';
import type { Chosen } from './useChosen.ts';

export interface Edit {
  readonly add: (kind: ElementKind, tag: Tag | null, at?: { readonly x: number; readonly y: number }) => Promise<void>;
  readonly move: (label: string, moved: Moved) => void;
  readonly set: (label: string, fields: Partial<Element>, of?: readonly Element[]) => void;
  /** @param of as they were drawn when it was said: where one of these settings was changed meanwhile, it is refused */
  readonly setting: (label: string, settings: ElementSettings, of?: readonly Element[]) => void;
  readonly align: (to: Alignment) => void;
  readonly distribute: (along: 'x' | 'y') => void;
  readonly sameSize: () => void;
  readonly order: (to: 'front' | 'back') => void;
  readonly nudge: (dx: number, dy: number) => void;
  readonly resize: (dw: number, dh: number) => void;
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

/** The page as it is when its turn comes. */
interface Now {
  readonly elements: readonly Element[];
  readonly chosen: readonly Element[];
  readonly top: number;
  readonly of: (elements: readonly Element[]) => readonly Element[];
}

export function useEdit(panel: Panel, page: Page, chosen: Chosen): Edit {
  const change = useChange();
  const step = useStep();
  const client = useBench();
  const turn = useRef<Promise<unknown>>(Promise.resolve());
  return useMemo(() => {
    const room = { width: panel.width, height: pageHeight(panel) };
    const now = (): Now => {
      const elements = [...(client.project?.elementsOn(page.id) ?? [])].sort(byHeight);
      const byId = new Map(elements.map((element) => [element.id, element]));
      return {
        elements,
        chosen: chosen.ids.flatMap((id) => byId.get(id) ?? []),
        top: elements.reduce((most, { z }) => Math.max(most, z), 0),
        of: (those) => those.flatMap(({ id }) => byId.get(id) ?? []),
      };
    };
    const inTurn = <T>(run: (now: Now) => Promise<T>): Promise<T> => {
      const done = turn.current.then(() => run(now()));
      turn.current = done.catch(() => undefined);
      return done;
    };
    const what = chosen.elements.length === 1 ? (chosen.elements[0]?.label ?? '') || 'element' : counted(chosen.elements.length, 'element');
    const changed = (of: readonly Element[], fields: (element: Element) => Readonly<Record<string, unknown>>): readonly Change[] =>
      of.map((element) => ({ kind: 'element', id: element.id, set: fields(element) }));
    const send = async (label: string, changes: readonly Change[]): Promise<boolean> => changes.length === 0 || (await change(label, changes)).ok;
    const put = async (label: string, news: readonly Element[]): Promise<boolean> => {
      // Drawn and chosen at once: a thousand would be drawn twice.
      chosen.expect(news.map(({ id }) => id));
      const done = await send(
        label,
        news.map(({ id, ...set }) => ({ kind: 'element', id, set })),
      );
      if (done) chosen.choose(news.map(({ id }) => id));
      else chosen.expect(null);
      return done;
    };
    const moves = (moved: Moved): readonly Change[] => [...moved].map(([id, set]) => ({ kind: 'element', id, set }));
    const moving = (label: string, to: (now: Now) => Moved): void => void inTurn((now) => send(label, moves(to(now))));
    return {
      put: (label, news) => inTurn(() => put(label, news)),
      move: (label, moved) => moving(label, () => moved),
      add: (kind, tag, at) =>
        inTurn(async ({ elements, top }) => {
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
        }),
      set: (label, fields, of = chosen.elements) =>
        void inTurn((now) =>
          send(
            label,
            changed(now.of(of), () => fields),
          ),
        ),
      setting: (label, settings, of = chosen.elements) =>
        void inTurn((now) =>
          send(
            label,
            now.of(of).map(({ id, settings: before }): Change => {
              const drawn = of.find((one) => one.id === id)?.settings ?? before;
              const seen = Object.fromEntries(Object.keys(settings).map((key) => [key, drawn[key]]));
              return { kind: 'element', id, set: { settings: withSaid(before, settings) }, was: { settings: withSaid(before, seen) } };
            }),
          ),
        ),
      align: (to) => moving(`aligned by ${ALIGNMENTS[to]}`, (now) => aligned(now.chosen, to)),
      distribute: (along) => moving('equal gaps', (now) => distributed(now.chosen, along)),
      sameSize: () => moving('made one size', (now) => sameSize(now.chosen)),
      order: (to) =>
        moving(to === 'front' ? `${what} brought to the front` : `${what} sent to the back`, (now) =>
          reordered(now.elements, new Set(chosen.ids), to),
        ),
      nudge: (dx, dy) => moving(`${what} moved on ${page.name}`, (now) => shifted(now.chosen, dx, dy)),
      resize: (dw, dh) =>
        moving(
          'element sized',
          (now) => new Map(now.of(unlocked(now.chosen)).map(({ id, w, h }) => [id, { w: Math.max(1, w + dw), h: Math.max(1, h + dh) }])),
        ),
      group: () => {
        const group = uuid();
        if (chosen.elements.length > 1)
          void inTurn((now) =>
            send(
              `${what} grouped`,
              changed(now.chosen, () => ({ group })),
            ),
          );
      },
      ungroup: () =>
        void inTurn((now) =>
          send(
            `${what} ungrouped`,
            changed(
              now.chosen.filter(({ group }) => group !== ''),
              () => ({ group: '' }),
            ),
          ),
        ),
      lock: () => {
        const isLocked = chosen.elements.some((element) => !element.isLocked);
        void inTurn((now) =>
          send(
            isLocked ? `${what} locked` : `${what} unlocked`,
            changed(now.chosen, () => ({ isLocked })),
          ),
        );
      },
      async remove() {
        const gone = unlocked(chosen.elements);
        if (gone.length === 0) return void (chosen.elements.length > 0 && toast('It is locked. Unlock it first (Ctrl L).'));
        if (
          await inTurn((now) =>
            send(
              `${what} removed from ${page.name}`,
              now.of(gone).map(({ id }) => ({ kind: 'element', id, set: null })),
            ),
          )
        )
          toast(`${gone.length === 1 ? 'Element' : counted(gone.length, 'element')} removed`, {
            action: { label: 'Undo', onClick: () => void step('undo') },
          });
      },
      duplicate: () =>
        inTurn(async ({ chosen: those, top }) => {
          const pitch = Math.max(8, page.pitch);
          await put(`${what} duplicated`, copiesOf(those, { pageId: page.id, top, by: { x: pitch, y: pitch } }, uuid));
        }),
      copied: () => (chosen.elements.length === 0 ? null : clipText(chosen.elements)),
      async paste(text) {
        const clip = clipFrom(text);
        if (clip === null) return;
        if (!clip.ok) return void toast.error(clip.problem.message, { description: clip.problem.remedy });
        await inTurn(async ({ elements, top }) => {
          const by = pasteShift(clip.value, elements, room, page.pitch);
          await put(`${counted(clip.value.length, 'element')} pasted on ${page.name}`, copiesOf(clip.value, { pageId: page.id, top, by }, uuid));
        });
      },
    };
  }, [panel, page, chosen, change, step, client]);
}

const unlocked = (elements: readonly Element[]): readonly Element[] => elements.filter(({ isLocked }) => !isLocked);

/** What is said is kept; what is no longer said is as its kind has it. */
function withSaid(before: ElementSettings, next: ElementSettings): ElementSettings {
  return Object.fromEntries(Object.entries({ ...before, ...next }).filter(([, value]) => value !== undefined));
}
