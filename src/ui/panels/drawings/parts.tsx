'use client';
/** Pieces of drawings: the label with the quality beside it, the text that checks compare, marks of states. */
import { useMemo, type ReactNode } from 'react';
import type { Look } from '@/core/panel/states.ts';
import { fitted, MARK_PX, roomForAll, roomOf, UNIT_PX } from '@/core/panel/textRoom.ts';
import { statesOf } from '@/core/panel/elementText.ts';
import { useStage } from '../SceneContext.tsx';
import { isBeyondLimit, LimitMark } from '../../parts/StateMark.tsx';
import type { Drawn } from '../useValues.ts';
import { ALIGN, lookColour, TEXT_ALIGN, type DrawingProps } from './drawing.ts';

export function labelOf(element: { readonly label: string }, drawn: Drawn): string {
  return element.label || drawn.tag?.name || '';
}

/** The label, and what is to be said of the value. */
export function Head({ label, drawn, isCentred = false }: { readonly label: string; readonly drawn: Drawn; readonly isCentred?: boolean }) {
  const words = (className: string): ReactNode => (
    <span className={className} title={label} dir="auto">
      {label}
    </span>
  );
  // Most of the time there is nothing more to say, on hundreds of elements.
  if (drawn.level === 'good' && !(drawn.view && isBeyondLimit(drawn.view)))
    return words(`quiet block min-h-fit w-full min-w-0 truncate text-[13px] leading-tight ${isCentred ? 'text-center' : ''}`);
  return (
    <span className={`quiet flex w-full min-w-0 items-baseline gap-2 text-[13px] leading-tight ${isCentred ? 'justify-center' : 'justify-between'}`}>
      {words('truncate')}
      <Doubt drawn={drawn} />
    </span>
  );
}

/** In one line with its text there is room for the mark alone; the words are for who cannot see it, and where it is pointed at. */
export function DoubtMark({ drawn: { level, why } }: { readonly drawn: Drawn }) {
  return level === 'good' ? null : (
    <span className="shrink-0 text-center text-[12px]" style={{ width: MARK_PX }} title={why}>
      {level === 'bad' ? '✕' : '◑'}
      <span className="sr-only">{level === 'bad' ? ' no value' : ' look'}</span>
    </span>
  );
}

/** Nothing where the value is good. */
export function Doubt({ drawn }: { readonly drawn: Drawn }) {
  const { say } = useStage().scene;
  return (
    <>
      {drawn.level === 'good' ? null : (
        <span className={`shrink-0 text-[12px] ${drawn.level === 'bad' ? 'is-bad' : 'is-look'}`} title={drawn.why}>
          {drawn.level === 'bad' ? `✕ ${say('no value')}` : `◑ ${say('look')}`}
        </span>
      )}
      {drawn.view ? <LimitMark view={drawn.view} /> : null}
    </>
  );
}

interface DrawnTextProps extends Pick<DrawingProps, 'element' | 'drawn' | 'w' | 'h'> {
  readonly className?: string;
  readonly colour?: string | undefined;
  /** Where it fills a line of its own. */
  readonly align?: keyof typeof TEXT_ALIGN;
}

/**
 * Text, sample number and quality are drawn together, so that a check can compare them. It is written smaller where it is too
 * long. Words may end in an ellipsis, a number never: it could be read as another one.
 */
export function DrawnText({ element, drawn, w, h, className = '', colour, align }: DrawnTextProps) {
  const {
    texts,
    scene: { say, word },
  } = useStage();
  const unit = unitShown(drawn);
  const hasLabel = labelOf(element, drawn) !== '';
  const states = statesOf(element, texts);
  const names = drawn.def?.names;
  const room = useMemo(() => {
    const own = roomOf({ kind: element.kind, settings: element.settings, w, h }, { unit, hasLabel });
    return own && roomForAll(own, [...states.map(({ text }) => text), ...(names ?? []).map(({ name }) => word(name))]);
  }, [element.kind, element.settings, w, h, unit, hasLabel, states, names, word]);
  const { px, text, isWhole } = room ? fitted(room, drawn.text, say('no room')) : { px: undefined, text: drawn.text, isWhole: true };
  const isRefused = text !== drawn.text;
  return (
    <span
      className={`min-h-fit ${isWhole ? 'shrink-0' : 'min-w-0'} truncate ${room?.face === 'mono' ? 'num' : ''} leading-tight font-semibold ${className} ${isRefused ? 'is-bad' : ''}`}
      style={{ fontSize: px, color: isRefused ? undefined : colour, textAlign: align && TEXT_ALIGN[align] }}
      title={isWhole ? undefined : `${drawn.text} ${unit}`}
      data-drawn
      data-element={element.id}
      data-shows={element.tagId ?? undefined}
      data-sample={drawn.view?.sample?.n ?? 0}
      dir="auto"
    >
      {text}
    </span>
  );
}

interface ValueLineProps extends DrawnTextProps {
  readonly align: keyof typeof ALIGN;
  /** Its label stands before it. */
  readonly isFlat: boolean;
}

/** The text with its unit; most elements have none, and are one node then. */
export function ValueLine({ align, isFlat, ...text }: ValueLineProps) {
  if (unitShown(text.drawn) === '') return <DrawnText {...text} align={align} />;
  return (
    <span className={`flex min-w-0 items-baseline gap-2 ${isFlat ? 'max-w-full shrink-0' : ''}`} style={{ justifyContent: ALIGN[align] }}>
      <DrawnText {...text} />
      <Unit drawn={text.drawn} />
    </span>
  );
}

interface StateLineProps extends Pick<DrawnTextProps, 'element' | 'drawn' | 'w' | 'h'> {
  readonly look: Look | null;
  readonly text: string;
  readonly isWorded: boolean;
}

/** Below what is drawn: its state by mark and word, and what is to be said of the value. */
export function StateLine({ element, drawn, w, h, look, text, isWorded }: StateLineProps) {
  return (
    <>
      {isWorded ? (
        <span className="flex max-w-full items-center gap-1 leading-tight">
          <LookMark look={look} size={11} />
          <DrawnText element={element} w={w} h={h} drawn={{ ...drawn, text }} />
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

/** Empty where none is shown. */
function unitShown({ unit, shown, level }: Drawn): string {
  return shown && level !== 'bad' && !shown.isState ? unit : '';
}

export function Unit({ drawn }: { readonly drawn: Drawn }) {
  const unit = unitShown(drawn);
  return unit === '' ? null : (
    <span className="quiet shrink-0" style={{ fontSize: UNIT_PX }}>
      {unit}
    </span>
  );
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
