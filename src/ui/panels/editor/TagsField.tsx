'use client';
/** Tags that an element lists, in their order. */
import { ArrowUp, Trash2 } from 'lucide-react';
import { MOST_TAGS } from '@/core/panel/setting.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { nextTag } from './nextTag.ts';
import { TagPicker } from '../../parts/TagPicker.tsx';

interface TagsFieldProps {
  readonly label: string;
  readonly ids: readonly string[];
  readonly onKeep: (ids: readonly string[]) => void;
}

export function TagsField({ label, ids, onKeep }: TagsFieldProps) {
  const project = useProject();
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="text-xs font-semibold">
        {label} · {ids.length}
      </legend>
      <ol className="max-h-40 overflow-auto">
        {ids.map((id, i) => (
          <li key={i} className="flex items-center gap-1 text-[13px]">
            <span className="quiet num w-6 text-right text-xs">{i + 1}</span>
            <span className={`flex-1 truncate ${project.tag(id) ? '' : 'is-bad'}`}>{project.tag(id)?.name ?? '✕ a tag that is gone'}</span>
            {i > 0 ? (
              <button
                type="button"
                className="btn btn-xs btn-ghost btn-square"
                aria-label={`Tag ${i + 1} earlier`}
                onClick={() => onKeep(ids.map((one, at) => (at === i - 1 ? id : at === i ? (ids[i - 1] ?? one) : one)))}
              >
                <ArrowUp size={13} aria-hidden />
              </button>
            ) : null}
            <button
              type="button"
              className="btn btn-xs btn-ghost btn-square"
              aria-label={`Remove tag ${i + 1}`}
              onClick={() => onKeep(ids.filter((_, at) => at !== i))}
            >
              <Trash2 size={13} aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      <CountOn ids={ids} onKeep={onKeep} />
      {ids.length < MOST_TAGS ? (
        <TagPicker key={ids.length} value={null} label={`Add to ${label.toLowerCase()}`} onPick={(tag) => onKeep([...ids, tag.id])} />
      ) : null}
    </fieldset>
  );
}

/** Adds the tags whose names count on from the last: the elements of an array, texts laid out one after the other. */
function CountOn({ ids, onKeep }: Pick<TagsFieldProps, 'ids' | 'onKeep'>) {
  const project = useProject();
  const last = ids.at(-1);
  const more: string[] = [];
  for (let next = last === undefined ? null : nextTag(project, last, 1); next !== null && ids.length + more.length < MOST_TAGS;) {
    if (ids.includes(next) || more.includes(next)) break;
    more.push(next);
    next = nextTag(project, next, 1);
  }
  return more.length === 0 ? null : (
    <button type="button" className="btn btn-xs self-start" onClick={() => onKeep([...ids, ...more])}>
      Add the {more.length} that count on
    </button>
  );
}
