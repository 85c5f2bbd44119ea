'use client';
import { useEffect, useState } from 'react';

/** Of a node in its own pixels, as it changes; 0 until it is known. */
export function useSize(node: HTMLElement | null): { readonly w: number; readonly h: number } {
  const [size, setSize] = useState({ w: 0, h: 0 });
  useEffect(() => {
    if (!node) return;
    const observer = new ResizeObserver(() => setSize({ w: node.offsetWidth, h: node.offsetHeight }));
    observer.observe(node);
    return () => observer.disconnect();
  }, [node]);
  return size;
}
