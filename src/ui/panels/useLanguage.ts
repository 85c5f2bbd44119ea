'use client';
/** The language that a glass speaks: as a person chose it here, or its controller wants it, whichever came last. */
import { useEffect, useMemo, useState } from 'react';
import type { Scene } from '@/core/panel/scene.ts';
import type { PanelLanguage } from '@/core/panel/wording.ts';
import { asNumber, fromJson } from '@/core/value/engineering.ts';
import { useTagView } from '../live/liveHooks.ts';

export interface Spoken {
  /** Null where its panel has none to choose from. */
  readonly language: PanelLanguage | null;
  /** Does nothing for a number that no language has. */
  readonly speak: (number: number) => void;
}

export function useLanguage({ panel, words }: Pick<Scene, 'panel' | 'words'>): Spoken {
  const { id, languages } = panel;
  const [number, setNumber] = useState<number | null>(() => keptFor(id));
  const wanted = useWanted(words.find(({ role }) => role === 'language')?.tagId ?? null);
  // What the controller wants is followed once, when it is another than before: a person may choose again after it.
  const [followed, setFollowed] = useState<number | null>(null);
  if (wanted !== null && wanted !== followed) {
    setFollowed(wanted);
    if (languages.some((one) => one.number === wanted)) setNumber(wanted);
  }
  useEffect(() => {
    if (number !== null) keepFor(id, number);
  }, [id, number]);
  return useMemo(() => {
    const [first = null] = languages;
    return {
      language: languages.find((one) => one.number === number) ?? first,
      speak: (next) => {
        if (languages.some((one) => one.number === next)) setNumber(next);
      },
    };
  }, [languages, number]);
}

function useWanted(tagId: string | null): number | null {
  const view = useTagView(tagId);
  const eng = view?.level === 'good' && view.sample?.eng ? fromJson(view.sample.eng) : null;
  return eng?.ok === true ? asNumber(eng.value) : null;
}

const keyOf = (panelId: string): string => `language of ${panelId}`;

/** A glass that is opened again speaks as it did. */
function keptFor(panelId: string): number | null {
  try {
    const kept = localStorage.getItem(keyOf(panelId));
    return kept === null ? null : Number(kept);
  } catch {
    return null;
  }
}

function keepFor(panelId: string, number: number): void {
  try {
    localStorage.setItem(keyOf(panelId), String(number));
  } catch {
    // A browser that keeps nothing begins with the first language.
  }
}
