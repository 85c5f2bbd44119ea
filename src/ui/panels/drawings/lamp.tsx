'use client';
import { settingsOf } from '@/core/panel/kinds.ts';
import { FLAT_PX } from '@/core/panel/textRoom.ts';
import { frameOf, lookColour, type DrawingProps } from './drawing.ts';
import { DoubtMark, DrawnText, Head, labelOf, LookMark } from './parts.tsx';
import { useInState } from './useInState.ts';

/** Below this height there is little room beside a label. */
const LOW_PX = 56;

export function LampDrawing({ element, drawn, w, h }: DrawingProps) {
  const { shape, frame } = settingsOf('lamp', element);
  const { look, text } = useInState(element, drawn);
  const label = labelOf(element, drawn);
  const isFlat = h < FLAT_PX;
  const says = { ...drawn, text };
  if (shape === 'filled') {
    const isSolid = look === 'on' || look === 'bad' || look === 'look';
    return (
      <div
        className="flex h-full w-full min-w-0 items-center justify-center gap-2 overflow-hidden rounded-md border-2 px-2"
        style={{
          borderColor: look === null ? 'var(--color-base-300)' : lookColour(look),
          borderStyle: look === null ? 'dashed' : 'solid',
          background: isSolid ? lookColour(look) : 'var(--color-base-100)',
          color: isSolid ? 'var(--color-base-100)' : 'var(--color-base-content)',
        }}
        data-look={look ?? 'none'}
      >
        {label === '' ? null : <span className="truncate text-[13px]">{label}</span>}
        <DoubtMark drawn={drawn} />
        <DrawnText element={element} w={w} h={h} drawn={says} />
      </div>
    );
  }
  return (
    <div
      className={`flex h-full w-full min-w-0 overflow-hidden ${isFlat ? 'items-center gap-3' : 'flex-col justify-center py-1'}`}
      style={frameOf(frame, drawn.level, w)}
      data-look={look ?? 'none'}
    >
      {!isFlat && (label !== '' || drawn.level !== 'good') ? <Head label={label} drawn={drawn} /> : null}
      <span className="flex min-w-0 items-center gap-2">
        <LookMark look={look} size={h < LOW_PX ? 16 : 22} isSquare={shape === 'square'} />
        {isFlat && label !== '' ? <span className="quiet truncate text-[13px]">{label}</span> : null}
        {isFlat ? <DoubtMark drawn={drawn} /> : null}
        <DrawnText element={element} w={w} h={h} drawn={says} />
      </span>
    </div>
  );
}
