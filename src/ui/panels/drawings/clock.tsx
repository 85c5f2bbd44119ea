'use client';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { useEffect, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { useLive } from '../../live/liveHooks.ts';
import { TEXT_ALIGN, type DrawingProps } from './drawing.ts';

/** A clock that stands still would be a lie: it shows none while the server is silent. */
export function ClockDrawing({ element }: DrawingProps) {
  const { shows, size, align } = settingsOf('clock', element);
  const live = useLive();
  const [now, setNow] = useState<Date | null>(null);
  useEffect(() => {
    const timer = setInterval(() => setNow(live.state === 'live' ? new Date(live.now()) : null), 500);
    return () => clearInterval(timer);
  }, [live]);
  const time = now?.toLocaleTimeString('en-GB');
  const date = now?.toLocaleDateString('en-CA');
  return (
    <p className="num h-full w-full truncate leading-tight" style={{ fontSize: TEXT_PX[size], textAlign: TEXT_ALIGN[align] }}>
      {now === null ? '–' : shows === 'time' ? time : shows === 'date' ? date : `${date} ${time}`}
    </p>
  );
}
