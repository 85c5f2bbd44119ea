'use client';
/** Which elements of a page are chosen, the first chosen first; those that are grouped are chosen together. */
import { useCallback, useMemo, useState } from 'react';
import { withGroups } from '@/core/panel/arrange.ts';
import type { Element } from '@/core/project/entities.ts';
import { selectTag } from '../../live/selection.ts';

export interface Chosen {
  readonly ids: readonly string[];
  readonly elements: readonly Element[];
  readonly has: (id: string) => boolean;
  readonly choose: (ids: readonly string[]) => void;
  /** Those that are on their way are chosen as soon as they are there; null where they do not come. */
  readonly expect: (ids: readonly string[] | null) => void;
  /** One more, or one less. */
  readonly toggle: (id: string) => void;
}

export function useChosen(elements: readonly Element[]): Chosen {
  const [ids, setIds] = useState<readonly string[]>([]);
  const [coming, setComing] = useState<readonly string[] | null>(null);
  const choose = useCallback(
    (next: readonly string[]) => {
      const all = withGroups(elements, next);
      setComing(null);
      setIds((known) => (known.length === all.length && known.every((id, i) => id === all[i]) ? known : all));
      const one = all.length === 1 ? elements.find(({ id }) => id === all[0]) : undefined;
      if (one?.tagId) selectTag(one.tagId);
    },
    [elements],
  );
  return useMemo(() => {
    const byId = new Map(elements.map((element) => [element.id, element]));
    const isThere = coming?.every((id) => byId.has(id)) === true;
    const there = (isThere ? coming : ids).filter((id) => byId.has(id));
    const set = new Set(there);
    return {
      ids: there,
      elements: there.flatMap((id) => byId.get(id) ?? []),
      has: (id) => set.has(id),
      choose,
      expect: setComing,
      toggle: (id) => {
        const together = new Set(withGroups(elements, [id]));
        choose(set.has(id) ? there.filter((one) => !together.has(one)) : [...there, id]);
      },
    };
  }, [elements, ids, coming, choose]);
}
