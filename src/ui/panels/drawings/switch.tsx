'use client';
import { lookColour, frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf } from './parts.tsx';
import { usePress } from '../usePress.ts';
import { useStage } from '../SceneContext.tsx';
import { useInState } from './useInState.ts';

export function SwitchDrawing({ element, drawn, w, h, isEnabled }: DrawingProps) {
  const { isPressable } = useStage();
  const { look, text } = useInState(element, drawn);
  const { press, busy } = usePress(element);
  const label = labelOf(element, drawn);
  const isOn = drawn.shown?.number === 1 && drawn.level !== 'bad';
  const isKnown = drawn.shown !== null && drawn.level !== 'bad';
  const canPress = isEnabled && !busy && isKnown;
  const colour = isKnown && look !== null ? lookColour(look) : 'var(--color-base-300)';
  return (
    <div className="flex h-full w-full min-w-0 flex-col justify-center gap-1 overflow-hidden py-1" style={frameOf('line', drawn.level, w)}>
      <Head label={label} drawn={drawn} />
      <button
        type="button"
        role="switch"
        aria-checked={isOn}
        aria-label={`${label}: ${text}`}
        disabled={isPressable && !canPress}
        className="flex min-h-6 min-w-0 items-center gap-3 text-left"
        onClick={() => void press({ value: isOn ? 'off' : 'on' })}
      >
        <svg width={52} height={28} viewBox="0 0 52 28" aria-hidden className="shrink-0" opacity={isPressable && !canPress ? 0.5 : 1}>
          <rect
            x={1.5}
            y={1.5}
            width={49}
            height={25}
            rx={5}
            fill={isOn ? colour : 'none'}
            stroke={colour}
            strokeWidth={2}
            strokeDasharray={isKnown ? undefined : '4 3'}
          />
          {isKnown ? <rect x={isOn ? 28 : 5} y={5} width={19} height={18} rx={3} fill={isOn ? 'var(--color-base-100)' : colour} /> : null}
        </svg>
        <DrawnText element={element} w={w} h={h} drawn={{ ...drawn, text }} />
      </button>
    </div>
  );
}
