'use client';
/** Where nothing may be set: which mistakes the values that a tag has had by itself would have shown, since somebody watches it. */
import { useState } from 'react';
import { notRuledOut } from '@/core/check/explained.ts';
import { mistakesOf } from '@/core/check/mistakes/mistakeSpace.ts';
import { wayOf, wireOf, type Sight } from '@/core/check/mistakes/way.ts';
import { wireFromJson } from '@/core/live/wireJson.ts';
import type { Tag } from '@/core/project/entities.ts';
import { cellsOf } from '@/mapping/cells.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { useTagView } from '../live/liveHooks.ts';

/** Values that differ, of which no more are needed. */
const MOST_SEEN = 60;
const NAMED = 4;

export function SeenSoFar({ tag, signal }: { readonly tag: Tag; readonly signal: EffectiveSignal }) {
  const view = useTagView(tag.id);
  const [seen, setSeen] = useState<ReadonlyMap<string, Sight>>(new Map());
  const fresh = (view?.level === 'bad' ? [] : (view?.recent ?? [])).filter((wire) => !seen.has(JSON.stringify(wire)));
  if (fresh.length > 0 && seen.size < MOST_SEEN)
    setSeen(new Map([...seen, ...fresh.map((wire): [string, Sight] => [JSON.stringify(wire), { wire: wireFromJson(wire), around: null }])]));
  const sights = [...seen.values()];
  const [first] = sights;
  if (!first) return null;
  const { def } = signal;
  // What lies beside the value was not seen.
  const candidates = mistakesOf(wayOf(def), cellsOf(signal))
    .flat()
    .filter(({ way }) => wireOf(way, first) !== null)
    .map(({ mistake, way }) => ({ mistakes: [mistake], way, cost: mistake.cost }));
  if (candidates.length === 0) return null;
  const open = notRuledOut(
    def,
    candidates,
    sights.map((sight) => ({ sight, seen: { kind: 'nothing' } })),
  );
  const told = candidates.length - open.length;
  return (
    <p className="quiet" data-seen-so-far>
      Watched: it has had {sights.length === 1 ? 'one value' : `${sights.length} values`}, at which {told} of the {candidates.length} mistakes of its
      own bytes would have shown another number
      {open.length === 0 ? '.' : `; not yet: ${open.slice(0, NAMED).join('; ')}${open.length > NAMED ? ` and ${open.length - NAMED} more` : ''}.`}
    </p>
  );
}
