'use client';
import { useLayoutEffect, useState } from 'react';
import { flushSync } from 'react-dom';

/**
 * What is measured of a node, as its size changes. It is known before the node is painted, and measured when the browser has laid
 * it out: measured earlier it would be laid out twice.
 * @param measure always the same function
 * @returns 0 until then
 */
export function useMeasured(node: HTMLElement | null, measure: (node: HTMLElement) => number): number {
  const [measured, setMeasured] = useState(0);
  useLayoutEffect(() => {
    if (!node) return;
    const observer = new ResizeObserver(() => flushSync(() => setMeasured(measure(node))));
    observer.observe(node);
    return () => observer.disconnect();
  }, [node, measure]);
  return measured;
}
