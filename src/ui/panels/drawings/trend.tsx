'use client';
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { shownOn } from '@/core/panel/shownOn.ts';
import { engineeringOf } from '@/core/signal.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { asNumber, fromJson } from '@/core/value/engineering.ts';
import { useLive } from '../../live/liveHooks.ts';
import { useStage } from '../SceneContext.tsx';
import { useTagViews } from '../useValues.ts';
import { frameOf, type DrawingProps } from './drawing.ts';
import { Head } from './parts.tsx';
import type { TrendLine, TrendPoint } from './TrendChart.tsx';
import { useScaled } from './useEnds.ts';

/** Charts are large: a panel without one does not load them. */
const TrendChart = lazy(async () => ({ default: (await import('./TrendChart.tsx')).TrendChart }));

const MOST_LINES = 6;
const EVERY_MS = 1000;

export function TrendDrawing({ element, drawn, w, h }: DrawingProps) {
  const settings = settingsOf('trend', element);
  const { minutes, moreTags } = settings;
  const { scene, texts, values } = useStage();
  const live = useLive();
  const ids = useMemo(
    () => [...new Set([...(element.tagId === null ? [] : [element.tagId]), ...moreTags])].slice(0, MOST_LINES),
    [element.tagId, moreTags],
  );
  const views = useTagViews(ids);
  const newest = useRef(views);
  const { ends } = useScaled(drawn, settings);
  const [points, setPoints] = useState<readonly TrendPoint[]>([]);
  useEffect(() => {
    newest.current = views;
  }, [views]);
  useEffect(() => {
    if (values === 'none') return;
    const take = (): void => {
      const at = values === 'live' ? live.now() : Date.now();
      const numbers = newest.current.map((view, i) => {
        const def = scene.tag(ids[i] ?? '')?.def;
        const raw = view?.sample?.raw && view.level !== 'bad' ? fromJson(view.sample.raw) : null;
        // A value that is bad leaves a gap: a line across it would be an invention.
        if (!def || !raw?.ok || isDecimal(raw.value) || typeof raw.value === 'string') return null;
        return asNumber(typeof raw.value === 'boolean' ? raw.value : engineeringOf(shownOn(def, texts.units, element.settings), raw.value));
      });
      setPoints((known) => [...known.filter((point) => point.at > at - minutes * 60_000), { at, numbers }]);
    };
    const timer = setInterval(take, EVERY_MS);
    return () => clearInterval(timer);
  }, [ids, live, scene, texts, values, minutes, element.settings]);
  const lines: readonly TrendLine[] = ids.map((id, i) => {
    const tag = scene.tag(id);
    const level = values === 'none' ? 'good' : (views[i]?.level ?? 'bad');
    return { name: tag?.name ?? 'gone', level, unit: tag?.def ? shownOn(tag.def, texts.units, element.settings).unit : '' };
  });
  return (
    <div className="flex h-full w-full flex-col overflow-hidden py-1" style={frameOf('line', 'good', w)}>
      <Head
        label={[element.label || (lines[0]?.name ?? 'Trend'), lines.length === 1 ? lines[0]?.unit : ''].filter(Boolean).join(', ')}
        drawn={drawn}
      />
      <div className="min-h-0 flex-1">
        <Suspense fallback={<p className="quiet p-3 text-[13px]">Drawing …</p>}>
          <TrendChart
            points={points}
            lines={lines}
            ends={settings.low === null && settings.high === null ? null : ends}
            minutes={minutes}
            w={w - 26}
            h={h - 28}
          />
        </Suspense>
      </div>
    </div>
  );
}
