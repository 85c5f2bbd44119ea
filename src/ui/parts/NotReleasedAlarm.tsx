'use client';
/** What was switched on here and is not known to be off: on every page, until it is off or a person has said so. */
import { OctagonAlert } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import type { NotReleased } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { call } from '../live/api.ts';
import { useStatus } from '../live/liveHooks.ts';
import { rememberedName, rememberName } from '../live/selection.ts';
import { dayAndTime } from './moment.ts';

/** @param canAct whether it can be dealt with here: panels only tell it */
export function NotReleasedAlarm({ canAct }: { readonly canAct: boolean }) {
  const all = useStatus()?.notReleased ?? [];
  if (all.length === 0) return null;
  return (
    <section role="alert" aria-label="Not switched off" className="bg-error text-error-content flex flex-col gap-2 px-4 py-2">
      {all.map((one) => (
        <div key={one.holdId} className="flex flex-wrap items-center gap-3" data-not-released={one.tagName}>
          <OctagonAlert size={20} aria-hidden />
          <p className="min-w-64 flex-1">
            <strong>
              {one.tagName} of {one.deviceName} may still be on.
            </strong>{' '}
            It was switched on from here and is not known to be off since {dayAndTime(one.since)}. {one.why}
            {one.isTried ? ' The server keeps trying.' : ''}
            {canAct ? '' : ' Look at the machine, and tell the engineer.'}
          </p>
          {canAct ? <Remedies one={one} /> : null}
        </div>
      ))}
    </section>
  );
}

function Remedies({ one }: { readonly one: NotReleased }) {
  const [who, setWho] = useState(rememberedName);
  const [isBusy, setBusy] = useState(false);
  const again = async (): Promise<void> => {
    setBusy(true);
    const done = await call<WriteOutcome>('POST', `/holds/${one.holdId}/release`);
    setBusy(false);
    if (done.ok && done.value.state === 'done') toast(`${one.tagName} is off`);
    else toast.error(done.ok ? done.value.sentence : done.problem.message);
  };
  const seen = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    rememberName(who.trim());
    const done = await call('POST', `/holds/${one.holdId}/off`, { who: who.trim() });
    if (!done.ok) toast.error(done.problem.message);
  };
  return (
    <>
      <button type="button" className="btn btn-sm" disabled={isBusy || one.isTried} onClick={() => void again()}>
        {isBusy ? 'Switching off …' : 'Switch it off again'}
      </button>
      <form className="flex items-center gap-2" onSubmit={(event) => void seen(event)}>
        <input
          aria-label="Who has seen that it is off"
          required
          className="input input-sm text-base-content w-36"
          placeholder="Your name"
          maxLength={60}
          value={who}
          onChange={(e) => setWho(e.target.value)}
        />
        <button type="submit" className="btn btn-sm">
          I have seen that it is off
        </button>
      </form>
    </>
  );
}
