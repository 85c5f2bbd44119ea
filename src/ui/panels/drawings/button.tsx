'use client';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { useState, type KeyboardEvent, type MouseEvent, type PointerEvent } from 'react';
import { actionsOf, settingsOf } from '@/core/panel/kinds.ts';
import { isWriting } from '@/core/panel/actions.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { useStage } from '../SceneContext.tsx';
import { useChooseSubject } from '../Subjects.tsx';
import { useHold } from '../useHold.ts';
import { usePress } from '../usePress.ts';
import { useTagViews } from '../useValues.ts';
import { lookColour, type DrawingProps } from './drawing.ts';
import { Doubt, DrawnText, labelOf, LookMark } from './parts.tsx';
import { useInState } from './useInState.ts';

const TONE = { primary: 'var(--color-primary)', accent: 'var(--color-accent)', bad: 'var(--color-error)', quiet: 'var(--color-secondary)' } as const;

export function ButtonDrawing({ element, drawn, w, h, isEnabled }: DrawingProps) {
  const settings = settingsOf('button', element);
  const { caption, showsState, size, tone, confirm } = settings;
  const { scene, goTo, speak, isPressable } = useStage();
  const { say } = scene;
  const actions = actionsOf(element);
  const writing = actions.filter(isWriting);
  const toggled = writing.filter(({ act }) => act === 'toggle').flatMap(({ tagId }) => tagId ?? element.tagId ?? []);
  const views = useTagViews(toggled);
  const { state, look, text } = useInState(element, drawn);
  const label = labelOf(element, drawn) || actions.map(({ act }) => act)[0] || 'Button';
  const choose = useChooseSubject();
  const hold = useHold(element, label);
  const keyWord = scene.words.find(({ role, elementId }) => role === 'key' && elementId === element.id);
  const key = useHold(element, label, keyWord?.id);
  const { press, busy } = usePress(element);
  const [isAsking, setAsking] = useState(false);
  const isHold = actions[0]?.act === 'hold';
  const hasValue = element.tagId !== null && showsState;
  // A state that is not known cannot be toggled.
  const seen = Object.fromEntries(
    toggled.flatMap((id, i) => {
      const eng = views[i]?.level === 'bad' ? null : views[i]?.sample?.eng;
      return eng?.kind === 'boolean' ? [[id, eng.value === true]] : [];
    }),
  );
  const isUnknown = toggled.some((id) => seen[id] === undefined);
  const canPress = isEnabled && !busy && !isUnknown && !(writing.length > 0 && drawn.level === 'bad' && element.tagId !== null);
  const act = async (): Promise<void> => {
    setAsking(false);
    if (
      writing.length > 0 ||
      actions.some(({ act: step, pageId }) => step === 'subject' && (scene.subjectsOn(pageId ?? '')?.tagId ?? null) !== null)
    ) {
      const done = await press({ ...(toggled.length > 0 ? { seen } : {}) });
      if (!done.ok || done.value.writes.some(({ state: how }) => how !== 'done')) return;
    }
    for (const { act: step, pageId, value: number } of actions) {
      const subjects = step === 'subject' && pageId !== null ? scene.subjectsOn(pageId) : null;
      if (subjects?.tagId === null) choose(subjects.id, Number(number));
      if ((step === 'page' || step === 'subject') && pageId !== null) goTo({ pageId });
      else if (step === 'language') speak(Number(number));
      else if (step === 'back' || step === 'next' || step === 'previous') goTo(step);
    }
  };
  const pressed = [...(isHold ? [hold] : []), ...(keyWord ? [key] : [])];
  const holding =
    isPressable && pressed.length > 0
      ? {
          onPointerDown: (e: PointerEvent<HTMLButtonElement>) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            for (const one of pressed) one.press(e.pointerId);
          },
          onKeyDown: (e: KeyboardEvent) => {
            if ((e.key === ' ' || e.key === 'Enter') && !e.repeat) for (const one of pressed) one.press('key');
          },
          onBlur: () => {
            for (const one of pressed) one.letGo();
          },
          onContextMenu: (e: MouseEvent) => e.preventDefault(),
        }
      : {};
  const value = writing.length === 1 && (writing[0]?.act === 'write' || writing[0]?.act === 'add') ? writing[0] : null;
  const words = caption || (hasValue ? '' : label);
  return (
    <div className="flex h-full w-full min-w-0 flex-col gap-0.5">
      {hasValue || caption ? (
        <span className="quiet flex items-baseline justify-between gap-2 text-[13px] leading-tight">
          <span className="truncate" title={label}>
            {label}
          </span>
          <Doubt drawn={drawn} />
        </span>
      ) : null}
      <button
        type="button"
        className={`flex min-h-0 w-full flex-1 touch-none flex-col items-center justify-center overflow-hidden rounded-md border-2 px-2 leading-tight font-semibold ${hold.isHeld ? 'is-held' : ''}`}
        style={{
          fontSize: TEXT_PX[size],
          borderColor: canPress || !isPressable ? TONE[tone] : 'var(--color-base-300)',
          background: hold.isHeld ? TONE[tone] : 'var(--color-base-100)',
          color: hold.isHeld ? 'var(--color-base-100)' : canPress || !isPressable ? 'var(--color-base-content)' : 'var(--color-secondary)',
        }}
        disabled={isPressable && !hold.isHeld && !canPress}
        onClick={() => (isHold ? undefined : confirm === '' ? void act() : setAsking(true))}
        {...holding}
        aria-pressed={isHold ? hold.isHeld : undefined}
      >
        {/* What is said is what is seen (WCAG 2.2, 2.5.3), with its label in front. */}
        {words === label ? null : <span className="sr-only">{label}: </span>}
        {words === '' ? null : <span className="max-w-full truncate">{words}</span>}
        {hasValue ? (
          <span className="flex max-w-full min-w-0 items-center gap-2">
            {state || drawn.shown?.isState ? <LookMark look={look} size={14} /> : null}
            <DrawnText element={element} w={w} h={h} drawn={{ ...drawn, text }} colour={state && !hold.isHeld ? lookColour(state.look) : undefined} />
          </span>
        ) : null}
        {isHold ? <span className="text-[12px] font-normal">{say(hold.isHeld ? 'held' : 'hold')}</span> : null}
        {value ? (
          <span className="num text-[12px] font-normal">
            {value.act === 'add' ? (value.value.startsWith('-') ? '' : '+') : '→ '}
            {value.value} {drawn.def?.unit}
          </span>
        ) : null}
      </button>
      {isAsking ? (
        <Dialog title={label} onClose={() => setAsking(false)}>
          <p>{confirm}</p>
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn btn-lg" autoFocus onClick={() => setAsking(false)}>
              {say('Cancel')}
            </button>
            <button type="button" className="btn btn-lg btn-primary" onClick={() => void act()}>
              {say('Yes')}
            </button>
          </div>
        </Dialog>
      ) : null}
    </div>
  );
}
