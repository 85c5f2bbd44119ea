'use client';
import { FLAT_PX } from '@/core/panel/textRoom.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { frameOf, lookColour, type DrawingProps } from './drawing.ts';
import { Head, labelOf, ValueLine } from './parts.tsx';
import { useInState } from './useInState.ts';

export function ValueDrawing({ element, drawn, w, h }: DrawingProps) {
  const { align, frame } = settingsOf('value', element);
  const { state } = useInState(element, drawn);
  const label = labelOf(element, drawn);
  const isFlat = h < FLAT_PX;
  return (
    <div
      className={`flex h-full w-full min-w-0 overflow-hidden ${isFlat ? 'items-center gap-3' : 'flex-col justify-center py-1'}`}
      style={frameOf(frame, drawn.level, w)}
    >
      {label !== '' || drawn.level !== 'good' ? <Head label={label} drawn={drawn} /> : null}
      <ValueLine element={element} w={w} h={h} drawn={drawn} align={align} isFlat={isFlat} colour={state ? lookColour(state.look) : undefined} />
    </div>
  );
}
