'use client';
/** Takes a photo of a finding: with the camera of a phone, from a file at the desk. */
import { Camera } from 'lucide-react';
import { useRef, useState } from 'react';
import { smallPhoto } from './smallPhoto.ts';

interface PhotoButtonProps {
  readonly isOff: boolean;
  readonly className: string;
  readonly onTaken: (photo: Blob) => Promise<string | null>;
}

/** @param props.onTaken keeps it; says why it could not be kept, null when it was */
export function PhotoButton({ isOff, className, onTaken }: PhotoButtonProps) {
  const field = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState('');
  const [isBusy, setIsBusy] = useState(false);
  const take = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setIsBusy(true);
    const small = await smallPhoto(file);
    setProblem(small === null ? `${file.name} is no picture that this browser can read.` : ((await onTaken(small)) ?? ''));
    setIsBusy(false);
    if (field.current) field.current.value = '';
  };
  return (
    <>
      <button type="button" className={className} disabled={isOff || isBusy} onClick={() => field.current?.click()}>
        <Camera size={15} aria-hidden /> Photo
      </button>
      <input
        ref={field}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label="Photo of what is seen"
        className="hidden"
        onChange={(e) => void take(e.target.files?.[0])}
      />
      {problem === '' ? null : (
        <span role="alert" className="is-bad">
          {problem}
        </span>
      )}
    </>
  );
}

export function Photos({ digests }: { readonly digests: readonly string[] }) {
  if (digests.length === 0) return null;
  return (
    <p className="flex flex-wrap gap-2" data-photos>
      {digests.map((digest, i) => (
        <a key={digest} href={`/api/v1/checks/photos/${digest}`} target="_blank" rel="noreferrer">
          <img src={`/api/v1/checks/photos/${digest}`} alt={`Photo ${i + 1}`} className="hairline h-16 rounded object-cover" />
        </a>
      ))}
    </p>
  );
}
