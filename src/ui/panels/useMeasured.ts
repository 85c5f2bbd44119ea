'use client';
import { useLayoutEffect, useState } from 'react';
import { flushSync } from 'react-dom';

/** One for all of them, so that all that have changed are drawn anew together. */
let observer: ResizeObserver | null = null;
const read = new WeakMap<globalThis.Element, () => void>();

function observe(node: HTMLElement, whenSized: () => void): () => void {
  observer ??= new ResizeObserver((entries) => flushSync(() => entries.forEach(({ target }) => read.get(target)?.())));
  const by = observer;
  read.set(node, whenSized);
  by.observe(node);
  return () => by.unobserve(node);
}

/**
 * What is measured of a node, as its size changes. It is known before the node is painted, and measured when the browser has laid
 * it out: measured earlier it would be laid out twice.
 * @param measure another one is another thing to be measured
 * @returns null until then
 */
export function useMeasured<T>(node: HTMLElement | null, measure: (node: HTMLElement) => T): T | null {
  const [measured, setMeasured] = useState<T | null>(null);
  useLayoutEffect(() => (node ? observe(node, () => setMeasured(measure(node))) : undefined), [node, measure]);
  return measured;
}
