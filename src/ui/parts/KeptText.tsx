'use client';
/** A text that is kept when it is left or Enter is pressed, and put back by Escape. */
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
  readonly onKeep: (text: string) => void;
}) {
  return (
    <span role="cell" className="min-w-0 flex-1">
      <input
        key={value}
        aria-label={label}
        defaultValue={value}
        placeholder={placeholder}
        className={`input input-xs w-full min-w-0 ${mono ? 'num' : ''}`}
        onBlur={(e) => e.target.value.trim() !== value && onKeep(e.target.value.trim())}
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
