'use client';
/** One thing on a panel page. Text, sample number and quality are drawn together, so that a check can compare them. */
import { useState, type KeyboardEvent, type MouseEvent, type PointerEvent } from 'react';
import { barEnds, barFill, elementText } from '@/core/panel/element.ts';
import { endsOn, shownOn } from '@/core/panel/shownOn.ts';
import { LIMIT_KEYS, type Limits } from '@/core/ranges/limits.ts';
import type { Range } from '@/core/ranges/range.ts';
import type { QualityLevel } from '@/core/value/quality.ts';
import type { Element } from '@/core/project/entities.ts';
import { accessOf } from '@/core/project/inherited.ts';
import { useProject, useTagView } from '../live/LiveContext.tsx';
import { LimitMark } from '../parts/StateMark.tsx';
import { drawnOf } from './drawn.ts';
import { EntryPad } from './EntryPad.tsx';
import { useHold } from './useHold.ts';
import { useWrite } from './useWrite.ts';

/** @param live false while the page is arranged or only looked at; it must be inert then, so that nothing is pressed by mistake */
export function PanelElement({ element, live }: { readonly element: Element; readonly live: boolean }) {
  const project = useProject();
  const view = useTagView(element.tagId);
  const tag = element.tagId === null ? null : project.tag(element.tagId);
  const effective = tag ? project.effective(tag.id) : null;
  const def = effective?.ok ? effective.value.def : null;
  const shown = def && shownOn(def, project.panelOf(element)?.units ?? [], element.settings);
  const now = drawnOf(view, def, shown);
  const sample = now?.sample ?? null;
  const unitText = shown?.unit ?? tag?.unit ?? '';
  const text = tag ? elementText(element.kind, element.settings, sample) : 'no tag';
  const level = tag ? (view?.level ?? 'bad') : 'bad';
  const [entering, setEntering] = useState(false);
  const { write, busy } = useWrite();
  const label = element.label || tag?.name || element.kind;
  const tone = level === 'bad' ? 'border-error border-dashed' : level === 'uncertain' ? 'border-warning' : 'border-base-300';
  const canWrite = live && tag !== null && accessOf(tag, project.inheritedBy(tag.groupId)) === 'readWrite';

  const { action = 'toggle', value: toWrite = '' } = element.settings;
  const hold = useHold(tag);
  const press = (): void => {
    if (!tag || !sample || action === 'hold') return;
    if (action === 'write') void write(tag, toWrite);
    else if (action !== 'toggle' || sample.state !== null)
      void write(tag, action === 'set' || (action === 'toggle' && sample.state === false) ? 'on' : 'off');
  };
  const holding =
    action === 'hold'
      ? {
          onPointerDown: (e: PointerEvent<HTMLButtonElement>) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            hold.press(e.pointerId);
          },
          onKeyDown: (e: KeyboardEvent) => (e.key === ' ' || e.key === 'Enter') && !e.repeat && hold.press('key'),
          onBlur: hold.letGo,
          onContextMenu: (e: MouseEvent) => e.preventDefault(),
        }
      : {};
  const value = (
    <span
      className={`num truncate text-[1.6em] leading-tight font-semibold ${text.length > 10 ? 'max-sm:text-[1.1em]' : ''}`}
      data-drawn
      data-element={element.id}
      data-sample={view?.sample?.n ?? 0}
    >
      {text}
    </span>
  );
  const unit =
    unitText !== '' && level !== 'bad' && element.kind !== 'lamp' && element.kind !== 'button' ? <span className="quiet">{unitText}</span> : null;
  return (
    <div
      className={`bg-base-100 flex h-full min-w-0 flex-col overflow-hidden rounded-md border px-3 py-2 ${tone}`}
      data-kind={element.kind}
      data-label={label}
    >
      <span className="quiet flex items-baseline justify-between gap-2 text-[0.9em]">
        <span className="truncate" title={label}>
          {label}
        </span>
        {level !== 'good' && tag ? (
          <span className={`shrink-0 text-[0.85em] ${level === 'bad' ? 'is-bad' : 'is-look'}`} title={view?.why}>
            {level === 'bad' ? '✕ no value' : '◑ look'}
          </span>
        ) : null}
        {view && tag ? <LimitMark view={view} /> : null}
      </span>
      <div className="flex min-h-0 flex-1 items-center gap-2">
        {element.kind === 'lamp' ? <Lamp state={level === 'bad' ? null : (sample?.state ?? null)} /> : null}
        {element.kind === 'button' ? (
          <button
            type="button"
            className={`btn btn-primary mt-1 h-[calc(100%-4px)] min-h-9 flex-1 touch-none border-2 text-[1em] ${hold.isHeld ? '' : 'btn-outline'}`}
            disabled={live && !hold.isHeld && (!canWrite || busy || level === 'bad')}
            onClick={press}
            {...holding}
            aria-pressed={action === 'hold' ? hold.isHeld : undefined}
            aria-label={action === 'hold' ? `Hold ${label}: ${text}` : `${label}: ${text}`}
          >
            {value}
            {action === 'hold' ? <span className="text-[0.75em]">{hold.isHeld ? 'held' : 'hold'}</span> : null}
            {action === 'write' ? (
              <span className="num text-[0.75em]">
                → {toWrite} {tag?.unit}
              </span>
            ) : null}
          </button>
        ) : element.kind === 'entry' ? (
          <button
            type="button"
            className="hairline hover:border-primary flex min-w-0 flex-1 items-baseline gap-2 rounded px-2 text-left"
            disabled={live && (!canWrite || busy)}
            onClick={() => setEntering(true)}
            aria-label={`Enter ${label}, now ${text} ${unit ? unitText : ''}`.trim()}
          >
            {value} {unit}
          </button>
        ) : (
          <span className="flex min-w-0 items-baseline gap-2">
            {value} {unit}
          </span>
        )}
      </div>
      {element.kind === 'bar' ? (
        <Bar
          ends={def && shown ? endsOn(def, shown, element.settings) : barEnds(element.settings, null)}
          limits={shown?.limits ?? null}
          number={now?.number ?? null}
          level={level}
        />
      ) : null}
      {entering && tag && shown ? <EntryPad tag={tag} def={shown} label={label} onClose={() => setEntering(false)} /> : null}
    </div>
  );
}

