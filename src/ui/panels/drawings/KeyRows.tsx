'use client';
/** Keys on the glass, large enough for a finger. */
import type { ReactNode } from 'react';

export function numberRows(isHex: boolean): readonly (readonly string[])[] {
  const rows = [
    ['7', '8', '9', '⌫'],
    ['4', '5', '6', 'C'],
    ['1', '2', '3', '±'],
    ['0', '.'],
  ];
  // Small, so that none of them is the key that clears.
  return isHex ? [[...'abcdef'], ...rows.slice(0, 3), ['0']] : rows;
}

export function letterRows(isShifted: boolean): readonly (readonly string[])[] {
  const rows = ['1234567890', 'qwertyuiop', 'asdfghjkl-', 'zxcvbnm._/'].map((row) => [...(isShifted ? row.toUpperCase() : row)]);
  return [...rows, ['⇧', 'space', '⌫', 'C']];
}

const NAMES: Readonly<Record<string, string>> = { '⌫': 'Delete the last character', C: 'Clear', '±': 'Sign', '⇧': 'Capital letters', '.': 'Point' };

interface KeyRowsProps {
  readonly rows: readonly (readonly string[])[];
  readonly onKey: (key: string) => void;
  readonly icons: Readonly<Record<string, ReactNode>>;
}

export function KeyRows({ rows, onKey, icons }: KeyRowsProps) {
  return (
    <div className="flex flex-col gap-1.5" role="group" aria-label="Keys">
      {rows.map((row, i) => (
        <div key={i} className="flex gap-1.5">
          {row.map((key) => (
            <button
              key={key}
              type="button"
              tabIndex={-1}
              className={`btn num h-12 min-w-0 px-0 text-lg ${key === 'space' ? 'flex-[4]' : 'flex-1'}`}
              aria-label={NAMES[key] ?? (key === 'space' ? 'Space' : key)}
              onClick={() => onKey(key)}
            >
              {icons[key] ?? (key === 'space' ? '␣' : key)}
            </button>
          ))}
        </div>
      ))}
    </div>
  );
}
