'use client';
/** Chooses which of its like things the page shows. */
import { settingsOf } from '@/core/panel/kinds.ts';
import { useStage } from '../SceneContext.tsx';
import { SubjectOptions, useChooseSubject, usePageSubject } from '../Subjects.tsx';
import { usePress } from '../usePress.ts';
import type { DrawingProps } from './drawing.ts';

export function SubjectDrawing({ element, isEnabled }: DrawingProps) {
  const { shows } = settingsOf('subject', element);
  const { isPressable, isArranged } = useStage();
  const { list, choice } = usePageSubject();
  const choose = useChooseSubject();
  const { press, busy } = usePress(element);
  if (!list) return <p className="quiet text-[13px]">This page has no subjects yet: give it some in Panels.</p>;
  const take = (number: number): void => {
    if (list.tagId !== null) void press({ value: String(number) }, { quiet: true });
    else choose(list.id, number);
  };
  const label = element.label || list.name;
  if (shows === 'list')
    return (
      <select
        className="select h-full w-full text-[16px]"
        aria-label={label}
        value={choice?.number ?? ''}
        disabled={isPressable && (!isEnabled || busy)}
        tabIndex={isArranged ? -1 : undefined}
        onChange={(e) => take(Number(e.target.value))}
      >
        <SubjectOptions list={list} choice={choice} />
      </select>
    );
  return (
    <div className={`flex h-full w-full gap-1 overflow-hidden ${shows === 'column' ? 'flex-col' : ''}`} role="radiogroup" aria-label={label}>
      {list.choices.map(({ number, text }) => {
        const isOn = number === choice?.number;
        return (
          <button
            key={number}
            type="button"
            role="radio"
            aria-checked={isOn}
            disabled={isPressable && (!isEnabled || busy)}
            className={`min-h-6 min-w-0 flex-1 truncate rounded-md border-2 px-1 text-[15px] font-semibold ${isOn ? 'bg-primary border-primary text-primary-content' : 'bg-base-100 border-base-300 disabled:text-secondary'}`}
            onClick={() => take(number)}
          >
            {isOn ? '● ' : ''}
            {text}
          </button>
        );
      })}
    </div>
  );
}
