'use client';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { offered } from '@/core/panel/press.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { usePress } from '../usePress.ts';
import { useStage } from '../SceneContext.tsx';
import { timeOfDay } from '../../parts/moment.ts';
import { usePickItems } from '../usePickItems.ts';
import { frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf } from './parts.tsx';
import { useInState } from './useInState.ts';

export function PickDrawing({ element, drawn, w, h, isEnabled }: DrawingProps) {
  const {
    isPressable,
    scene: { say, word },
  } = useStage();
  const { states, text } = useInState(element, drawn);
  const [isOpen, setOpen] = useState(false);
  const { press } = usePress(element);
  const { from, writesWhat } = settingsOf('pick', element);
  const list = usePickItems(element);
  const items =
    from === 'tags'
      ? list.items.map((item, i) => ({ value: String(i), ...item, seen: item.text, text: word(item.text) }))
      : (drawn.def ? offered(drawn.def, states) : []).map((item, i) => ({
          value: writesWhat === 'place' ? String(i) : item.value,
          text: item.state ? item.text : word(item.text),
          seen: item.text,
          isThere: true,
        }));
  const label = labelOf(element, drawn);
  const take = async (value: string, item: string): Promise<void> => {
    const done = await press({ value, ...(from === 'tags' ? { item } : {}) });
    if (done.ok) setOpen(false);
  };
  return (
    <>
      <button
        type="button"
        className="hover:border-primary relative flex h-full w-full min-w-0 flex-col justify-center overflow-hidden py-1 text-left"
        style={frameOf('line', drawn.level, w)}
        disabled={isPressable && !isEnabled}
        onClick={() => setOpen(true)}
        aria-haspopup="listbox"
      >
        <span className="bg-primary absolute inset-x-2 bottom-0 h-[3px] rounded-t" aria-hidden />
        <span className="sr-only">Pick </span>
        <Head label={label} drawn={drawn} />
        <span className="flex w-full min-w-0 items-center justify-between gap-2">
          <DrawnText element={element} w={w} h={h} drawn={{ ...drawn, text }} />
          <ChevronDown size={18} aria-hidden className="shrink-0" />
        </span>
      </button>
      {isOpen ? (
        <Dialog title={label} onClose={() => setOpen(false)}>
          <ul className="flex max-h-[60vh] flex-col gap-1 overflow-auto" role="listbox" aria-label={label}>
            {items.length === 0 ? (
              <li className="quiet">
                {list.isReading
                  ? say('Reading …')
                  : list.read
                    ? say('Not read yet.')
                    : 'Nothing to pick from: give it states, or tags whose values are offered.'}
              </li>
            ) : null}
            {items.map((item, i) => (
              <li key={i} role="option" aria-selected={item.text === text}>
                <button
                  type="button"
                  className={`btn btn-lg w-full justify-start ${item.text === text ? 'btn-primary' : ''}`}
                  disabled={!item.isThere}
                  onClick={() => void take(item.value, item.seen)}
                >
                  {item.text}
                </button>
              </li>
            ))}
          </ul>
          <div className="mt-4 flex items-center justify-end gap-3">
            {list.at === null ? null : <span className="quiet mr-auto text-sm">{say('Read at {1}', timeOfDay(list.at))}</span>}
            {list.read ? (
              <button type="button" className="btn btn-lg" disabled={list.isReading} onClick={list.read}>
                {say(list.isReading ? 'Reading …' : list.at === null ? 'Read' : 'Read again')}
              </button>
            ) : null}
            <button type="button" className="btn btn-lg btn-ghost" onClick={() => setOpen(false)}>
              {say('Cancel')}
            </button>
          </div>
        </Dialog>
      ) : null}
    </>
  );
}
