'use client';
import { settingsOf } from '@/core/panel/kinds.ts';
import { partOf } from '@/core/panel/shownOn.ts';
import { frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf, Unit } from './parts.tsx';
import { bandOf, endText, useScaled, type Scaled } from './useEnds.ts';

export function BarDrawing({ element, drawn, w, h }: DrawingProps) {
  const settings = settingsOf('bar', element);
  const { direction, shape, frame, from, ends: withEnds } = settings;
  const scaled = useScaled(drawn, settings);
  const number = drawn.level === 'bad' ? null : (drawn.shown?.number ?? null);
  const band = bandOf(scaled, number);
  const isUp = direction === 'up' || direction === 'down' || shape !== 'bar';
  const label = labelOf(element, drawn);
  const says = settings.bands === 'own' && band !== null ? <span className="is-look truncate text-[12px]">◑ {band}</span> : null;
  const text = (
    <span className="flex min-w-0 items-baseline gap-2">
      <DrawnText element={element} w={w} h={h} drawn={drawn} />
      <Unit drawn={drawn} />
      {says}
    </span>
  );
  const start = from === 'zero' ? (partOf(scaled.ends, 0) ?? 0) : from === 'high' ? 1 : 0;
  const fill = { start, end: partOf(scaled.ends, number), isDoubted: drawn.level === 'uncertain' || band !== null };
  const endWords = withEnds ? scaled.ends : null;
  return (
    <div className="flex h-full w-full min-w-0 flex-col gap-1 overflow-hidden py-1.5" style={frameOf(frame, drawn.level, w)}>
      {label !== '' || drawn.level !== 'good' ? <Head label={label} drawn={drawn} /> : null}
      {isUp ? null : text}
      {isUp ? (
        <div className="flex min-h-0 flex-1 items-stretch gap-2">
          {shape === 'bar' ? (
            <Upright fill={fill} scaled={scaled} isDown={direction === 'down'} />
          ) : (
            <Vessel fill={fill} scaled={scaled} isSilo={shape === 'silo'} w={Math.min(w - (endWords ? 70 : 30), (h - 60) * 1.2)} h={h - 60} />
          )}
          {endWords ? (
            <span className="num quiet flex flex-col justify-between text-[12px]">
              <span>{endText(direction === 'down' ? endWords.low : endWords.high)}</span>
              <span>{endText(direction === 'down' ? endWords.high : endWords.low)}</span>
            </span>
          ) : null}
        </div>
      ) : (
        <div className="flex min-h-3 flex-1 items-center gap-2">
          {endWords ? <span className="num quiet text-[12px]">{endText(direction === 'left' ? endWords.high : endWords.low)}</span> : null}
          <Lying fill={fill} scaled={scaled} isLeft={direction === 'left'} />
          {endWords ? <span className="num quiet text-[12px]">{endText(direction === 'left' ? endWords.low : endWords.high)}</span> : null}
        </div>
      )}
      {isUp ? text : null}
    </div>
  );
}

interface Fill {
  readonly start: number;
  readonly end: number | null;
  readonly isDoubted: boolean;
}
const fillColour = ({ isDoubted }: Fill): string => (isDoubted ? 'var(--color-warning)' : 'var(--color-primary)');
const percent = (part: number): string => `${part * 100}%`;

function span({ start, end }: Fill): { readonly at: number; readonly length: number } | null {
  return end === null ? null : { at: Math.min(start, end), length: Math.abs(end - start) };
}

interface BarPartProps {
  readonly fill: Fill;
  readonly scaled: Scaled;
}

/** Bands, limits and the mark, along the bar. @param at where a part of the way lies */
function Marks({ scaled, isUpright, isTurned }: { readonly scaled: Scaled; readonly isUpright: boolean; readonly isTurned: boolean }) {
  const { ends, marks, target, lowBand, highBand } = scaled;
  const along = (part: number): object =>
    isUpright ? { [isTurned ? 'top' : 'bottom']: percent(part) } : { [isTurned ? 'right' : 'left']: percent(part) };
  const band = (from: number, to: number): object => {
    const [a, b] = [partOf(ends, from) ?? 0, partOf(ends, to) ?? 0];
    return { ...along(a), [isUpright ? 'height' : 'width']: percent(b - a) };
  };
  const side = isUpright ? 'right-0 w-1' : 'bottom-0 h-1';
  return (
    <>
      {lowBand !== null && lowBand > ends.low ? (
        <span className={`bg-warning absolute ${side}`} style={band(ends.low, lowBand)} data-band="low" />
      ) : null}
      {highBand !== null && highBand < ends.high ? (
        <span className={`bg-warning absolute ${side}`} style={band(highBand, ends.high)} data-band="high" />
      ) : null}
      {marks.map(({ at, isOuter }) =>
        at > ends.low && at < ends.high ? (
          <span
            key={at}
            className={`absolute ${isUpright ? '-inset-x-0.5 h-0.5' : '-inset-y-0.5 w-0.5'} ${isOuter ? 'bg-error' : 'bg-base-content'}`}
            style={along(partOf(ends, at) ?? 0)}
            data-limit-mark={isOuter ? 'outer' : 'inner'}
          />
        ) : null,
      )}
      {target === null ? null : (
        <span
          className={`bg-accent absolute ${isUpright ? '-inset-x-1.5 h-1' : '-inset-y-1.5 w-1'} rounded`}
          style={along(partOf(ends, target) ?? 0)}
          data-target
        />
      )}
    </>
  );
}

