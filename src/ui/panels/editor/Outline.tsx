'use client';
/** All elements of the page, from the highest to the lowest, with a search. */
import { Lock } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { byHeight } from '@/core/panel/scene.ts';
import type { Element } from '@/core/project/entities.ts';
import { useProject } from '../../live/LiveContext.tsx';
import type { Chosen } from './useChosen.ts';
import { nameOf } from './useEdit.ts';

const ROW_PX = 28;

export function Outline({ elements, chosen }: { readonly elements: readonly Element[]; readonly chosen: Chosen }) {
  const project = useProject();
  const [text, setText] = useState('');
  const wanted = useDeferredValue(text.trim().toLowerCase());
  const list = useRef<HTMLDivElement>(null);
  const named = [...elements].sort((a, b) => byHeight(b, a)).map((element) => ({ element, name: nameOf(element, (id) => project.tag(id)?.name) }));
  const found = named.filter(
    ({ element, name }) =>
      wanted === '' || `${name} ${ELEMENTS[element.kind].name} ${project.tag(element.tagId ?? '')?.name ?? ''}`.toLowerCase().includes(wanted),
  );
  // eslint-disable-next-line react-hooks/incompatible-library -- its rows are drawn here and nowhere else
  const rows = useVirtualizer({ count: found.length, getScrollElement: () => list.current, estimateSize: () => ROW_PX, overscan: 6 });
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <input
        className="input input-sm"
        aria-label="Find an element"
        placeholder="Find by name, kind or tag"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <p className="quiet text-xs">
        {found.length === elements.length ? `${elements.length} elements, the highest first` : `${found.length} of ${elements.length}`}
      </p>
      <div ref={list} className="min-h-0 flex-1 overflow-auto" role="listbox" aria-label="Elements of the page" aria-multiselectable>
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const row = found[index];
            if (!row) return null;
            const { element, name } = row;
            return (
              <button
                key={element.id}
                type="button"
                role="option"
                aria-selected={chosen.has(element.id)}
                className={`absolute inset-x-0 flex items-center gap-2 rounded px-2 text-left text-[13px] ${chosen.has(element.id) ? 'bg-base-300 font-semibold' : 'hover:bg-base-200'}`}
                style={{ top: start, height: ROW_PX }}
                onClick={(e) => (e.shiftKey || e.ctrlKey || e.metaKey ? chosen.toggle(element.id) : chosen.choose([element.id]))}
              >
                <span className="truncate">{name}</span>
                <span className="quiet ml-auto shrink-0 text-xs font-normal">{ELEMENTS[element.kind].name}</span>
                {element.isLocked ? <Lock size={11} aria-label="locked" /> : null}
              </button>
            );
          })}
        </div>
      </div>
    </div>
  );
}
