'use client';
/** Gives a shared scale to many tags at once: those found, or those of them that are ticked. */
import { useDeferredValue, useMemo, useState } from 'react';
import { counted } from '@/core/counted.ts';
import type { SharedScale } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { scalePhrase } from '@/core/scaling/scale.ts';
import { isNumberType } from '@/core/value/dataType.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { matching } from '../live/tagSearch.ts';

const SHOWN = 60;
const MOST = 5000;

export function GiveScale({ shared }: { readonly shared: SharedScale }) {
  const project = useProject();
  const change = useChange();
  const [text, setText] = useState('');
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const searched = useDeferredValue(text);
  const found = useMemo(
    () =>
      searched.trim() === ''
        ? []
        : matching(project, searched, (tag) => isNumberType(tag.type) && project.scale(tag.id)?.sharedId !== shared.id, MOST),
    [project, searched, shared.id],
  );
  const chosen = found.filter(({ id }) => !left.has(id));
  const give = async (): Promise<void> => {
    const done = await change(
      `${shared.name} given to ${counted(chosen.length, 'tag')}`,
      chosen.map(({ id }) => ({ kind: 'scale' as const, id, set: { scale: shared.scale, sharedId: shared.id } })),
    );
    if (done.ok) {
      setText('');
      setLeft(new Set());
    }
  };
  return (
    <section aria-label="Give it to tags" className="card-flat p-4">
      <h2 className="mb-1 font-semibold">Give it to tags</h2>
      <div className="flex items-center gap-2">
        <input
          className="input input-sm flex-1"
          aria-label="Tags to give it to"
          placeholder="Part of a name, address, group or comment"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setLeft(new Set());
          }}
        />
        <button type="button" className="btn btn-sm btn-primary" disabled={chosen.length === 0} onClick={() => void give()}>
          Give to {counted(chosen.length, 'tag')}
        </button>
      </div>
      {searched.trim() !== '' && found.length === 0 ? <p className="quiet mt-2">No number that does not have it yet is found by that.</p> : null}
      {found.length > 0 ? (
        <ul className="mt-2 max-h-72 overflow-y-auto text-[13px]">
          {found.slice(0, SHOWN).map((tag) => {
            const scale = project.scale(tag.id);
            return (
              <li key={tag.id}>
                <label className="flex items-center gap-2 py-0.5">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={!left.has(tag.id)}
                    onChange={(e) => {
                      const next = new Set(left);
                      if (e.target.checked) next.delete(tag.id);
                      else next.add(tag.id);
                      setLeft(next);
                    }}
                  />
                  <span className="truncate font-medium" title={project.pathOf(tag)}>
                    {tag.name}
                  </span>
                  <span className="num quiet text-xs whitespace-nowrap">
                    {project.deviceOf(tag)?.name} {tag.type} {addressOf(tag)}
                  </span>
                  <span className="quiet ml-auto truncate text-xs">{scale ? `instead of ${scalePhrase(scale.scale)}` : ''}</span>
                </label>
              </li>
            );
          })}
        </ul>
      ) : null}
      {found.length > SHOWN ? <p className="quiet mt-1 text-xs">and {found.length - SHOWN} more, given it too</p> : null}
    </section>
  );
}
