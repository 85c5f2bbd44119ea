'use client';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { fitted, TEXT_PX } from '@/core/panel/textRoom.ts';
import { useEffect, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { momentOf } from '@/core/value/timeText.ts';
import { useLive, useTagView } from '../../live/liveHooks.ts';
import type { LiveClient } from '../../live/liveClient.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { fromJson } from '@/core/value/engineering.ts';
import { useStage } from '../SceneContext.tsx';
import { TEXT_ALIGN, type DrawingProps } from './drawing.ts';

/**
 * A clock that stands still would be a lie: it shows none while the server is silent, or while the controller whose time it shows
 * is not heard well.
 */
export function ClockDrawing({ element, w }: DrawingProps) {
  const { shows, size, align } = settingsOf('clock', element);
  const live = useLive();
  const { scene } = useStage();
  const word = scene.words.find(({ role }) => role === 'clockFrom');
  const view = useTagView(word?.tagId ?? null);
  const [now, setNow] = useState<Date | null>(null);
  useEffect(() => {
    const look = (): void =>
      setNow(live.state !== 'live' ? null : word === undefined ? new Date(live.now()) : controllerTime(live, scene, word.tagId));
    look();
    const timer = setInterval(look, 500);
    return () => clearInterval(timer);
    // A value that turns bad is seen at once.
  }, [live, scene, word, view?.level]);
  const time = now?.toLocaleTimeString('en-GB');
  const date = now?.toLocaleDateString('en-CA');
  const words = now === null ? NO_VALUE_TEXT : ((shows === 'time' ? time : shows === 'date' ? date : `${date} ${time}`) ?? '');
  const { px, text } = fitted({ px: TEXT_PX[size], face: 'mono', has: w }, words);
  return (
    <p className="num h-full w-full overflow-hidden leading-tight whitespace-nowrap" style={{ fontSize: px, textAlign: TEXT_ALIGN[align] }}>
      {text}
    </p>
  );
}

/** The time of the controller as it was read, and what has passed since; as its wall shows it, whatever zone this browser is in. */
function controllerTime(live: LiveClient, scene: Scene, tagId: string): Date | null {
  const { sample, level } = live.view(tagId);
  const type = scene.tag(tagId)?.def?.type;
  const count = sample?.eng ? fromJson(sample.eng) : null;
  if (level !== 'good' || !sample || count?.ok !== true || type?.kind !== 'integer' || type.time === null) return null;
  if (typeof count.value !== 'number' && typeof count.value !== 'bigint') return null;
  const wall = new Date(momentOf(type.time, count.value) + live.now() - sample.at);
  return new Date(wall.getTime() + wall.getTimezoneOffset() * 60_000);
}
