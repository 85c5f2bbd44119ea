'use client';
/** A whole number within bounds, kept when its field is left. */
import { useState } from 'react';
import { toast } from 'sonner';

interface NumberFieldProps {
  readonly label: string;
  readonly help?: string | undefined;
  readonly value: number | null;
  readonly min: number;
  readonly max: number;
  readonly onKeep: (value: number | undefined) => void;
}

export function NumberField({ label, help, value, min, max, onKeep }: NumberFieldProps) {
  const [text, setText] = useState<string | null>(null);
  const number = text === null || text.trim() === '' ? null : Number(text);
  const isWrong = text !== null && text.trim() !== '' && (number === null || !Number.isInteger(number) || number < min || number > max);
  return (
    <label className="flex min-w-0 flex-col gap-0.5 text-xs font-semibold">
      {label}
      <input
        className={`input input-sm num w-full ${isWrong ? 'input-error' : ''}`}
        inputMode="numeric"
        title={help ?? `${min} to ${max}`}
        value={text ?? (value === null ? '' : String(value))}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (isWrong) toast.error(`${label}: a whole number from ${min} to ${max}.`);
          else if (text !== null && number !== value) onKeep(number ?? undefined);
          setText(null);
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key === 'Escape') setText(null);
        }}
      />
    </label>
  );
}
