'use client';
/** What a page is drawn in: its panel, where its values come from, how it is pressed, and how one goes to another page. */
import { createContext, useContext, useMemo, useState, type ReactNode } from 'react';
import type { Texts } from '@/core/panel/elementText.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { NOBODY, type Signing } from './Signing.tsx';

/** Values of the machine, values made up between the ends of each tag, or none. */
export type ValuesFrom = 'live' | 'made' | 'none';

export interface Stage {
  readonly scene: Scene;
  readonly texts: Texts;
  readonly values: ValuesFrom;
  /** Nothing can be pressed while a page is arranged or only looked at. */
  readonly isPressable: boolean;
  /** It is being arranged: what is hidden is there all the same, and says why it is not seen. */
  readonly isArranged: boolean;
  /** On a phone elements stand one under another. */
  readonly isPhone: boolean;
  /** Has the glass speak another of its languages, by its number. */
  readonly speak: (language: number) => void;
  readonly signing: Signing;
  readonly goTo: (to: { readonly pageId: string } | 'back' | 'next' | 'previous') => void;
}

const StageContext = createContext<Stage | null>(null);

export function useStage(): Stage {
  const stage = useContext(StageContext);
  if (!stage) throw new Error('An element is drawn on a page.');
  return stage;
}

interface StageProviderProps extends Omit<Stage, 'texts' | 'goTo' | 'speak' | 'signing'> {
  readonly goTo?: Stage['goTo'];
  readonly speak?: Stage['speak'];
  readonly signing?: Signing;
  readonly children: ReactNode;
}

const nowhere = (): void => undefined;

export function StageProvider({
  scene,
  values,
  isPressable,
  isArranged,
  isPhone,
  goTo = nowhere,
  speak = nowhere,
  signing = NOBODY,
  children,
}: StageProviderProps) {
  const stage = useMemo(
    () => ({
      scene,
      texts: { units: scene.panel.units, statesIn: scene.statesIn, word: scene.word },
      values,
      isPressable,
      isArranged,
      isPhone,
      goTo,
      speak,
      signing,
    }),
    [scene, values, isPressable, isArranged, isPhone, goTo, speak, signing],
  );
  return <StageContext.Provider value={stage}>{children}</StageContext.Provider>;
}

/** The pages that were looked at, the latest last. */
export function useVisited(first: string | null): {
  readonly pageId: string | null;
  readonly visit: (pageId: string) => void;
  readonly back: () => void;
} {
  const [visited, setVisited] = useState<readonly string[]>(first === null ? [] : [first]);
  return useMemo(
    () => ({
      pageId: visited.at(-1) ?? null,
      visit: (pageId: string) => setVisited((known) => (known.at(-1) === pageId ? known : [...known.slice(-49), pageId])),
      back: () => setVisited((known) => (known.length > 1 ? known.slice(0, -1) : known)),
    }),
    [visited],
  );
}