function Lamp({ state }: { readonly state: boolean | null }) {
  return (
    <span
      aria-hidden
      className={`h-5 w-5 shrink-0 rounded-full border-2 ${state === null ? 'border-base-300 border-dashed' : state ? 'bg-success border-success' : 'border-base-content'}`}
    />
  );
}

interface BarProps {
  readonly ends: Range;
  readonly limits: Limits | null;
  readonly number: number | null;
  readonly level: QualityLevel;
}

function Bar({ ends, limits, number, level }: BarProps) {
  const fill = barFill(ends, number);
  const marks = limits ? LIMIT_KEYS.flatMap((key) => (limits[key] === null ? [] : [{ key, at: limits[key] }])) : [];
  return (
    <div className="mt-1 flex items-center gap-2" aria-hidden>
      <span className="num quiet text-[0.75em]">{endText(ends.low)}</span>
      <div className="bg-base-300 relative h-2 flex-1 rounded-sm">
        {fill === null ? null : (
          <div className={`h-2 rounded-sm ${level === 'uncertain' ? 'bg-warning' : 'bg-primary'}`} style={{ width: `${fill * 100}%` }} />
        )}
        {marks.map(({ key, at }) =>
          at > ends.low && at < ends.high ? (
            <span
              key={key}
              className={`absolute -top-1 h-4 w-0.5 ${key === 'highHigh' || key === 'lowLow' ? 'bg-error' : 'bg-base-content'}`}
              style={{ left: `${(barFill(ends, at) ?? 0) * 100}%` }}
              data-limit-mark={key}
            />
          ) : null,
        )}
      </div>
      <span className="num quiet text-[0.75em]">{endText(ends.high)}</span>
    </div>
  );
}

/** An end that was converted is no longer round. */
function endText(value: number): string {
  return String(Number(value.toPrecision(6)));
}
