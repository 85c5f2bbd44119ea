'use client';
/** The map of an area, worked out in slices so that the page stays free; null until the first is there. */
import { useEffect, useState } from 'react';
import { inSlices, untilStopped } from '@/core/inSlices.ts';
import { mappingArea, type AreaMap, type MappedArea } from '@/mapping/areaMap.ts';
import { useProject } from '../live/LiveContext.tsx';

export function useAreaMap(mapped: MappedArea): AreaMap | null {
  const project = useProject();
  const { device, link, driver, part, area } = mapped;
  const [map, setMap] = useState<AreaMap | null>(null);
  useEffect(() => {
    let isStopped = false;
    void inSlices(untilStopped(mappingArea(project, { device, link, driver, part, area }), () => isStopped)).then((found) => {
      if (found) setMap(found);
    });
    return () => {
      isStopped = true;
    };
  }, [project, device, link, driver, part, area]);
  return map;
}
