'use client';
/** Hooks to the live channel, for the bench and for glasses alike: nothing here knows of the project. */
import { createContext, useCallback, useContext, useSyncExternalStore } from 'react';
import type { Status } from '@/core/live/status.ts';
import type { ChannelState, LiveClient, TagView } from './liveClient.ts';

export const Live = createContext<LiveClient | null>(null);

export function useLive(): LiveClient {
  const client = useContext(Live);
  if (!client) throw new Error('This component must stand inside LiveProvider.');
  return client;
}

function useClientState<T>(read: (client: LiveClient) => T): T {
  const client = useLive();
  return useSyncExternalStore(
    useCallback((listener) => client.onChange(listener), [client]),
    () => read(client),
  );
}

export function useStatus(): Status | null {
  return useClientState((c) => c.status);
}
export function useChannelState(): ChannelState {
  return useClientState((c) => c.state);
}
/** The value of a tag as it may be shown now; subscribes while the component is there. */
export function useTagView(tagId: string | null): TagView | null {
  const client = useLive();
  const view = useSyncExternalStore(
    useCallback((listener) => (tagId === null ? () => undefined : client.onTag(tagId, listener)), [client, tagId]),
    () => (tagId === null ? null : client.view(tagId)),
  );
  return view;
}
