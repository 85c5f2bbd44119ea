'use client';
/** Corners of a line or pipe: as numbers, and by the usual shapes. */
import { useState } from 'react';
import { MOST_POINTS, type Point } from '@/core/panel/setting.ts';

const SHAPES: Readonly<Record<string, readonly Point[]>> = {
  '—': [
    { x: 0, y: 500 },
    { x: 1000, y: 500 },
  ],
  '|': [
    { x: 500, y: 0 },
    { x: 500, y: 1000 },
  ],
  '⌐': [
    { x: 0, y: 1000 },
    { x: 0, y: 0 },
    { x: 1000, y: 0 },
  ],
  '¬': [
    { x: 0, y: 0 },
    { x: 1000, y: 0 },
    { x: 1000, y: 1000 },
  ],
  '└': [
    { x: 0, y: 0 },
    { x: 0, y: 1000 },
    { x: 1000, y: 1000 },
  ],
  '┘': [
    { x: 0, y: 1000 },
    { x: 1000, y: 1000 },
    { x: 1000, y: 0 },
  ],
  Z: [
    { x: 0, y: 0 },
    { x: 500, y: 0 },
    { x: 500, y: 1000 },
    { x: 1000, y: 1000 },
  ],
};

export function PointsField({
  label,
  help,
  points,
  onKeep,
}: {
  readonly label: string;
  readonly help?: string | undefined;
  readonly points: readonly Point[];
  readonly onKeep: (points: readonly Point[]) => void;
}) {
  const shown = points.map(({ x, y }) => `${x},${y}`).join('  ');
  const [text, setText] = useState<string | null>(null);
  const read = text === null ? null : readPoints(text);
  return (
    <div className="flex flex-col gap-1">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        {label}
        <input
          className={`input input-sm num ${text !== null && read === null ? 'input-error' : ''}`}
          title={help}
          value={text ?? shown}
          onChange={(e) => setText(e.target.value)}
          onBlur={() => {
            if (read) onKeep(read);
            setText(null);
          }}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
      </label>
      <div className="flex gap-1">
        {Object.entries(SHAPES).map(([name, shape]) => (
          <button key={name} type="button" className="btn btn-xs num" aria-label={`Corners like ${name}`} onClick={() => onKeep(shape)}>
            {name}
          </button>
        ))}
      </div>
    </div>
  );
}

/** `0,500 1000,500`; null for what is none. */
function readPoints(text: string): readonly Point[] | null {
  const pairs = text.trim().split(/\s+/);
  const points = pairs
    .map((pair) => /^(\d{1,4})[,;](\d{1,4})$/.exec(pair))
    .map((match) => (match ? { x: Number(match[1]), y: Number(match[2]) } : null));
  const good = points.filter((point): point is Point => point !== null && point.x <= 1000 && point.y <= 1000);
  return good.length === pairs.length && good.length >= 2 && good.length <= MOST_POINTS ? good : null;
}
