'use client';
import { useEffect, useRef, useState } from 'react';
import { settingsOf } from '@/core/panel/kinds.ts';
import { OneOnTheWay } from '../oneOnTheWay.ts';
import { usePress } from '../usePress.ts';
import { useStage } from '../SceneContext.tsx';
import { useNumber } from '../useValues.ts';
import { frameOf, type DrawingProps } from './drawing.ts';
import { DrawnText, Head, labelOf, Unit } from './parts.tsx';
import { endText, useScaled } from './useEnds.ts';

/** What is moved is drawn at once; the text shows what the controller holds. */
export function SliderDrawing({ element, drawn, w, h, isEnabled }: DrawingProps) {
  const settings = settingsOf('slider', element);
  const { sends, pauseMs, direction, decimals } = settings;
  const { isPressable } = useStage();
  const { ends } = useScaled(drawn, settings);
  const own = useNumber(settings.step);
  const { press } = usePress(element);
  const [moved, setMoved] = useState<number | null>(null);
  const number = drawn.level === 'bad' ? null : (drawn.shown?.number ?? null);
  const step = own ?? stepOf(ends.high - ends.low, decimals ?? drawn.shownDef?.decimals ?? null);
  const waiting = useRef<{ value: number; timer: ReturnType<typeof setTimeout> } | null>(null);
  const sentAt = useRef(0);
  const isHeld = useRef(false);
  const way = useRef<OneOnTheWay>(null);
  way.current ??= new OneOnTheWay(() => isHeld.current || setMoved(null));
  const send = (value: number, isLast: boolean): void => {
    sentAt.current = Date.now();
    const unit = drawn.shownDef && drawn.def && drawn.shownDef.unit !== drawn.def.unit ? drawn.shownDef.unit : undefined;
    const what = { value: String(Number(value.toFixed(10))), ...(unit === undefined ? {} : { unit }) };
    way.current?.want(async () => {
      const done = await press(what, { quiet: !isLast });
      return done.ok && done.value.writes.every((write) => write.state === 'done');
    });
  };
  const move = (value: number): void => {
    isHeld.current = true;
    setMoved(value);
    if (sends !== 'moving') return;
    if (waiting.current) waiting.current.value = value;
    else {
      const timer = setTimeout(
        () => {
          const due = waiting.current;
          waiting.current = null;
          if (due) send(due.value, false);
        },
        Math.max(0, sentAt.current + pauseMs - Date.now()),
      );
      waiting.current = { value, timer };
    }
  };
  const letGo = (): void => {
    if (waiting.current) clearTimeout(waiting.current.timer);
    waiting.current = null;
    if (isHeld.current && moved !== null) send(moved, true);
    isHeld.current = false;
  };
  useEffect(
    () => () => {
      if (waiting.current) clearTimeout(waiting.current.timer);
      way.current?.drop();
    },
    [],
  );
  const label = labelOf(element, drawn);
  const isUp = direction === 'up';
  return (
    <div className="flex h-full w-full min-w-0 flex-col gap-1 overflow-hidden py-1.5" style={frameOf('line', drawn.level, w)}>
      <Head label={label} drawn={drawn} />
      <span className="flex min-w-0 items-baseline gap-2">
        <DrawnText element={element} w={w} h={h} drawn={drawn} />
        <Unit drawn={drawn} />
        {moved === null ? null : <span className="is-look num text-[13px]">→ {endText(moved)}</span>}
      </span>
      <div className={`flex min-h-6 flex-1 items-center gap-2 ${isUp ? 'flex-col-reverse' : ''}`}>
        <span className="num quiet text-[12px]">{endText(ends.low)}</span>
        <input
          type="range"
          className="panel-slider min-w-0 flex-1"
          style={isUp ? { writingMode: 'vertical-lr', direction: 'rtl', height: Math.max(40, h - 90) } : undefined}
          aria-label={label}
          aria-valuetext={moved === null ? `${drawn.text} ${drawn.unit}` : endText(moved)}
          min={ends.low}
          max={ends.high}
          step={step}
          value={moved ?? number ?? ends.low}
          disabled={isPressable && (!isEnabled || number === null)}
          onChange={(e) => move(Number(e.target.value))}
          onPointerUp={letGo}
          onKeyUp={letGo}
          onBlur={letGo}
        />
        <span className="num quiet text-[12px]">{endText(ends.high)}</span>
      </div>
    </div>
  );
}

/** A hundredth of its way, as a round number that its decimals can show. */
function stepOf(way: number, decimals: number | null): number {
  const least = decimals === null ? 0 : 10 ** -decimals;
  return Math.max(least, 10 ** Math.floor(Math.log10(way / 100 || 1)));
}
