'use client';
import { settingsOf } from '@/core/panel/kinds.ts';
import { SYMBOLS } from '@/core/panel/symbols.ts';
import { lookColour, type DrawingProps } from './drawing.ts';
import { StateLine } from './parts.tsx';
import { SYMBOL_SHAPES } from './symbolShapes.tsx';
import { useInState } from './useInState.ts';

const TURN = { none: 0, right: 90, half: 180, left: 270 } as const;

/** The state of a machine: filled, hollow, half or crossed, and in a word below it. It shows the device, not the command to it. */
export function SymbolDrawing({ element, drawn, w, h }: DrawingProps) {
  const { symbol: own, turn, mirrored, word } = settingsOf('symbol', element);
  const { state, look, text } = useInState(element, drawn);
  const hasTag = element.tagId !== null || element.settings.of !== undefined;
  const symbol = state?.symbol ?? own;
  const shape = SYMBOL_SHAPES[symbol];
  const isWorded = word && hasTag && h >= 48;
  const colour = !hasTag ? 'var(--color-base-content)' : look === null ? 'var(--color-secondary)' : lookColour(look);
  const isSolid = hasTag && (look === 'on' || look === 'bad');
  const label = element.label || SYMBOLS[symbol];
  return (
    <div className="flex h-full w-full flex-col items-center overflow-hidden" data-look={look ?? 'none'} data-symbol={symbol}>
      {element.label === '' || h < 64 ? null : <span className="quiet max-w-full truncate text-[13px] leading-tight">{element.label}</span>}
      <svg viewBox="0 0 64 64" className="min-h-0 w-full flex-1" role="img" aria-label={hasTag ? `${label}: ${text}` : label}>
        <g
          transform={`rotate(${TURN[turn]} 32 32)${mirrored ? ' translate(64 0) scale(-1 1)' : ''}`}
          stroke={colour}
          strokeWidth={2.2}
          strokeLinejoin="round"
          strokeLinecap="round"
        >
          <g
            fill={isSolid ? colour : 'var(--color-base-100)'}
            fillOpacity={isSolid ? 0.35 : 1}
            strokeDasharray={hasTag && look === null ? '4 3' : undefined}
          >
            {shape.body}
          </g>
          <g fill="none">{shape.lines}</g>
        </g>
      </svg>
      {hasTag ? <StateLine element={element} w={w} h={h} drawn={drawn} look={look} text={text} isWorded={isWorded} /> : null}
    </div>
  );
}
