'use client';
/** Cells as they are now, read again every second while they are wanted. What changed lately is told, to be marked. */
import { useEffect, useState } from 'react';
import { call } from '../live/api.ts';

const REFRESH_MS = 1000;
const MOST = 500;

export interface LiveCells {
  /** Hex by cell; null for one that the device refuses. Cells that were not asked for are not here. */
  readonly hex: ReadonlyMap<number, string | null>;
  /** Cells that are another value than at the reading before. */
  readonly changed: ReadonlySet<number>;
  /** Why nothing came; empty when it did. */
  readonly problem: string;
}

const NOTHING: LiveCells = { hex: new Map(), changed: new Set(), problem: '' };

export function useCells(deviceId: string, area: string, from: number, count: number, wanted: boolean): LiveCells {
  const [cells, setCells] = useState<LiveCells>(NOTHING);
  useEffect(() => {
    if (!wanted || count === 0) return;
    const stop = new AbortController();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const load = async (): Promise<void> => {
      const asked = { area, from, count: Math.min(count, MOST) };
      const read = await call<{ readonly cells: readonly (string | null)[] }>('POST', `/devices/${deviceId}/memory`, asked, stop.signal);
      if (stop.signal.aborted) return;
      setCells((before) => {
        // What is not read any more is not shown as if it were.
        if (!read.ok) return { ...NOTHING, problem: read.problem.message };
        const hex = new Map(read.value.cells.map((cell, i) => [from + i, cell]));
        const changed = new Set([...hex].flatMap(([cell, now]) => (before.hex.has(cell) && before.hex.get(cell) !== now ? cell : [])));
        return { hex, changed, problem: '' };
      });
      timer = setTimeout(() => void load(), REFRESH_MS);
    };
    void load();
    return () => {
      stop.abort();
      clearTimeout(timer);
    };
  }, [deviceId, area, from, count, wanted]);
  return wanted ? cells : NOTHING;
}
