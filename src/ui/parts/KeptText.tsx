'use client';
/** A text in a table that is kept when it is left or Enter is pressed. */
import { keptField } from './keptField.ts';

export function KeptText({
  label,
  value,
  placeholder,
  mono = false,
  onKeep,
}: {
  readonly label: string;
  readonly value: string;
  readonly placeholder?: string;
  readonly mono?: boolean;
  /** Settles once it is known whether it was taken. */
  readonly onKeep: (text: string) => unknown;
}) {
  return (
    <span role="cell" className="min-w-0 flex-1">
      <input
        key={value}
        aria-label={label}
        placeholder={placeholder}
        className={`input input-xs w-full min-w-0 ${mono ? 'num' : ''}`}
        {...keptField(value, onKeep)}
      />
    </span>
  );
}
