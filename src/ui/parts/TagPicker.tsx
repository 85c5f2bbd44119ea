'use client';
/** Type-ahead over tags by name, address or comment; arrows and Enter choose. */
import { Search } from 'lucide-react';
import { useId, useMemo, useRef, useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { useProject } from '../live/LiveContext.tsx';
import { matching } from '../live/tagSearch.ts';

const SHOWN = 12;

export function TagPicker({
  value,
  onPick,
  only,
  label = 'Tag',
  onNew,
}: {
  readonly value: string | null;
  readonly onPick: (tag: Tag) => void;
  readonly only?: (tag: Tag) => boolean;
  readonly label?: string;
  /** Makes a tag of a name that is typed and that no tag has; without it none is made. */
  readonly onNew?: ((name: string) => void) | undefined;
}) {
  const project = useProject();
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const current = value === null ? null : project.tag(value);
  const found = useMemo(() => (text === null ? [] : matching(project, text, only, SHOWN)), [project, text, only]);
  const isNew =
    onNew !== undefined && text !== null && text.trim() !== '' && !found.some(({ name }) => name.toLowerCase() === text.trim().toLowerCase());
  const pick = (tag: Tag | undefined): void => {
    if (!tag) {
      if (isNew && text !== null) {
        onNew(text.trim());
        setText(null);
      }
      return;
    }
    onPick(tag);
    setText(null);
    // What is typed next takes the place of what was picked.
    requestAnimationFrame(() => input.current?.select());
  };
  return (
    <div className="relative min-w-56">
      <label className="input input-sm w-full" htmlFor={id}>
        <Search size={14} aria-hidden className="quiet" />
        <span className="sr-only">{label}</span>
        <input
          ref={input}
          id={id}
          role="combobox"
          aria-label={label}
          aria-expanded={found.length > 0 || isNew}
          aria-controls={`${id}-list`}
          aria-activedescendant={found[at] || isNew ? `${id}-${at}` : undefined}
          autoComplete="off"
          placeholder="Find a tag"
          value={text ?? current?.name ?? ''}
          onFocus={(e) => {
            setText('');
            setAt(0);
            e.target.select();
          }}
          onClick={() => {
            // A field that has the focus still is asked for another one.
            if (text === null) setText('');
          }}
          onBlur={() => setText(null)}
          onChange={(e) => {
            setText(e.target.value);
            setAt(0);
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - (isNew ? 0 : 1)));
            else if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
            else if (e.key === 'Enter') pick(found[at]);
            else if (e.key === 'Escape') e.currentTarget.blur();
            else return;
            e.preventDefault();
          }}
        />
      </label>
      {found.length > 0 || isNew ? (
        <ul id={`${id}-list`} role="listbox" aria-label={label} className="card-flat absolute z-30 mt-1 max-h-80 w-full min-w-80 overflow-auto py-1">
          {found.map((tag, i) => (
            <li
              key={tag.id}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              className={`flex cursor-pointer gap-3 px-3 py-1 ${i === at ? 'bg-base-200' : ''}`}
              onMouseDown={(e) => {
                e.preventDefault();
                pick(tag);
              }}
            >
              <span className="truncate font-medium">{tag.name}</span>
              <span className="num quiet ml-auto whitespace-nowrap">{addressOf(tag)}</span>
            </li>
          ))}
          {isNew ? (
            <li
              id={`${id}-${found.length}`}
              role="option"
              aria-selected={at >= found.length}
              className={`flex cursor-pointer gap-2 px-3 py-1 ${at >= found.length ? 'bg-base-200' : ''}`}
              onMouseDown={(e) => {
                e.preventDefault();
                pick(undefined);
              }}
            >
              Make the tag <strong className="truncate">{text.trim()}</strong>
            </li>
          ) : null}
        </ul>
      ) : null}
    </div>
  );
}
