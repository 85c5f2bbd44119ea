'use client';
/** Takes one file: dropped, or chosen. */
import { FileUp } from 'lucide-react';
import { useState } from 'react';

interface FileDropProps {
  /** For screen readers, and shown while nothing is chosen. */
  readonly label: string;
  readonly ask: string;
  readonly accept: string;
  readonly chosen: string | null;
  readonly onFile: (file: File) => void;
}

export function FileDrop({ label, ask, accept, chosen, onFile }: FileDropProps) {
  const [over, setOver] = useState(false);
  return (
    <label
      className={`hairline flex h-8 cursor-pointer items-center gap-2 rounded border-dashed px-4 ${over ? 'border-primary bg-base-100' : ''}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) onFile(file);
      }}
    >
      <FileUp size={16} aria-hidden className="text-primary" />
      <span className="max-w-80 truncate">{chosen ?? ask}</span>
      <input
        type="file"
        accept={accept}
        className="sr-only"
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) onFile(file);
          e.target.value = '';
        }}
      />
    </label>
  );
}
