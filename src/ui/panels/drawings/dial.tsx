'use client';
import { ticks as niceTicks } from 'd3-array';
import { settingsOf } from '@/core/panel/kinds.ts';
import { partOf } from '@/core/panel/shownOn.ts';
import { frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf, Unit } from './parts.tsx';
import { bandOf, endText, useScaled } from './useEnds.ts';

const SWEEP = { half: 180, wide: 260 } as const;

export function DialDrawing({ element, drawn, w, h }: DrawingProps) {
  const settings = settingsOf('dial', element);
  const scaled = useScaled(drawn, settings);
  const { ends, lowBand, highBand, target } = scaled;
  const number = drawn.level === 'bad' ? null : (drawn.shown?.number ?? null);
  const sweep = SWEEP[settings.sweep];
  const at = (part: number, radius: number): string => {
    const angle = ((-90 - sweep / 2 + sweep * part) * Math.PI) / 180;
    return `${(50 + radius * Math.cos(angle)).toFixed(2)} ${(50 + radius * Math.sin(angle)).toFixed(2)}`;
  };
  const arc = (from: number, to: number, radius: number): string =>
    `M${at(from, radius)}A${radius} ${radius} 0 ${sweep * (to - from) > 180 ? 1 : 0} 1 ${at(to, radius)}`;
  const part = partOf(ends, number);
  const steps = niceTicks(ends.low, ends.high, Math.min(w, h) < 140 ? 4 : 6);
  const band = bandOf(scaled, number);
  const label = labelOf(element, drawn);
  return (
    <div className="flex h-full w-full min-w-0 flex-col items-center overflow-hidden py-1" style={frameOf(settings.frame, drawn.level, w)}>
      {label !== '' || drawn.level !== 'good' ? <Head label={label} drawn={drawn} isCentred={drawn.level === 'good'} /> : null}
      <svg viewBox={settings.sweep === 'half' ? '2 2 96 56' : '2 2 96 88'} className="min-h-0 w-full flex-1" aria-hidden>
        <path d={arc(0, 1, 42)} fill="none" stroke="var(--color-base-300)" strokeWidth={5} />
        {lowBand !== null && lowBand > ends.low ? (
          <path d={arc(0, partOf(ends, lowBand) ?? 0, 42)} fill="none" stroke="var(--color-warning)" strokeWidth={5} data-band="low" />
        ) : null}
        {highBand !== null && highBand < ends.high ? (
          <path d={arc(partOf(ends, highBand) ?? 1, 1, 42)} fill="none" stroke="var(--color-warning)" strokeWidth={5} data-band="high" />
        ) : null}
        {steps.map((step) => (
          <g key={step}>
            <path d={`M${at(partOf(ends, step) ?? 0, 39)}L${at(partOf(ends, step) ?? 0, 45)}`} stroke="var(--color-base-content)" strokeWidth={0.8} />
            <text
              x={at(partOf(ends, step) ?? 0, 31).split(' ')[0]}
              y={at(partOf(ends, step) ?? 0, 31).split(' ')[1]}
              fontSize={6.5}
              textAnchor="middle"
              dominantBaseline="middle"
              fill="var(--color-secondary)"
            >
              {endText(step)}
            </text>
          </g>
        ))}
        {target === null ? null : (
          <path
            d={`M${at(partOf(ends, target) ?? 0, 36)}L${at(partOf(ends, target) ?? 0, 48)}`}
            stroke="var(--color-accent)"
            strokeWidth={3}
            data-target
          />
        )}
        {part === null ? null : (
          <path
            d={`M50 50L${at(part, 37)}`}
            stroke={band === null ? 'var(--color-primary)' : 'var(--color-warning)'}
            strokeWidth={2.4}
            strokeLinecap="round"
            data-hand
          />
        )}
        <circle cx={50} cy={50} r={3.2} fill="var(--color-base-content)" />
      </svg>
      <span className="flex max-w-full min-w-0 items-baseline gap-2">
        <DrawnText element={element} w={w} h={h} drawn={drawn} />
        <Unit drawn={drawn} />
        {settings.bands === 'own' && band !== null ? <span className="is-look truncate text-[12px]">◑ {band}</span> : null}
      </span>
    </div>
  );
}
