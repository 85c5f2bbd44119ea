'use client';
/** A tag was dropped on the page: as which element shall it stand there? */
import { ELEMENTS, type ElementKind } from '@/core/panel/kinds.ts';
import type { Tag } from '@/core/project/entities.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { fittingFor } from './fitting.ts';

interface FittingChoiceProps {
  readonly tag: Tag;
  readonly onTake: (kind: ElementKind) => void;
  readonly onClose: () => void;
}

export function FittingChoice({ tag, onTake, onClose }: FittingChoiceProps) {
  return (
    <Dialog title={`${tag.name} on the page`} onClose={onClose}>
      <div className="flex flex-col gap-1">
        {fittingFor(tag).map((kind, i) => (
          <button
            key={kind}
            type="button"
            autoFocus={i === 0}
            className={`btn justify-start ${i === 0 ? 'btn-primary' : ''}`}
            onClick={() => {
              onTake(kind);
              onClose();
            }}
          >
            {ELEMENTS[kind].name} <span className="font-normal opacity-80">{ELEMENTS[kind].use}</span>
          </button>
        ))}
      </div>
    </Dialog>
  );
}
