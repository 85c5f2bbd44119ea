'use client';
import { FLAT_PX } from '@/core/panel/textRoom.ts';
import { useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { useStage } from '../SceneContext.tsx';
import { EntryPad } from './EntryPad.tsx';
import { frameOf, type DrawingProps } from './drawing.ts';
import { Head, labelOf, ValueLine } from './parts.tsx';

export function EntryDrawing({ element, drawn, isEnabled, w, h }: DrawingProps) {
  const { align } = settingsOf('entry', element);
  const { isPressable } = useStage();
  const [isEntering, setEntering] = useState(false);
  const label = labelOf(element, drawn);
  const isFlat = h < FLAT_PX;
  return (
    <>
      <button
        type="button"
        className={`hover:border-primary relative flex h-full w-full min-w-0 overflow-hidden text-left ${isFlat ? 'items-center gap-3' : 'flex-col justify-center py-1'}`}
        style={frameOf('line', drawn.level, w)}
        disabled={isPressable && !isEnabled}
        onClick={() => setEntering(true)}
      >
        <span className="bg-primary absolute inset-x-2 bottom-0 h-[3px] rounded-t" aria-hidden />
        <span className="sr-only">Enter </span>
        <Head label={label} drawn={drawn} />
        <ValueLine element={element} w={w} h={h} drawn={drawn} align={align} isFlat={isFlat} />
      </button>
      {isEntering && drawn.tag && drawn.shownDef ? (
        <EntryPad element={element} drawn={drawn} def={drawn.shownDef} label={label} onClose={() => setEntering(false)} />
      ) : null}
    </>
  );
}
