/** The panel host for who stands before it: what runs, who may send to it, whether writing is open, who joins. Other machines do not get it. */
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { HostAtHand } from '@/core/hosting/messages.ts';
import { call } from '../live/api.ts';
import { Network } from '../network/NetworkDialog.tsx';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';
import { counted } from '@/core/counted.ts';
import { dayAndTime, timeOfDay } from '../parts/moment.ts';
import { PairingCode } from './PairingCode.tsx';
import { useAtHand } from './useAtHand.ts';

const PHASES: Readonly<Record<HostAtHand['phase'], string>> = {
  empty: '○ nothing was sent yet',
  trying: '◑ it has just been taken over; should it break down, the one before comes back',
  running: '● it runs',
};

export function HostScreen() {
  const { host, problem, take } = useAtHand();
  return (
    <main className="bg-base-200 min-h-dvh p-6">
      <div className="mx-auto flex max-w-4xl flex-col gap-4">
        <header className="flex items-center gap-4">
          <h1 className="text-2xl font-semibold">{host?.name ?? 'Panel host'}</h1>
          <span className="flex-1" />
          <a className="btn" href="/">
            To the panel
          </a>
        </header>
        {problem ? (
          <p className="is-bad" role="alert">
            ✕ {problem}
          </p>
        ) : null}
        {host ? <Sections host={host} onHost={take} /> : <p className="quiet">Loading …</p>}
      </div>
    </main>
  );
}

interface SectionProps {
  readonly host: HostAtHand;
  readonly onHost: (host: HostAtHand) => void;
}

function Sections({ host, onHost }: SectionProps) {
  return (
    <>
      <section className="card-flat p-5" aria-label="What runs">
        <h2 className="mb-2 text-lg font-semibold">{host.hosted ? host.hosted.panelName : 'No panel yet'}</h2>
        <p>{PHASES[host.phase]}</p>
        {host.hosted ? (
          <p className="quiet">
            Of {host.hosted.projectName}, sent from {host.hosted.sentBy}, {dayAndTime(host.hosted.sentAt)}: {counted(host.hosted.pages, 'page')},{' '}
            {counted(host.hosted.tags, 'tag')}.
          </p>
        ) : null}
        {host.rolledBack ? (
          <p className="is-bad" role="alert">
            What was sent {dayAndTime(host.rolledBack.at)} was given up: {host.rolledBack.why}
          </p>
        ) : null}
        <p className="quiet">
          {host.machine}; program {host.program}; {Math.round(host.freeBytes / 1_000_000).toLocaleString('en')} MB of room; its clock:{' '}
          {dayAndTime(host.now)}.
        </p>
        {host.missing.map(({ driver, why }) => (
          <p key={driver} className="is-look">
            ◑ {why}
          </p>
        ))}
      </section>
      <section className="card-flat p-5" aria-label="Benches">
        <h2 className="mb-2 text-lg font-semibold">Who may send to it</h2>
        {host.benches.length === 0 ? <p className="quiet mb-2">No bench is paired yet.</p> : null}
        <ul className="mb-3">
          {host.benches.map((bench) => (
            <li key={bench.id}>
              {bench.name} <span className="quiet">paired {dayAndTime(bench.pairedAt)}</span>
            </li>
          ))}
        </ul>
        <PairingCode host={host} onHost={onHost} />
      </section>
      <Writing key={host.hosted?.digest ?? ''} host={host} />
      <section className="card-flat p-5" aria-label="Network">
        <h2 className="mb-2 text-lg font-semibold">Network</h2>
        <p className="quiet mb-3">
          Benches and phones reach this machine only at an address that is open here. What benches send is sealed; what phones show is not: use the
          machine&apos;s own network.
        </p>
        <Network />
      </section>
      <Name host={host} onHost={onHost} />
    </>
  );
}

function Writing({ host }: Pick<SectionProps, 'host'>) {
  const form = useForm({ defaultValues: { deviceId: host.devices[0]?.id ?? '', who: '', minutes: '30' } });
  const { errors, isSubmitting } = form.formState;
  const [said, setSaid] = useState('');
  const locked = host.devices.filter(({ id }) => !host.unlocked.some(({ deviceId }) => deviceId === id));
  const unlock = form.handleSubmit(async ({ deviceId, who, minutes }) => {
    const id = locked.some((one) => one.id === deviceId) ? deviceId : (locked[0]?.id ?? '');
    const done = await call('POST', '/guard/unlock', { deviceId: id, who: who.trim(), minutes: Number(minutes), writers: ['panel'] });
    if (done.ok) setSaid('It is open.');
    else showProblem(form, done.problem, ['deviceId', 'who', 'minutes']);
  });
  const nameOf = (id: string): string => host.devices.find((device) => device.id === id)?.name ?? id;
  return (
    <section className="card-flat p-5" aria-label="Writing">
      <h2 className="mb-2 text-lg font-semibold">Writing to the machine</h2>
      <p className="quiet mb-3">
        It is locked after every start, and after every new project. Open it only while you can see the machine; every write is in the log.
      </p>
      {host.unlocked.map(({ deviceId, who, until }) => (
        <p key={deviceId} className="mb-2 flex items-center gap-3">
          <span>
            ◑ <strong>{nameOf(deviceId)}</strong> was opened by {who}, until {timeOfDay(until)}
          </span>
          <button type="button" className="btn btn-sm btn-outline" onClick={() => void call('POST', '/guard/lock', { deviceId })}>
            Lock now
          </button>
        </p>
      ))}
      {locked.length > 0 ? (
        <form className="grid grid-cols-[1fr_1fr_7rem_auto] items-start gap-3" noValidate onSubmit={(e) => void unlock(e)}>
          <Field label="Device" error={errorAt(errors, 'deviceId')}>
            {(ids) => (
              <select {...ids} className="select w-full" {...form.register('deviceId')}>
                {locked.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Your name" error={errorAt(errors, 'who')}>
            {(ids) => <input {...ids} className="input w-full" maxLength={60} {...form.register('who')} />}
          </Field>
          <Field label="For" unit="min" error={errorAt(errors, 'minutes')}>
            {(ids) => <input {...ids} className="input num w-full" inputMode="numeric" {...form.register('minutes')} />}
          </Field>
          <button type="submit" className="btn btn-primary mt-6" disabled={isSubmitting}>
            Open for the panel
          </button>
        </form>
      ) : null}
      {host.devices.length === 0 ? <p className="quiet">Nothing runs here that could be written.</p> : null}
      {said && host.unlocked.length > 0 ? <p role="status">{said}</p> : null}
    </section>
  );
}

function Name({ host, onHost }: SectionProps) {
  const form = useForm({ defaultValues: { name: host.name } });
  const { errors, isSubmitting } = form.formState;
  const keep = form.handleSubmit(async ({ name }) => {
    const done = await call<HostAtHand>('POST', '/host/name', { name: name.trim() });
    if (done.ok) onHost(done.value);
    else showProblem(form, done.problem, ['name']);
  });
  return (
    <section className="card-flat p-5" aria-label="Name">
      <form className="flex items-start gap-3" noValidate onSubmit={(e) => void keep(e)}>
        <Field label="Name of this panel host" help="As benches list it: where it stands." error={errorAt(errors, 'name')}>
          {(ids) => <input {...ids} className="input w-80" maxLength={60} {...form.register('name')} />}
        </Field>
        <button type="submit" className="btn mt-6" disabled={isSubmitting}>
          Keep
        </button>
      </form>
    </section>
  );
}
