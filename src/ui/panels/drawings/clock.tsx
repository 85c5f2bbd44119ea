'use client';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { fitted, TEXT_PX } from '@/core/panel/textRoom.ts';
import { useEffect, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { useLive } from '../../live/liveHooks.ts';
import { TEXT_ALIGN, type DrawingProps } from './drawing.ts';

/** A clock that stands still would be a lie: it shows none while the server is silent. */
export function ClockDrawing({ element, w }: DrawingProps) {
  const { shows, size, align } = settingsOf('clock', element);
  const live = useLive();
  const [now, setNow] = useState<Date | null>(null);
  useEffect(() => {
    const timer = setInterval(() => setNow(live.state === 'live' ? new Date(live.now()) : null), 500);
    return () => clearInterval(timer);
  }, [live]);
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
