'use client';
/**
 * What was set or is held at controllers from here: on every page, until it was taken back or a person has said that it may stay.
 * Escape takes back what is set for a check, whatever else it closes.
 */
import { Hand, OctagonAlert, Undo2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { DrivenValue } from '@/core/check/driving/drivenValue.ts';
import { call } from '../live/api.ts';
import { useLive, useStatus } from '../live/liveHooks.ts';
import { rememberedName } from '../live/selection.ts';
import { dayAndTime, timeOfDay } from './moment.ts';

/** Who takes back what nobody has a name for: it must not wait for one. */
const SOMEBODY = 'somebody at the bench';
/** Further than this it is not worth a countdown. */
const SOON_MS = 120_000;

async function takeBack(path: string): Promise<void> {
  const done = await call<{ readonly sentence?: string; readonly problems?: readonly string[] }>('POST', `/driven${path}`, {
    who: rememberedName() || SOMEBODY,
  });
  if (!done.ok) toast.error(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  else if (done.value.sentence) toast(done.value.sentence);
  else for (const problem of done.value.problems ?? []) toast.error(problem);
}

/** @param canAct whether it can be dealt with here: panels and phones only tell it */
export function DrivenBar({ canAct }: { readonly canAct: boolean }) {
  const all = useStatus()?.driven ?? [];
  const kept = all.filter(({ left }) => left === null);
  const left = all.filter(({ left: why }) => why !== null);
  const isDriven = kept.some(({ everyMs }) => everyMs === null);
  useEffect(() => {
    if (!canAct || !isDriven) return;
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') void takeBack('/back');
    };
    // Before any dialog or field has it.
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [canAct, isDriven]);
  if (all.length === 0) return null;
  return (
    <>
      {kept.length > 0 ? (
        <section role="status" aria-label="Set from here" className="bg-warning text-warning-content flex flex-col gap-1 px-4 py-1.5 text-[13px]">
          {kept.map((one, i) => (
            <div key={one.id} className="flex items-center gap-3" data-driven={one.tagName}>
              <Hand size={16} aria-hidden className="shrink-0" />
              <p className="flex-1">
                <Told one={one} />
              </p>
              {canAct ? (
                <button type="button" className="btn btn-xs" onClick={() => void takeBack(`/${one.id}/back`)}>
                  <Undo2 size={13} aria-hidden /> {one.everyMs === null ? 'Put back' : 'Release'}
                  {one.everyMs === null ? <kbd className="kbd kbd-xs">Esc</kbd> : null}
                </button>
              ) : null}
              {canAct && i === 0 && kept.length > 1 ? (
                <button type="button" className="btn btn-xs" onClick={() => void takeBack('/back')}>
                  Release all {kept.length}
                </button>
              ) : null}
            </div>
          ))}
        </section>
      ) : null}
      {left.length > 0 ? (
        <section role="alert" aria-label="May still be set" className="bg-error text-error-content flex flex-col gap-2 px-4 py-2">
          {left.map((one) => (
            <div key={one.id} className="flex flex-wrap items-center gap-3" data-left={one.tagName}>
              <OctagonAlert size={20} aria-hidden />
              <p className="min-w-64 flex-1">
                <strong>
                  {one.tagName} of {one.deviceName} may still hold {one.ourText}.
                </strong>{' '}
                It was {one.everyMs === null ? 'set' : 'held'} from here, {dayAndTime(one.at)}; before it was {one.oldText}. {one.left}{' '}
                {canAct ? one.place : 'Look at the machine, and tell the engineer.'}
              </p>
              {canAct ? <Remedies one={one} /> : null}
            </div>
          ))}
        </section>
      ) : null}
    </>
  );
}

function Told({ one }: { readonly one: DrivenValue }) {
  const live = useLive();
  const leftMs = one.until === null ? null : one.until - live.now();
  const how = one.everyMs === null ? 'is set to' : 'is held at';
  return (
    <>
      <strong>
        {one.tagName} of {one.deviceName} {how} <span className="num">{one.ourText}</span>
      </strong>
      {one.everyMs === null ? ' for a check' : `, written again every ${one.everyMs / 1000} s`}; before it was{' '}
      <span className="num">{one.oldText}</span>.{one.who ? ` ${one.who}` : ''}
      {leftMs === null || one.until === null
        ? ''
        : leftMs < SOON_MS
          ? `, until it is put back in ${Math.max(0, Math.round(leftMs / 1000))} s`
          : `, at the latest until ${timeOfDay(one.until)}`}
    </>
  );
}

function Remedies({ one }: { readonly one: DrivenValue }) {
  const [isBusy, setBusy] = useState(false);
  const back = async (): Promise<void> => {
    setBusy(true);
    await takeBack(`/${one.id}/back`);
    setBusy(false);
  };
  const stay = async (): Promise<void> => {
    const done = await call('POST', `/driven/${one.id}/stay`, { who: rememberedName() || SOMEBODY });
    if (!done.ok) toast.error(done.problem.message);
  };
  return (
    <>
      <button type="button" className="btn btn-sm" disabled={isBusy} onClick={() => void back()}>
        {isBusy ? 'Putting back …' : `Put ${one.oldText} back`}
      </button>
      <button type="button" className="btn btn-sm" disabled={isBusy} onClick={() => void stay()}>
        It may stay as it is
      </button>
    </>
  );
}
