'use client';
/** What can be put on the page, by what it is for. */
import { ELEMENTS, ELEMENT_KINDS, type ElementKind } from '@/core/panel/kinds.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { useSelectedTag } from '../../live/selection.ts';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { TAG_MIME } from './Canvas.tsx';
import { fittingFor, suits } from './fitting.ts';
import type { Edit } from './useEdit.ts';
import { selectTag } from '../../live/selection.ts';

const PARTS: readonly (readonly [string, readonly ElementKind[]])[] = [
  ['Shows a value', ELEMENT_KINDS.filter((kind) => !ELEMENTS[kind].isTouched && showsValues(kind))],
  ['Is operated', ELEMENT_KINDS.filter((kind) => ELEMENTS[kind].isTouched)],
  ['Is drawn', ELEMENT_KINDS.filter((kind) => !ELEMENTS[kind].isTouched && !showsValues(kind))],
];

/** Of a tag of its own, or of tags that it lists. */
function showsValues(kind: ElementKind): boolean {
  const { takes, settings, standsAlone } = ELEMENTS[kind];
  return (takes !== 'none' && !standsAlone) || Object.values(settings).some(({ control }) => control.kind === 'tags');
}

export function AddList({ edit }: { readonly edit: Edit }) {
  const project = useProject();
  const selected = useSelectedTag();
  const tag = selected === null ? null : project.tag(selected);
  return (
    <div className="flex flex-col gap-3" role="group" aria-label="Add to the page">
      <div className="flex flex-col gap-1">
        <span className="text-xs font-semibold">For the tag</span>
        <TagPicker value={tag?.id ?? null} label="Tag to put on the page" onPick={({ id }) => selectTag(id)} />
        {tag ? <Offered tag={tag} edit={edit} /> : <p className="quiet text-xs">Choose a tag, and the fitting elements are offered.</p>}
      </div>
      {PARTS.map(([title, kinds]) => (
        <div key={title} className="flex flex-col gap-1">
          <span className="text-xs font-semibold">{title}</span>
          <div className="flex flex-wrap gap-1">
            {kinds.map((kind) => (
              <button
                key={kind}
                type="button"
                className="btn btn-sm"
                title={`A ${ELEMENTS[kind].name.toLowerCase()} ${ELEMENTS[kind].use}`}
                onClick={() => void edit.add(kind, tag && suits(kind, tag) && PARTS[2]?.[1].includes(kind) !== true ? tag : null)}
              >
                {ELEMENTS[kind].name}
              </button>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

/** The tag itself can be dragged onto the page or onto an element. */
function Offered({ tag, edit }: { readonly tag: Tag; readonly edit: Edit }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      <span
        draggable
        className="num bg-base-100 hairline cursor-grab rounded px-2 py-1 text-xs"
        title="Drag it onto the page, or onto an element"
        onDragStart={(e) => {
          e.dataTransfer.setData(TAG_MIME, tag.id);
          e.dataTransfer.effectAllowed = 'copyLink';
        }}
      >
        ⠿ {tag.name}
      </span>
      {fittingFor(tag)
        .slice(0, 4)
        .map((kind) => (
          <button
            key={kind}
            type="button"
            className="btn btn-xs btn-primary btn-outline"
            aria-label={`Put ${tag.name} on the page as ${ELEMENTS[kind].name.toLowerCase()}`}
            onClick={() => void edit.add(kind, tag)}
          >
            {ELEMENTS[kind].name}
          </button>
        ))}
    </div>
  );
}
