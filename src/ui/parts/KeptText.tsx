'use client';
/** A text that is kept when it is left or Enter is pressed, and put back by Escape; so is one that was refused. */
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
  /** Settles once it is known whether it was taken: then the value is another one. */
  readonly onKeep: (text: string) => unknown;
}) {
  const keep = async (input: HTMLInputElement): Promise<void> => {
    const text = input.value.trim();
    if (text === value) return;
    await onKeep(text);
    // Another value would have another field by now.
    if (input.isConnected) input.value = value;
  };
  return (
    <span role="cell" className="min-w-0 flex-1">
      <input
        key={value}
        aria-label={label}
        defaultValue={value}
        placeholder={placeholder}
        className={`input input-xs w-full min-w-0 ${mono ? 'num' : ''}`}
        onBlur={(e) => void keep(e.target)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key !== 'Escape' || e.currentTarget.value === value) return;
          e.preventDefault();
          e.currentTarget.value = value;
          e.currentTarget.blur();
        }}
      />
    </span>
  );
}
