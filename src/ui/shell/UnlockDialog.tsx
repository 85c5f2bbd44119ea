'use client';
/** Unlocks one device against writing, for a stated time, by a named person; and locks it again. */
import Link from 'next/link';
import { useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { toast } from 'sonner';
import { WRITERS, type Writer } from '@/core/live/status.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useLive, useStatus } from '../live/liveHooks.ts';
import { rememberedName, rememberName } from '../live/selection.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';
import { wantedUnlock } from './openDialogs.ts';

const WRITER_WORDS: Readonly<Record<Writer, string>> = {
  engineer: 'the bench: people at this interface',
  panel: 'panel pages',
  rule: 'automatic rules',
  check: 'driven checks',
};

interface UnlockTexts {
  readonly deviceId: string;
  readonly minutes: string;
  readonly who: string;
  readonly writers: Writer[];
}

export function UnlockDialog({ onClose }: { readonly onClose: () => void }) {
  const project = useProject();
  const live = useLive();
  const unlocked = useStatus()?.unlocked ?? [];
  const [wanted] = useState(wantedUnlock);
  // One that is open for others only can be opened anew.
  const isOpen = (id: string): boolean => unlocked.some((u) => u.deviceId === id && (wanted?.deviceId !== id || u.writers.includes(wanted.writer)));
  const locked = project.devices.filter(({ id }) => !isOpen(id));
  const form = useForm<UnlockTexts>({
    defaultValues: {
      deviceId: wanted?.deviceId ?? locked[0]?.id ?? '',
      minutes: '10',
      who: rememberedName(),
      writers: wanted?.writer === 'check' ? ['engineer', 'panel', 'check'] : ['engineer', 'panel'],
    },
  });
  const chosen = useWatch({ control: form.control, name: 'deviceId' });
  const identity = project.device(chosen)?.identityTagId ? project.device(chosen)?.identity : undefined;
  const { errors } = form.formState;

  const unlock = form.handleSubmit(async ({ deviceId, minutes, who, writers }) => {
    const name = who.trim();
    const device = locked.find((d) => d.id === deviceId) ?? locked[0];
    const done = await call('POST', '/guard/unlock', { deviceId: device?.id, minutes: Number(minutes), who: name, writers });
    if (!done.ok) {
      showProblem(form, done.problem, ['deviceId', 'who', 'minutes', 'writers']);
      return;
    }
    rememberName(name);
    toast(`Writing to ${device?.name ?? ''} is open for ${minutes} minutes`);
    onClose();
  });
  const lock = async (id: string): Promise<void> => {
    const done = await call('POST', '/guard/lock', { deviceId: id });
    if (!done.ok) toast.error(done.problem.message);
  };

  return (
    <Dialog title="Writing to machines" onClose={onClose}>
      <p className="quiet mb-4">
        Writing is locked after every start. Unlock a device only while you can see the machine; every write is logged with your name.
      </p>
      {unlocked.map((u) => (
        <div key={u.deviceId} className="hairline mb-2 flex items-center gap-3 rounded p-2">
          <span>
            <strong>{project.device(u.deviceId)?.name}</strong> was opened by {u.who} for{' '}
            {u.writers.map((w) => WRITER_WORDS[w].split(':')[0]).join(', ')}; {Math.max(0, Math.ceil((u.until - live.now()) / 60_000))} more min
          </span>
          <button type="button" className="btn btn-sm btn-outline ml-auto" onClick={() => void lock(u.deviceId)}>
            Lock now
          </button>
        </div>
      ))}
      {locked.length === 0 ? null : (
        <form className="grid grid-cols-2 gap-3" noValidate onSubmit={(e) => void unlock(e)}>
          <Field label="Device" error={errorAt(errors, 'deviceId')} help={identity ? `It must say “${identity}” first.` : undefined}>
            {(ids) => (
              <select {...ids} className="select select-sm w-full" {...form.register('deviceId')}>
                {locked.map((d) => (
                  <option key={d.id} value={d.id}>
                    {d.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="For how long" unit="minutes" error={errorAt(errors, 'minutes')}>
            {(ids) => <input {...ids} className="input input-sm num w-full" inputMode="numeric" {...form.register('minutes')} />}
          </Field>
          <Field label="Your name" error={errorAt(errors, 'who')}>
            {(ids) => <input {...ids} className="input input-sm w-full" maxLength={60} {...form.register('who')} />}
          </Field>
          <fieldset>
            <legend className="text-[13px] font-semibold">Open for</legend>
            {WRITERS.map((writer) => (
              <label key={writer} className="flex items-center gap-2 py-0.5">
                <input type="checkbox" className="checkbox checkbox-xs" value={writer} {...form.register('writers')} />
                {WRITER_WORDS[writer]}
              </label>
            ))}
            {errorAt(errors, 'writers') ? <p className="is-bad text-xs font-semibold">{errorAt(errors, 'writers')}</p> : null}
          </fieldset>
          <div className="col-span-2 flex items-end justify-end gap-2">
            <Link href="/writes" className="link mr-auto" onClick={onClose}>
              Log of writes
            </Link>
            <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
              Close
            </button>
            <button type="submit" className="btn btn-sm btn-primary">
              Unlock writing
            </button>
          </div>
        </form>
      )}
      {project.devices.length === 0 ? <p>There is no device yet.</p> : null}
      {locked.length === 0 ? (
        <div className="mt-3 text-right">
          <button type="button" className="btn btn-sm" onClick={onClose}>
            Close
          </button>
        </div>
      ) : null}
    </Dialog>
  );
}
