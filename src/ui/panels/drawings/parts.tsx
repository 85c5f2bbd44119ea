'use client';
/** Pieces of drawings: the label with the quality beside it, the text that checks compare, marks of states. */
import type { CSSProperties, ReactNode } from 'react';
import type { Look } from '@/core/panel/states.ts';
import { LimitMark } from '../../parts/StateMark.tsx';
import type { Drawn } from '../useValues.ts';
import { lookColour } from './drawing.ts';

export function labelOf(element: { readonly label: string }, drawn: Drawn): string {
  return element.label || drawn.tag?.name || '';
}

/** The label, and what is to be said of the value. */
export function Head({ label, drawn, isCentred = false }: { readonly label: string; readonly drawn: Drawn; readonly isCentred?: boolean }) {
  return (
    <span className={`quiet flex w-full min-w-0 items-baseline gap-2 text-[13px] leading-tight ${isCentred ? 'justify-center' : 'justify-between'}`}>
      <span className="truncate" title={label} dir="auto">
        {label}
      </span>
      <Doubt drawn={drawn} />
    </span>
  );
}

/** Nothing where the value is good. */
export function Doubt({ drawn }: { readonly drawn: Drawn }) {
  return (
    <>
      {drawn.level === 'good' ? null : (
        <span className={`shrink-0 text-[12px] ${drawn.level === 'bad' ? 'is-bad' : 'is-look'}`} title={drawn.why}>
          {drawn.level === 'bad' ? '✕ no value' : '◑ look'}
        </span>
      )}
      {drawn.view ? <LimitMark view={drawn.view} /> : null}
    </>
  );
}

interface DrawnTextProps {
  readonly elementId: string;
  readonly drawn: Drawn;
  readonly className?: string;
  readonly style?: CSSProperties;
}

/** Text, sample number and quality are drawn together, so that a check can compare them. */
export function DrawnText({ elementId, drawn, className = '', style }: DrawnTextProps) {
  return (
    <span className={`truncate ${className}`} style={style} data-drawn data-element={elementId} data-sample={drawn.view?.sample?.n ?? 0} dir="auto">
      {drawn.text}
    </span>
  );
}

interface StateLineProps extends Pick<DrawnTextProps, 'elementId' | 'drawn'> {
  readonly look: Look | null;
  readonly text: string;
  readonly isWorded: boolean;
}

/** Below what is drawn: its state by mark and word, and what is to be said of the value. */
export function StateLine({ elementId, drawn, look, text, isWorded }: StateLineProps) {
  return (
    <>
      {isWorded ? (
        <span className="flex max-w-full items-center gap-1 leading-tight">
          <LookMark look={look} size={11} />
          <DrawnText elementId={elementId} drawn={{ ...drawn, text }} className="text-[13px] font-semibold" />
        </span>
      ) : null}
      {drawn.level === 'good' ? null : (
        <span className="flex gap-1">
          <Doubt drawn={drawn} />
        </span>
      )}
    </>
  );
}

export function Unit({ drawn }: { readonly drawn: Drawn }) {
  return drawn.unit !== '' && drawn.shown && drawn.level !== 'bad' && !drawn.shown.isState ? (
    <span className="quiet text-[14px]">{drawn.unit}</span>
  ) : null;
}

/** Each look has a shape of its own: full, empty, half, crossed. */
export function LookMark({ look, size, isSquare = false }: { readonly look: Look | null; readonly size: number; readonly isSquare?: boolean }) {
  const colour = look === null ? 'var(--color-base-300)' : lookColour(look);
  const shape = (props: object): ReactNode =>
    isSquare ? <rect x={2} y={2} width={20} height={20} rx={3} {...props} /> : <circle cx={12} cy={12} r={10} {...props} />;
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden className="shrink-0">
      {shape({ fill: look === 'on' ? colour : 'none', stroke: colour, strokeWidth: 2.5, strokeDasharray: look === null ? '4 3' : undefined })}
      {look === 'look' ? <path d={isSquare ? 'M12 2h7a3 3 0 0 1 3 3v14a3 3 0 0 1-3 3h-7z' : 'M12 2a10 10 0 0 1 0 20z'} fill={colour} /> : null}
      {look === 'bad' ? <path d="M7.5 7.5l9 9m0-9l-9 9" stroke={colour} strokeWidth={2.5} /> : null}
    </svg>
  );
}
