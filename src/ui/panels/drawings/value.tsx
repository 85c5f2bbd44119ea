'use client';
import { FLAT_PX } from '@/core/panel/textRoom.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { ALIGN, frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf, Unit } from './parts.tsx';
import { useInState } from './useInState.ts';
import { lookColour } from './drawing.ts';

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
      <span className={`flex min-w-0 items-baseline gap-2 ${isFlat ? 'max-w-full shrink-0' : ''}`} style={{ justifyContent: ALIGN[align] }}>
        <DrawnText element={element} w={w} h={h} drawn={drawn} colour={state ? lookColour(state.look) : undefined} />
        <Unit drawn={drawn} />
      </span>
    </div>
  );
}
