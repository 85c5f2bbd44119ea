'use client';
/** Which picture of the project is shown; a new one is brought in from here. */
import { useState } from 'react';
import { useProject } from '../../live/LiveContext.tsx';
import { PicturesDialog } from './PicturesDialog.tsx';

interface PictureFieldProps {
  readonly label: string;
  readonly value: string | null;
  readonly onKeep: (value: string | undefined) => void;
}

export function PictureField({ label, value, onKeep }: PictureFieldProps) {
  const [isOpen, setOpen] = useState(false);
  return (
    <div className="flex flex-col gap-1">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        {label}
        <PictureSelect className="select select-sm" none="none" value={value} onPick={(id) => onKeep(id ?? undefined)} />
      </label>
      <div className="flex gap-1">
        <button type="button" className="btn btn-xs btn-ghost" onClick={() => setOpen(true)}>
          Pictures …
        </button>
      </div>
      {isOpen ? <PicturesDialog first={value} onTaken={onKeep} onClose={() => setOpen(false)} /> : null}
    </div>
  );
}

interface PictureSelectProps {
  readonly className: string;
  /** What stands for none. */
  readonly none: string;
  readonly label?: string;
  readonly value: string | null;
  readonly onPick: (id: string | null) => void;
}

export function PictureSelect({ className, none, label, value, onPick }: PictureSelectProps) {
  const { pictures } = useProject();
  const isGone = value !== null && !pictures.some(({ id }) => id === value);
  return (
    <select className={className} aria-label={label} value={value ?? ''} onChange={(e) => onPick(e.target.value || null)}>
      <option value="">{none}</option>
      {isGone ? <option value={value}>a picture that is gone</option> : null}
      {pictures.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}
