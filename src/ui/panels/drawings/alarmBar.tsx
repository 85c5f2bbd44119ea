'use client';
/** One line: what calls loudest, how much calls beside it; pressed, it leads to the list. */
import { useStage } from '../SceneContext.tsx';
import { alarmText, callingIn, PriorityMark, stateText, useAlarms } from './alarmParts.tsx';
import type { DrawingProps } from './drawing.ts';

export function AlarmBarDrawing({ element }: DrawingProps) {
  const { scene, goTo, isPressable } = useStage();
  const { say } = scene;
  const { lines, unknown, why, isLive } = useAlarms(element);
  const [first] = lines.filter(({ state }) => state !== 'shelved' && state !== 'suppressed' && state !== 'out');
  const calling = callingIn(lines).length;
  const list = scene.pages.find(({ id }) => scene.elementsOn(id).some(({ kind }) => kind === 'alarms'));
  const doubt = !isLive ? say('not live') : unknown > 0 ? say('{1} not known', String(unknown)) : '';
  return (
    <button
      type="button"
      className={`bg-base-100 flex h-full w-full items-center gap-3 overflow-hidden rounded-md border px-3 text-left text-[15px] ${first && calling > 0 ? 'border-error border-2' : 'border-base-300'}`}
      aria-label={element.label || say('Alarms')}
      disabled={isPressable && (!list || list.id === element.pageId)}
      onClick={() => list && goTo({ pageId: list.id })}
      data-alarm-bar={first?.state ?? 'none'}
    >
      {first && isLive ? (
        <>
          <PriorityMark line={first} say={say} />
          <span className="min-w-0 flex-1 truncate font-semibold" dir="auto" title={alarmText(first, scene)}>
            {alarmText(first, scene)}
          </span>
          <span className="quiet shrink-0 truncate text-[13px]">{stateText(first, say)}</span>
        </>
      ) : (
        <span className="quiet min-w-0 flex-1 truncate">{isLive ? say('No alarms') : ''}</span>
      )}
      {doubt === '' ? null : (
        <span className={`${isLive ? 'is-look' : 'is-bad'} shrink-0 text-[13px]`} title={why}>
          {isLive ? '◑' : '✕'} {doubt}
        </span>
      )}
      {calling > 1 ? <strong className="num shrink-0">{say('{1} call', String(calling))}</strong> : null}
    </button>
  );
}
