'use client';
/** Pictures of the project: brought in, renamed, put in the place of each other, removed. */
import { useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { MOST_PICTURE_BYTES, type TakenPicture } from '@/core/picture/picture.ts';
import type { Picture } from '@/core/project/entities.ts';
import { freeName } from '@/core/project/freeName.ts';
import { sendFile } from '../../live/api.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FileDrop } from '../../parts/FileDrop.tsx';
import { keptField } from '../../parts/keptField.ts';
import { pictureAddress } from '../drawings/picture.tsx';
import { usesOfPicture } from './elementUses.ts';

interface PicturesDialogProps {
  readonly first: string | null;
  /** A picture that was brought in is taken at once. */
  readonly onTaken: (id: string) => void;
  readonly onClose: () => void;
}

export function PicturesDialog({ first, onTaken, onClose }: PicturesDialogProps) {
  const project = useProject();
  const change = useChange();
  const [chosen, setChosen] = useState(first);
  const [isBusy, setBusy] = useState(false);
  const { pictures } = project;
  const picture = pictures.find(({ id }) => id === chosen) ?? pictures[0] ?? null;
  /** @param replaced null for a new one */
  const bring = async (file: File, replaced: Picture | null): Promise<void> => {
    setBusy(true);
    const taken = await takePicture(file);
    setBusy(false);
    if (!taken) return;
    const { removed, ...facts } = taken;
    const id = replaced?.id ?? uuid();
    const name =
      replaced?.name ??
      freeName(
        file.name
          .replace(/\.\w+$/, '')
          .trim()
          .slice(0, 70) || 'Picture',
        pictures,
      );
    const done = await change(`picture ${name} ${replaced ? 'replaced' : 'brought in'}`, [{ kind: 'picture', id, set: { name, ...facts } }]);
    if (!done.ok) return;
    setChosen(id);
    if (removed.length > 0)
      toast(`Taken out of ${name}: ${removed.join(', ')}.`, { description: 'A picture only draws. Look whether anything is missing.' });
    if (!replaced) onTaken(id);
  };
  return (
    <Dialog title="Pictures" onClose={onClose} wide>
      <p className="quiet mb-3">
        PNG and SVG for the pages of this project. What an SVG holds beside its drawing, such as scripts and links, is taken out.
      </p>
      <div className="flex gap-4">
        <div className="flex w-60 shrink-0 flex-col gap-2">
          <FileDrop
            label="Bring a picture in"
            ask={isBusy ? 'Reading …' : 'Drop or choose one'}
            accept=".png,.svg"
            chosen={null}
            onFile={(file) => void bring(file, null)}
          />
          <ul className="flex max-h-80 flex-col gap-1 overflow-y-auto" aria-label="Pictures">
            {pictures.map(({ id, name }) => (
              <li key={id}>
                <button
                  type="button"
                  className={`btn btn-sm w-full justify-start ${id === picture?.id ? 'btn-primary' : 'btn-ghost'}`}
                  onClick={() => setChosen(id)}
                >
                  <span className="truncate">{name}</span>
                </button>
              </li>
            ))}
          </ul>
        </div>
        {picture ? (
          <ChosenPicture key={picture.id} picture={picture} onReplace={(file) => void bring(file, picture)} />
        ) : (
          <p className="quiet">No picture yet.</p>
        )}
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

function ChosenPicture({ picture, onReplace }: { readonly picture: Picture; readonly onReplace: (file: File) => void }) {
  const project = useProject();
  const change = useChange();
  const { id, name, digest, width, height, type, size } = picture;
  return (
    <div className="flex min-w-0 flex-1 flex-col gap-3">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        Name
        <input
          key={name}
          className="input input-sm"
          maxLength={80}
          {...keptField(name, (next) => change(`picture renamed to ${next}`, [{ kind: 'picture', id, set: { name: next } }]), true)}
        />
      </label>
      <div className="hairline bg-base-200 grid h-56 place-items-center overflow-hidden rounded p-2">
        <img src={pictureAddress(id, digest)} alt={name} className="max-h-full max-w-full object-contain" />
      </div>
      <p className="quiet text-xs">
        {type.toUpperCase()}, {width} × {height} pixels, {size < 1000 ? `${size} bytes` : `${Math.round(size / 1000)} kB`}. Used by{' '}
        {counted(usesOfPicture(project, id), 'element')}.
      </p>
      <div className="flex items-center gap-3">
        <FileDrop label={`Put another file in the place of ${name}`} ask="Replace its file" accept=".png,.svg" chosen={null} onFile={onReplace} />
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          onClick={() => void change(`picture ${name} removed`, [{ kind: 'picture', id, set: null }])}
        >
          Remove the picture
        </button>
      </div>
    </div>
  );
}

/** Null where it was refused, which is told. */
export async function takePicture(file: File): Promise<TakenPicture | null> {
  if (file.size > MOST_PICTURE_BYTES) {
    toast.error(`${file.name} is too large for a picture.`, {
      description: `At most ${MOST_PICTURE_BYTES / 1_000_000} MB are taken; save it smaller.`,
    });
    return null;
  }
  const taken = await sendFile<TakenPicture>('/pictures', file);
  if (taken.ok) return taken.value;
  toast.error(taken.problem.message, { description: taken.problem.remedy });
  return null;
}
