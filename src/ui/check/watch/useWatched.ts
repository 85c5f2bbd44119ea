'use client';
/** What is remembered of the tags that are watched, for as long as the view is open. */
import { useEffect, useRef, useState } from 'react';
import { afterSample, NOTHING_WATCHED, type Watched } from '@/core/check/watch/watched.ts';
import { asNumber, fromJson } from '@/core/value/engineering.ts';
import type { LiveClient } from '../../live/liveClient.ts';
import { useLive } from '../../live/liveHooks.ts';

export const KEPT_MS = 5 * 60_000;
/** How often what came is drawn. */
const DRAW_MS = 500;

/** @returns by tag, and what begins anew */
export function useWatched(tagIds: readonly string[]): { readonly watched: ReadonlyMap<string, Watched>; readonly restart: () => void } {
  const live = useLive();
  const known = useRef(new Map<string, Watched>());
  const [watched, setWatched] = useState<ReadonlyMap<string, Watched>>(new Map());
  const key = tagIds.join(' ');
  useEffect(() => {
    const ids = key === '' ? [] : key.split(' ');
    for (const tagId of known.current.keys()) if (!ids.includes(tagId)) known.current.delete(tagId);
    const take = (tagId: string): void => {
      const next = seenIn(live, tagId, known.current.get(tagId) ?? NOTHING_WATCHED);
      if (next) known.current.set(tagId, next);
    };
    const stops = ids.map((tagId) => {
      take(tagId);
      return live.onTag(tagId, () => take(tagId));
    });
    const timer = setInterval(() => setWatched(new Map(known.current)), DRAW_MS);
    return () => {
      clearInterval(timer);
      for (const stop of stops) stop();
    };
  }, [live, key]);
  return {
    watched,
    restart: () => {
      known.current.clear();
      setWatched(new Map());
    },
  };
}

function seenIn(live: LiveClient, tagId: string, before: Watched): Watched | null {
  const { sample, level, text } = live.view(tagId);
  if (!sample) return null;
  const eng = level === 'bad' || !sample.eng ? null : fromJson(sample.eng);
  const number = eng?.ok && typeof eng.value !== 'string' ? asNumber(eng.value) : null;
  // What is lost is lost now; a sample is of its own time.
  return afterSample(before, level === 'bad' ? live.now() : sample.at, number, text, KEPT_MS);
}
