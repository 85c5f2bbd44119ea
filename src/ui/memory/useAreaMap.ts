'use client';
/** The map of an area, worked out in slices so that the page stays free; null until the first is there. */
import { useEffect, useState } from 'react';
import { inSlices, untilStopped } from '@/core/inSlices.ts';
import { mappingArea, planningArea, type AreaMap, type AreaRequest, type MappedArea } from '@/mapping/areaMap.ts';
import { useProject } from '../live/LiveContext.tsx';

/** The map, with the requests that read it once they are planned. */
export interface DrawnArea extends AreaMap {
  readonly requests: readonly AreaRequest[];
}

export function useAreaMap(mapped: MappedArea): DrawnArea | null {
  const project = useProject();
  const { device, link, driver, part, area } = mapped;
  const [map, setMap] = useState<DrawnArea | null>(null);
  useEffect(() => {
    let isStopped = false;
    const asked = { device, link, driver, part, area };
    void (async () => {
      const found = await inSlices(untilStopped(mappingArea(project, asked), () => isStopped));
      if (!found) return;
      // What was planned before stays in sight until it is planned anew.
      setMap((before) => ({ ...found, requests: before?.requests ?? [] }));
      const requests = await inSlices(untilStopped(planningArea(asked, found.groups), () => isStopped));
      if (requests) setMap({ ...found, requests });
    })();
    return () => {
      isStopped = true;
    };
  }, [project, device, link, driver, part, area]);
  return map;
}
