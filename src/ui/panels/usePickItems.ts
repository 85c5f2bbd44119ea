'use client';
/** The items of a pick list that are values of tags: followed all the time, or read when the page opens, once, when a condition comes true, or when asked for. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import type { Element } from '@/core/project/entities.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import type { TagView } from '../live/liveClient.ts';
import { useLive } from '../live/liveHooks.ts';
import { useStage } from './SceneContext.tsx';
import { usePageSubject } from './Subjects.tsx';
import { useCondition, useNumber, useTagViews } from './useValues.ts';

export interface PickItem {
  readonly text: string;
  readonly isThere: boolean;
}

export interface PickItems {
  readonly items: readonly PickItem[];
  /** When they were read; null where they are followed, or were never read. */
  readonly at: number | null;
  readonly isReading: boolean;
  /** Reads them again; null where they are followed. */
  readonly read: (() => void) | null;
}

const LOOK_MS = 200;

interface Taken {
  readonly items: readonly PickItem[];
  readonly at: number;
}
/** What was read since this glass was opened, by element and subject. */
const taken = new Map<string, Taken>();

export function usePickItems(element: Element): PickItems {
  const { from, itemTags, count, readWhen, readOn } = settingsOf('pick', element);
  const live = useLive();
  const { values } = useStage();
  const { choice } = usePageSubject();
  const key = `${element.id} ${choice?.number ?? ''}`;
  const number = useNumber(count);
  const ids = from !== 'tags' ? NONE : count === null ? itemTags : itemTags.slice(0, Math.max(0, Math.floor(number ?? 0)));
  const isFollowed = readWhen === 'live' || values !== 'live';
  const [begun, setBegun] = useState<number | null>(() => (readWhen === 'opening' || (readWhen === 'start' && !taken.has(key)) ? live.now() : null));
  const views = useTagViews(isFollowed || begun !== null ? ids : NONE);
  const read = useCallback(() => setBegun(live.now()), [live]);
  useRising(readOn, read);
  // Another count, or another subject, makes another list.
  const list = `${key} ${ids.join(' ')}`;
  const [known, setKnown] = useState(list);
  if (known !== list) {
    setKnown(list);
    if (!isFollowed && readWhen !== 'asked') read();
  }
  useEffect(() => {
    // How many there are has to be known first.
    if (isFollowed || begun === null || (count !== null && number === null)) return;
    const look = (): void => {
      const now = ids.map((id) => live.view(id));
      if (!now.every((view) => hasCome(view, begun))) return;
      taken.set(key, { items: now.map(itemOf), at: live.now() });
      setBegun(null);
    };
    look();
    const timer = setInterval(look, LOOK_MS);
    return () => clearInterval(timer);
  }, [isFollowed, begun, count, number, ids, key, live, views]);
  if (isFollowed) return { items: views.map(itemOf), at: null, isReading: false, read: null };
  // What has come already can be read meanwhile, and picked once all is there.
  if (begun !== null && taken.get(key) === undefined)
    return {
      items: views.map((view) => ({ text: view && hasCome(view, begun) ? itemOf(view).text : NO_VALUE_TEXT, isThere: false })),
      at: null,
      isReading: true,
      read,
    };
  const last = taken.get(key);
  return { items: last?.items.slice(0, ids.length) ?? [], at: last?.at ?? null, isReading: begun !== null, read };
}

const NONE: readonly string[] = [];

function itemOf(view: TagView | null): PickItem {
  return view === null || view.level === 'bad' ? { text: NO_VALUE_TEXT, isThere: false } : { text: view.text, isThere: true };
}

/** It was read since then; what comes by itself is as it is now. */
function hasCome({ sample, level }: TagView, since: number): boolean {
  // That it waits to be read is no reading of it.
  if (!sample || sample.quality.reason === 'waiting') return false;
  return sample.at >= since || (sample.freshForMs === null && level !== 'bad');
}

/** Calls when a condition comes true; not for one that is true from the beginning. */
function useRising(bound: unknown, call: () => void): void {
  const holds = useCondition(bound)?.holds ?? null;
  const before = useRef<boolean | null>(null);
  useEffect(() => {
    if (before.current === false && holds === true) call();
    if (holds !== null) before.current = holds;
  }, [holds, call]);
}
