'use client';
/** A glass as a screen of its panel: it says which page it has drawn, and goes where it is sent. */
import { useCallback, useEffect, useRef, useSyncExternalStore } from 'react';
import type { GlassClient } from '../live/glassClient.ts';

/**
 * @param isScreen false where the panel is only looked at
 * @returns why nobody can choose a page here; empty where one can
 */
export function useScreen(client: GlassClient, pageId: string | null, isScreen: boolean, visit: (pageId: string) => void): string {
  const order = useSyncExternalStore(
    useCallback((listener) => client.onChange(listener), [client]),
    () => client.order,
    () => null,
  );
  /** The order that the page to be drawn follows: opening is none, and no person's wish. */
  const following = useRef<number | null>(0);
  const drawn = useRef<string | null>(null);
  const last = useRef(0);
  useEffect(() => {
    drawn.current = pageId;
    if (!isScreen || pageId === null || document.visibilityState === 'hidden') return;
    client.shows(pageId, following.current);
    following.current = null;
  }, [client, isScreen, pageId]);
  useEffect(() => {
    if (!isScreen || order === null || order.pageId === null || order.order === last.current) return;
    last.current = order.order;
    if (order.pageId === drawn.current) return client.shows(order.pageId, order.order);
    following.current = order.order;
    visit(order.pageId);
  }, [client, isScreen, order, visit]);
  useEffect(() => {
    if (!isScreen) return;
    const seen = (): void => client.shows(document.visibilityState === 'hidden' ? null : drawn.current, 0);
    document.addEventListener('visibilitychange', seen);
    return () => document.removeEventListener('visibilitychange', seen);
  }, [client, isScreen]);
  return isScreen ? (order?.why ?? '') : '';
}
