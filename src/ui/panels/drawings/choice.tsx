'use client';
import { offered } from '@/core/panel/press.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { usePress } from '../usePress.ts';
import { useStage } from '../SceneContext.tsx';
import { type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf } from './parts.tsx';
import { useInState } from './useInState.ts';

export function ChoiceDrawing({ element, drawn, w, h, isEnabled }: DrawingProps) {
  const { direction } = settingsOf('choice', element);
  const {
    isPressable,
    scene: { word },
  } = useStage();
  const { states, state, text } = useInState(element, drawn);
  const { press, busy } = usePress(element);
  const items = drawn.def ? offered(drawn.def, states) : states.map((one) => ({ value: String(one.at), text: one.text, state: one }));
  return (
    <div className="flex h-full w-full min-w-0 flex-col gap-1 overflow-hidden" role="radiogroup" aria-label={labelOf(element, drawn)}>
      <span className="flex items-baseline gap-3">
        <Head label={labelOf(element, drawn)} drawn={drawn} />
        <DrawnText element={element} w={w} h={h} drawn={{ ...drawn, text }} />
      </span>
      <div className={`flex min-h-0 flex-1 gap-1 ${direction === 'column' ? 'flex-col' : ''}`}>
        {items.length === 0 ? <span className="quiet text-[13px]">No states to choose from</span> : null}
        {items.map((item) => {
          const isOn = drawn.level !== 'bad' && drawn.shown !== null && (item.state ? item.state === state : word(item.text) === text);
          return (
            <button
              key={item.value}
              type="button"
              role="radio"
              aria-checked={isOn}
              disabled={isPressable && (!isEnabled || busy)}
              className={`min-h-6 min-w-0 flex-1 truncate rounded-md border-2 px-2 text-[15px] font-semibold ${isOn ? 'bg-primary border-primary text-primary-content' : 'bg-base-100 border-base-300 disabled:text-secondary'}`}
              onClick={() => void press({ value: item.value })}
            >
              {isOn ? '● ' : ''}
              {item.state ? item.text : word(item.text)}
            </button>
          );
        })}
      </div>
    </div>
  );
}
