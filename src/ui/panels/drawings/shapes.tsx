'use client';
/** Shapes, lines, pipes and frames: what stands on a page without a value of its own. */
import { settingsOf } from '@/core/panel/kinds.ts';
import type { Point } from '@/core/panel/setting.ts';
import { useStage } from '../SceneContext.tsx';
import { useCondition } from '../useValues.ts';
import { colourOf, type DrawingProps } from './drawing.ts';
import { TEXT_PX } from '@/core/panel/textRoom.ts';
import { TemplateBox } from './TemplateBox.tsx';

export function ShapeDrawing({ element, w, h }: DrawingProps) {
  const { shape, fill, line, width, template } = settingsOf('shape', element);
  const e = width / 2;
  const drawn = { fill: colourOf(fill), stroke: colourOf(line), strokeWidth: width };
  return (
    <div className="relative h-full w-full">
      <svg width={w} height={h} className="absolute inset-0" aria-hidden>
        {shape === 'ellipse' ? (
          <ellipse cx={w / 2} cy={h / 2} rx={Math.max(0, w / 2 - e)} ry={Math.max(0, h / 2 - e)} {...drawn} />
        ) : shape === 'triangle' ? (
          <path d={`M${w / 2} ${e}L${w - e} ${h - e}H${e}Z`} {...drawn} />
        ) : shape === 'hopper' ? (
          <path d={`M${e} ${e}H${w - e}V${h * 0.45}L${w * 0.62} ${h - e}H${w * 0.38}L${e} ${h * 0.45}Z`} {...drawn} />
        ) : (
          <rect
            x={e}
            y={e}
            width={Math.max(0, w - width)}
            height={Math.max(0, h - width)}
            rx={shape === 'round' ? Math.min(16, h / 3) : 0}
            {...drawn}
          />
        )}
      </svg>
      {template === '' ? null : (
        <div className="absolute inset-0 px-2">
          <TemplateBox template={template} px={TEXT_PX.normal} h={h} isCentred style={{ textAlign: 'center' }} />
        </div>
      )}
    </div>
  );
}

function pathOf(points: readonly Point[], w: number, h: number): string {
  return points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${((x / 1000) * w).toFixed(1)} ${((y / 1000) * h).toFixed(1)}`).join('');
}

export function LineDrawing({ element, w, h }: DrawingProps) {
  const { points, tone, width, dashed, arrow } = settingsOf('line', element);
  const id = `arrow-${element.id}`;
  return (
    <svg width={w} height={h} overflow="visible" aria-hidden>
      {arrow ? (
        <marker id={id} markerWidth={6} markerHeight={6} refX={4.5} refY={3} orient="auto">
          <path d="M0 0L6 3L0 6Z" fill={colourOf(tone)} />
        </marker>
      ) : null}
      <path
        d={pathOf(points, w, h)}
        fill="none"
        stroke={colourOf(tone)}
        strokeWidth={width}
        strokeDasharray={dashed ? `${width * 3} ${width * 2}` : undefined}
        markerEnd={arrow ? `url(#${id})` : undefined}
      />
    </svg>
  );
}

/** Of the part in the middle of its way. */
function middleOf(points: readonly Point[], w: number, h: number): { readonly x: number; readonly y: number } {
  const at = (points.length - 1) >> 1;
  const [a, b] = [points[at] ?? { x: 0, y: 0 }, points[at + 1] ?? { x: 0, y: 0 }];
  return { x: ((a.x + b.x) / 2000) * w, y: ((a.y + b.y) / 2000) * h };
}

/** Flow is shown by what runs along the pipe, and by its absence: never by a colour alone. */
export function PipeDrawing({ element, w, h }: DrawingProps) {
  const { points, width, flowing, direction } = settingsOf('pipe', element);
  const flow = useCondition(flowing);
  const path = pathOf(points, w, h);
  const isDoubted = flow !== null && flow.holds !== null && flow.isDoubted;
  const state = flow === null ? 'still' : flow.holds === null ? 'unknown' : flow.holds ? 'flowing' : 'still';
  return (
    <svg
      width={w}
      height={h}
      overflow="visible"
      role="img"
      aria-label={`${element.label || 'Pipe'}: ${state}${isDoubted ? ', uncertain' : ''}`}
      data-flow={state}
    >
      <path d={path} fill="none" stroke="var(--color-panel-line)" strokeWidth={width} strokeLinejoin="round" />
      <path d={path} fill="none" stroke="var(--color-base-200)" strokeWidth={Math.max(1, width - 3)} strokeLinejoin="round" />
      {state === 'flowing' ? (
        <path
          d={path}
          fill="none"
          stroke="var(--color-primary)"
          strokeWidth={Math.max(2, width * 0.45)}
          strokeDasharray={`${width} ${width}`}
          className={direction === 'ahead' ? 'flows-ahead' : 'flows-back'}
          style={{ '--flow': `${width * 2}px` } as object}
        />
      ) : state === 'unknown' ? (
        <path d={path} fill="none" stroke="var(--color-error)" strokeWidth={2} strokeDasharray="2 6" />
      ) : null}
      {isDoubted ? (
        <text {...middleOf(points, w, h)} className="fill-warning text-[16px]" textAnchor="middle" dominantBaseline="central">
          ◑
        </text>
      ) : null}
    </svg>
  );
}

export function FrameDrawing({ element }: DrawingProps) {
  const { fill } = settingsOf('frame', element);
  const { isPhone } = useStage();
  if (isPhone)
    return (
      <h2 className="flex h-full items-end truncate px-1 text-[15px] font-semibold" dir="auto">
        {element.label}
      </h2>
    );
  return (
    <div className="h-full w-full rounded-md border" style={{ borderColor: 'var(--color-panel-line)', background: colourOf(fill) }}>
      {element.label === '' ? null : (
        <span className="bg-base-200 absolute -top-2.5 left-3 max-w-[calc(100%-24px)] truncate px-2 text-[14px] font-semibold" dir="auto">
          {element.label}
        </span>
      )}
    </div>
  );
}
