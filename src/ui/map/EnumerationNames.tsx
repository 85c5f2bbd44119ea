'use client';
/** The names of an enumeration's values. Every change is kept at once, and followed by its tags. */
import { Plus, X } from 'lucide-react';
import { useMemo } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import type { Enumeration } from '@/core/project/entities.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { checkNames, formatNames, type ValueNames } from '@/core/value/valueNames.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { KeptText } from '../parts/KeptText.tsx';

export function EnumerationNames({ enumeration }: { readonly enumeration: Enumeration }) {
  const project = useProject();
  const change = useChange();
  const { id, name, names } = enumeration;
  const tags = useMemo(() => [...project.allTags()].filter((tag) => tag.enumerationId === id), [project, id]);
  const own = tags.filter((tag) => !sameJson(tag.names, names));
  const keep = (what: string, changed: ValueNames): unknown => {
    const checked = checkNames(changed);
    if (checked.ok) return change(`${what} of ${name}`, [{ kind: 'enumeration', id, set: { names: checked.value }, was: { names } }]);
    return toast.error(checked.problem.message, { description: checked.problem.remedy });
  };
  const setValue = (at: number, text: string): unknown => {
    const value = Number(text);
    if (text === '' || !Number.isSafeInteger(value)) return toast.error(`“${text}” is no whole number.`);
    return keep(
      `value ${names[at]?.value} changed`,
      names.map((n, i) => (i === at ? { ...n, value } : n)),
    );
  };
  const add = (): unknown => {
    const value = names.reduce((most, n) => Math.max(most, n.value + 1), 0);
    return keep(`value ${value} added`, [...names, { value, name: `State ${value}` }]);
  };
  const follow = (): void =>
    void change(
      `${counted(own.length, 'tag')} follow ${name} again`,
      own.map((tag) => ({ kind: 'tag' as const, id: tag.id, set: { names } })),
    );
  return (
    <>
      <p className="quiet mb-2 flex items-center gap-3 text-[13px]">
        <span>
          {tags.length === 0
            ? 'No tag has its names now.'
            : `${counted(tags.length, 'tag')}: ${tags
                .slice(0, 6)
                .map((tag) => tag.name)
                .join(', ')}${tags.length > 6 ? ' …' : ''}`}
        </span>
        {own.length > 0 ? (
          <button
            type="button"
            className="btn btn-xs btn-outline"
            title={`${own
              .slice(0, 4)
              .map((tag) => `${tag.name}: ${formatNames(tag.names) || 'none'}`)
              .join('\n')}\nPress to have them follow again.`}
            onClick={follow}
          >
            {own.length} with names of their own
          </button>
        ) : null}
      </p>
      <div role="table" aria-label={`Values of ${name}`} className="max-h-[50vh] w-96 overflow-y-auto text-[13px]">
        <div role="row" className="border-base-300 grid grid-cols-[6rem_minmax(0,1fr)_2rem] gap-2 border-b pb-1 font-semibold">
          <span role="columnheader">Value</span>
          <span role="columnheader">Name</span>
          <span role="columnheader" aria-label="Remove" />
        </div>
        {names.map((entry, at) => (
          <div role="row" key={entry.value} className="border-base-300 grid grid-cols-[6rem_minmax(0,1fr)_2rem] items-center gap-2 border-b py-1">
            <KeptText label={`Value of ${entry.name}`} value={String(entry.value)} onKeep={(text) => setValue(at, text)} mono />
            <KeptText
              label={`Name of ${entry.value}`}
              value={entry.name}
              onKeep={(text) =>
                keep(
                  `the name of ${entry.value}`,
                  names.map((n, i) => (i === at ? { ...n, name: text } : n)),
                )
              }
            />
            <button
              type="button"
              className="btn btn-xs btn-ghost btn-square"
              aria-label={`Remove ${entry.value}`}
              onClick={() =>
                keep(
                  `value ${entry.value} removed`,
                  names.filter((_n, i) => i !== at),
                )
              }
            >
              <X size={13} aria-hidden />
            </button>
          </div>
        ))}
      </div>
      <button type="button" className="btn btn-xs btn-outline mt-2" onClick={add}>
        <Plus size={13} aria-hidden /> Value
      </button>
    </>
  );
}
