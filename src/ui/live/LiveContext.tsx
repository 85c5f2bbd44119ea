'use client';
/** Gives the bench its live client, and hooks to the project that it holds. */
import { createContext, useCallback, useContext, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { Applied } from '@/core/project/snapshot.ts';
import type { Change } from '@/core/project/command.ts';
import type { Result } from '@/core/result.ts';
import { call } from './api.ts';
import { Live } from './liveHooks.ts';
import { ProjectClient } from './projectClient.ts';
import type { ProjectView } from './project.ts';

const Bench = createContext<ProjectClient | null>(null);

interface LiveProviderProps {
  readonly children: ReactNode;
  readonly waiting: ReactNode;
  /** What is shown needs tags from the first: it waits for all of them. */
  readonly needsTags?: boolean;
}

export function LiveProvider({ children, waiting, needsTags = false }: LiveProviderProps) {
  const [client, setClient] = useState<ProjectClient | null>(null);
  useEffect(() => {
    const made = new ProjectClient();
    made.start();
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the client needs a browser, so it is made after the first draw
    setClient(made);
    return () => made.stop();
  }, []);
  return client ? (
    <Live.Provider value={client}>
      <Bench.Provider value={client}>
        <WhenLoaded waiting={waiting} needsTags={needsTags}>
          {children}
        </WhenLoaded>
      </Bench.Provider>
    </Live.Provider>
  ) : (
    waiting
  );
}

function WhenLoaded({ children, waiting, needsTags }: LiveProviderProps) {
  const client = useBench();
  const project = useSyncExternalStore(
    useCallback((listener) => client.onChange(listener), [client]),
    () => client.project,
  );
  return project && (project.isWhole || !needsTags) ? children : waiting;
}

export function useBench(): ProjectClient {
  const client = useContext(Bench);
  if (!client) throw new Error('This component belongs to the bench.');
  return client;
}

function useBenchState<T>(read: (client: ProjectClient) => T): T {
  const client = useBench();
  return useSyncExternalStore(
    useCallback((listener) => client.onChange(listener), [client]),
    () => read(client),
  );
}

export function useProject(): ProjectView {
  const project = useBenchState((c) => c.project);
  if (!project) throw new Error('The project is shown only when it is loaded.');
  return project;
}
export function useLastChange(): Date | null {
  return useBenchState((c) => c.lastChangeAt);
}

/**
 * Changes the project; a refusal is told where it happens (`quiet`) or as a message. Each change says what this page
 * saw in the fields before (a form that was open for a while says it itself), so that nothing made elsewhere
 * meanwhile is overwritten unseen.
 */
export function useChange(): (label: string, changes: readonly Change[], how?: { readonly quiet?: boolean }) => Promise<Result<Applied>> {
  const client = useBench();
  return useCallback(
    async (label, changes, how) => {
      const seen = changes.map((c) => ({ ...c, was: c.was ?? wasIn(client.project?.entity(c.kind, c.id) ?? null, c.set) }));
      const done = await call<Applied>('POST', '/commands', { id: uuid(), label: label.slice(0, 200), changes: seen });
      if (done.ok) client.applyChanges(done.value);
      else if (!how?.quiet) toast.error(done.problem.message, { description: done.problem.remedy });
      return done;
    },
    [client],
  );
}

/** Changes of what is kept as a whole: each is made of what the one before left, however quickly they come. */
export function useChangeInTurn(): (label: string, make: (now: ProjectView) => readonly Change[]) => Promise<unknown> {
  const client = useBench();
  const change = useChange();
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useCallback(
    (label, make) => {
      const next = last.current.then(() => (client.project ? change(label, make(client.project)) : null));
      last.current = next.catch(() => null);
      return next;
    },
    [client, change],
  );
}

/** The fields of an entity that a change is about to set, as they are now; undefined for one that is new or goes. */
export function wasIn(entity: object | null, set: Change['set']): Readonly<Record<string, unknown>> | undefined {
  if (entity === null || set === null) return undefined;
  return Object.fromEntries(Object.keys(set).flatMap((key) => (key in entity ? [[key, (entity as Record<string, unknown>)[key]]] : [])));
}

/** Undoes or redoes the last change and says which it was. */
export function useStep(): (direction: 'undo' | 'redo') => Promise<void> {
  const client = useBench();
  return useCallback(
    async (direction) => {
      const done = await call<Applied>('POST', `/${direction}`);
      if (done.ok) {
        client.applyChanges(done.value);
        toast(done.value.label);
      } else toast(done.problem.message);
    },
    [client],
  );
}