function Lying({ fill, scaled, isLeft }: BarPartProps & { readonly isLeft: boolean }) {
  const filled = span(fill);
  return (
    <div className="bg-base-300 relative h-full max-h-10 min-h-2 flex-1 rounded-sm" aria-hidden>
      {filled ? (
        <div
          className="absolute inset-y-0 rounded-sm"
          style={{ [isLeft ? 'right' : 'left']: percent(filled.at), width: percent(filled.length), background: fillColour(fill) }}
        />
      ) : null}
      <Marks scaled={scaled} isUpright={false} isTurned={isLeft} />
    </div>
  );
}

function Upright({ fill, scaled, isDown }: BarPartProps & { readonly isDown: boolean }) {
  const filled = span(fill);
  return (
    <div className="bg-base-300 relative w-full max-w-16 min-w-3 flex-1 rounded-sm" aria-hidden>
      {filled ? (
        <div
          className="absolute inset-x-0 rounded-sm"
          style={{ [isDown ? 'top' : 'bottom']: percent(filled.at), height: percent(filled.length), background: fillColour(fill) }}
        />
      ) : null}
      <Marks scaled={scaled} isUpright isTurned={isDown} />
    </div>
  );
}

/** A vessel seen from the side: a tank with a domed floor and lid, or a silo with a cone below. */
function Vessel({ fill, scaled, isSilo, w, h }: BarPartProps & { readonly isSilo: boolean; readonly w: number; readonly h: number }) {
  const [width, height] = [Math.max(24, Math.min(w, 400)), Math.max(24, h)];
  const cone = isSilo ? Math.min(height * 0.3, width * 0.5) : 0;
  const round = isSilo ? 4 : Math.min(14, width / 5);
  const outline = isSilo
    ? `M1 ${round}Q1 1 ${round} 1H${width - round}Q${width - 1} 1 ${width - 1} ${round}V${height - cone}L${width * 0.6} ${height - 1}H${width * 0.4}L1 ${height - cone}Z`
    : `M1 ${round}Q${width / 2} ${-round / 2} ${width - 1} ${round}V${height - round}Q${width / 2} ${height + round / 2} 1 ${height - round}Z`;
  const filled = span(fill);
  const clip = `vessel-${Math.round(width)}-${Math.round(height)}-${isSilo}`;
  const { ends, marks, target, lowBand } = scaled;
  const y = (value: number): number => height * (1 - (partOf(ends, value) ?? 0));
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="h-full min-w-0 flex-1" preserveAspectRatio="xMidYMid meet" aria-hidden>
      <clipPath id={clip}>
        <path d={outline} />
      </clipPath>
      <path d={outline} fill="var(--color-base-200)" />
      {filled ? (
        <rect
          x={0}
          width={width}
          y={height * (1 - filled.at - filled.length)}
          height={height * filled.length}
          fill={fillColour(fill)}
          clipPath={`url(#${clip})`}
        />
      ) : null}
      <path d={outline} fill="none" stroke="var(--color-panel-line)" strokeWidth={2} />
      {lowBand !== null && lowBand > ends.low ? (
        <path d={`M4 ${y(lowBand)}V${height - 4}`} stroke="var(--color-warning)" strokeWidth={4} data-band="low" />
      ) : null}
      {marks.map(({ at, isOuter }) => (
        <path
          key={at}
          d={`M0 ${y(at)}H${width * 0.2}`}
          stroke={isOuter ? 'var(--color-error)' : 'var(--color-base-content)'}
          strokeWidth={2}
          data-limit-mark={isOuter ? 'outer' : 'inner'}
        />
      ))}
      {target === null ? null : (
        <path d={`M0 ${y(target)}H${width}`} stroke="var(--color-accent)" strokeWidth={3} strokeDasharray="6 4" data-target />
      )}
    </svg>
  );
}
