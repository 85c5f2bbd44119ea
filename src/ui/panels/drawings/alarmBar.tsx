'use client';
/** One line: what calls loudest, how much calls beside it; pressed, it leads to the list. */
import { useCallback, useState } from 'react';
import { useMeasured } from '../useMeasured.ts';
import { useStage } from '../SceneContext.tsx';
import { alarmText, callingIn, PriorityMark, stateText, unknownText, useAlarms } from './alarmParts.tsx';
import type { DrawingProps } from './drawing.ts';

/** Its own lines above and below the text. */
const LINES_PX = 4;

export function AlarmBarDrawing({ element, h }: DrawingProps) {
  const { scene, goTo, isPressable } = useStage();
  const { say } = scene;
  const { lines, unknown, problem, isLive } = useAlarms(element);
  const [first] = lines.filter(({ state }) => state !== 'shelved' && state !== 'suppressed' && state !== 'out');
  const calling = callingIn(lines).length;
  const list = scene.pages.find(({ id }) => scene.elementsOn(id).some(({ kind }) => kind === 'alarms'));
  const doubt = !isLive ? say('not live') : problem !== '' ? problem : unknown.length > 0 ? say('{1} not known', String(unknown.length)) : '';
  const [written, setWritten] = useState<HTMLSpanElement | null>(null);
  const isCut = useMeasured(
    written,
    useCallback((text) => (text.offsetHeight > h - LINES_PX ? true : null), [h]),
  );
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
          {calling > 0 ? <span className="bg-error blinks h-full w-1 shrink-0" aria-hidden /> : null}
          <PriorityMark priority={first.priority} say={say} />
          <span className="relative max-h-full min-w-0 flex-1 overflow-hidden" dir="auto">
            {/* It stays where it is, to be measured: half a number would be another one. */}
            <span ref={setWritten} className={`block leading-tight font-semibold [overflow-wrap:anywhere] ${isCut ? 'invisible' : ''}`}>
              {alarmText(first, scene)}
            </span>
            {isCut ? (
              // Words may lose their end, a number never.
              <span
                className={`absolute inset-x-0 top-0 leading-tight ${/\d/.test(alarmText(first, scene)) ? 'is-bad' : 'line-clamp-2 font-semibold'}`}
              >
                {/\d/.test(alarmText(first, scene)) ? `✕ ${say('more than fits')}` : alarmText(first, scene)}
              </span>
            ) : null}
          </span>
          <span className="quiet shrink-0 truncate text-[13px]">{stateText(first, say)}</span>
        </>
      ) : (
        <span className="quiet min-w-0 flex-1 truncate">{isLive ? say('No alarms') : ''}</span>
      )}
      {doubt === '' ? null : (
        <span className={`${isLive && problem === '' ? 'is-look' : 'is-bad'} shrink-0 text-[13px]`} title={unknownText(unknown, scene)}>
          {isLive && problem === '' ? '◑' : '✕'} {doubt}
        </span>
      )}
      {calling > 1 ? <strong className="num shrink-0">{say('{1} to acknowledge', String(calling))}</strong> : null}
    </button>
  );
}
