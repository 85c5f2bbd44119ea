'use client';
import { useLayoutEffect, useState } from 'react';

/** Of a node in its own pixels, as it changes; 0 until it is known. */
export function useSize(node: HTMLElement | null): { readonly w: number; readonly h: number } {
  const [size, setSize] = useState({ w: 0, h: 0 });
  // Before it is painted: what goes by a size must not be missing for a moment.
  useLayoutEffect(() => {
    if (!node) return;
    const read = (): void => {
      const [w, h] = [node.offsetWidth, node.offsetHeight];
      setSize((known) => (known.w === w && known.h === h ? known : { w, h }));
    };
    read();
    const observer = new ResizeObserver(read);
    observer.observe(node);
    return () => observer.disconnect();
  }, [node]);
  return size;
}
