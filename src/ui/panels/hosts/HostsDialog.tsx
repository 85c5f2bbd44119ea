'use client';
/** Panel hosts: paired by the code that they show, compared with this panel, and sent to. */
import { Download, RefreshCw } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import { toast } from 'sonner';
import { CLOCK_OFF_MS, type HostComparison, type PairedHost } from '@/core/hosting/compared.ts';
import type { HostState } from '@/core/hosting/messages.ts';
import type { Panel } from '@/core/project/entities.ts';
import type { Problem } from '@/core/result.ts';
import { call } from '../../live/api.ts';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Differences } from '../../parts/Differences.tsx';
import { Field } from '../../parts/Field.tsx';
import { errorAt, showProblem } from '../../parts/formErrors.ts';
import { counted } from '@/core/counted.ts';
import { dayAndTime } from '../../parts/moment.ts';
import { useSending } from './useSending.ts';

export function HostsDialog({ panel, onClose }: { readonly panel: Panel; readonly onClose: () => void }) {
  const [hosts, setHosts] = useState<readonly PairedHost[] | null>(null);
  const [problem, setProblem] = useState('');
  const [chosen, setChosen] = useState<string | null>(null);
  const [isPairing, setPairing] = useState(false);
  const load = useCallback(async (): Promise<void> => {
    const loaded = await call<{ hosts: readonly PairedHost[] }>('GET', '/hosts');
    if (loaded.ok) setHosts(loaded.value.hosts);
    setProblem(loaded.ok ? '' : loaded.problem.message);
  }, []);
  useEffect(() => {
    void Promise.resolve().then(load);
  }, [load]);
  const host = hosts?.find(({ id }) => id === chosen) ?? hosts?.find(({ panelId }) => panelId === panel.id) ?? hosts?.[0] ?? null;
  const isNew = isPairing || hosts?.length === 0;
  return (
    <Dialog title={`${panel.name} on the machine`} onClose={onClose} wide>
      <p className="quiet mb-3">
        A panel host is a program on the machine that shows one panel without this bench. On that machine: <code>npm run panel</code>. It shows a code
        to pair with.
      </p>
      {problem ? (
        <p className="is-bad" role="alert">
          {problem}
        </p>
      ) : null}
      {hosts === null && problem === '' ? <p className="quiet">Loading …</p> : null}
      <div className="mb-3 flex flex-wrap items-center gap-2" role="group" aria-label="Panel hosts">
        {hosts?.map((one) => (
          <button
            key={one.id}
            type="button"
            aria-pressed={!isNew && one.id === host?.id}
            className={`btn btn-sm ${!isNew && one.id === host?.id ? 'btn-primary' : 'btn-ghost'}`}
            onClick={() => {
              setPairing(false);
              setChosen(one.id);
            }}
          >
            {one.name}
          </button>
        ))}
        {hosts && hosts.length > 0 ? (
          <button type="button" className="btn btn-sm btn-ghost" aria-pressed={isPairing} onClick={() => setPairing(!isPairing)}>
            Pair another one …
          </button>
        ) : null}
      </div>
      {isNew ? (
        <Pair
          onPaired={(paired) => {
            setChosen(paired.id);
            setPairing(false);
            void load();
          }}
        />
      ) : host ? (
        <Host key={host.id} host={host} panel={panel} onChanged={() => void load()} />
      ) : null}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

function Pair({ onPaired }: { readonly onPaired: (host: PairedHost) => void }) {
  const form = useForm({ defaultValues: { address: '', code: '' } });
  const { errors, isSubmitting } = form.formState;
  const pair = form.handleSubmit(async ({ address, code }) => {
    const done = await call<PairedHost>('POST', '/hosts', { address: address.trim(), code: code.trim() });
    if (done.ok) {
      toast(`Paired with ${done.value.name}`);
      onPaired(done.value);
    } else showProblem(form, done.problem, ['address', 'code']);
  });
  return (
    <form className="grid grid-cols-[1fr_12rem_auto] items-start gap-3" noValidate onSubmit={(e) => void pair(e)} aria-label="Pair a panel host">
      <Field
        label="Address of the panel host"
        help="A name or four numbers; a port after a colon where it is not 4790."
        error={errorAt(errors, 'address')}
      >
        {(ids) => <input {...ids} className="input input-sm num w-full" placeholder="192.0.2.30" autoFocus {...form.register('address')} />}
      </Field>
      <Field label="Code that it shows" error={errorAt(errors, 'code')}>
        {(ids) => (
          <input {...ids} className="input input-sm num w-full tracking-widest" inputMode="numeric" autoComplete="off" {...form.register('code')} />
        )}
      </Field>
      <button type="submit" className="btn btn-sm btn-primary mt-6" disabled={isSubmitting}>
        {isSubmitting ? 'Pairing …' : 'Pair'}
      </button>
    </form>
  );
}

interface HostProps {
  readonly host: PairedHost;
  readonly panel: Panel;
  readonly onChanged: () => void;
}

function Host({ host, panel, onChanged }: HostProps) {
  const [seen, setSeen] = useState<HostComparison | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [isLooking, setLooking] = useState(true);
  const looks = useRef(0);
  const { progress, send, cancel } = useSending();
  const look = useCallback(async (): Promise<void> => {
    const turn = ++looks.current;
    setLooking(true);
    const compared = await call<HostComparison>('GET', `/hosts/${host.id}/compare?panel=${panel.id}`);
    if (turn !== looks.current) return;
    setLooking(false);
    // What it was before is not taken for what it is.
    setSeen(compared.ok ? compared.value : null);
    setProblem(compared.ok ? null : compared.problem);
  }, [host.id, panel.id]);
  useEffect(() => {
    void Promise.resolve().then(look);
  }, [look]);
  const sendIt = async (): Promise<void> => {
    const failed = await send(host.id, panel.id, seen?.state.hosted?.digest ?? null);
    if (failed) setProblem(failed);
    else toast(`${panel.name} runs on ${host.name}`);
    onChanged();
    if (!failed) await look();
  };
  const back = async (): Promise<void> => {
    const done = await call<HostState>('POST', `/hosts/${host.id}/back`, { replaces: seen?.state.hosted?.digest ?? '' });
    setProblem(done.ok ? null : done.problem);
    if (done.ok) await look();
  };
  const fetchLog = async (): Promise<void> => {
    const done = await call<{ entries: number }>('POST', `/hosts/${host.id}/log`);
    if (done.ok) toast(done.value.entries === 0 ? 'Its log has nothing new' : `${counted(done.value.entries, 'write')} fetched into the log`);
    else setProblem(done.problem);
  };
  const forget = async (): Promise<void> => {
    const done = await call('POST', `/hosts/${host.id}/forget`);
    if (done.ok) onChanged();
    else setProblem(done.problem);
  };
  return (
    <section aria-label={host.name} data-host={host.name}>
      <div className="mb-2 flex items-center gap-3">
        <span className="num">{host.address}</span>
        <span className="quiet flex-1">{host.sentAt ? `sent last ${dayAndTime(host.sentAt)}` : 'nothing sent yet'}</span>
        <button type="button" className="btn btn-xs btn-outline" disabled={isLooking} onClick={() => void look()}>
          <RefreshCw size={12} aria-hidden /> Look again
        </button>
      </div>
      {problem ? (
        <p className="is-bad mb-2" role="alert">
          ✕ {problem.message} {problem.remedy}
        </p>
      ) : null}
      {seen ? <Compared seen={seen} panel={panel} /> : isLooking ? <p className="quiet">Asking it what runs there …</p> : null}
      {progress ? (
        <div className="my-2 flex items-center gap-3" role="status">
          <progress className="progress w-64" max={1} value={progress.part ?? undefined} aria-label="Sending" />
          <span className="quiet flex-1">{progress.said}</span>
          {progress.part === null ? null : (
            <button type="button" className="btn btn-xs" onClick={cancel}>
              Cancel
            </button>
          )}
        </div>
      ) : null}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={!seen || seen.refusal !== null || progress !== null}
          onClick={() => void sendIt()}
        >
          {seen?.isSame ? `Start ${panel.name} anew` : seen?.state.hosted ? `Send ${panel.name} again` : `Send ${panel.name}`}
        </button>
        {seen?.state.hosted ? (
          <>
            <button type="button" className="btn btn-sm btn-ghost" disabled={progress !== null} onClick={() => void fetchLog()}>
              Fetch its log of writes
            </button>
            <a className="btn btn-sm btn-ghost" href={`/api/v1/hosts/${host.id}/project-file`} download>
              <Download size={14} aria-hidden /> What runs there, as a file
            </a>
            {seen.state.before ? (
              <button
                type="button"
                className="btn btn-sm btn-ghost"
                title={`${seen.state.before.panelName}, sent from ${seen.state.before.sentBy} ${dayAndTime(seen.state.before.sentAt)}`}
                disabled={progress !== null}
                onClick={() => void back()}
              >
                Back to the one before
              </button>
            ) : null}
          </>
        ) : null}
        <button type="button" className="btn btn-sm btn-ghost ml-auto" onClick={() => void forget()}>
          Forget this panel host
        </button>
      </div>
    </section>
  );
}

const inMinutes = (ms: number): string => {
  const minutes = Math.round(Math.abs(ms) / 60_000);
  return minutes === 0 ? `${Math.round(Math.abs(ms) / 1000)} s` : minutes < 120 ? `${minutes} min` : `${Math.round(minutes / 60)} h`;
};

function Compared({ seen, panel }: { readonly seen: HostComparison; readonly panel: Panel }) {
  const { state, clockAheadMs, differences, isSame, refusal, notes, unread } = seen;
  const { hosted } = state;
  const isAnother = hosted !== null && hosted.panelId !== panel.id;
  return (
    <div className="hairline rounded p-3" data-compared>
      <dl className="grid grid-cols-[8rem_1fr] gap-x-3 gap-y-1">
        <dt className="quiet">There</dt>
        <dd>
          {hosted ? (
            <>
              <strong>{hosted.panelName}</strong> of {hosted.projectName}: {counted(hosted.pages, 'page')}, {counted(hosted.tags, 'tag')}; sent from{' '}
              {hosted.sentBy}, {dayAndTime(hosted.sentAt)}
              {state.phase === 'trying' ? <span className="is-look"> ◑ just taken over</span> : null}
            </>
          ) : (
            <span>nothing runs yet</span>
          )}
        </dd>
        <dt className="quiet">Here</dt>
        <dd>
          <strong>{panel.name}</strong>
          {seen.digest === '' ? null : (
            <>
              : {counted(seen.pages, 'page')}, {counted(seen.tags, 'tag')}, {counted(seen.links, 'link')}; {Math.ceil(seen.bytes / 1000)} kB
            </>
          )}
        </dd>
        <dt className="quiet">Its machine</dt>
        <dd>
          {state.machine}; program {state.program}; {Math.round(state.freeBytes / 1_000_000).toLocaleString('en')} MB of room
        </dd>
      </dl>
      {state.rolledBack ? (
        <p className="is-bad mt-2" role="alert">
          ✕ What was sent {dayAndTime(state.rolledBack.at)} was given up: {state.rolledBack.why}
        </p>
      ) : null}
      {Math.abs(clockAheadMs) > CLOCK_OFF_MS ? (
        <p className="is-look mt-2">
          ◑ Its clock is {inMinutes(clockAheadMs)} {clockAheadMs > 0 ? 'ahead' : 'behind'}: alarms and writes there are noted with wrong times.
        </p>
      ) : null}
      {isAnother ? <p className="is-look mt-2">◑ Another panel runs there: it is replaced.</p> : null}
      {refusal ? (
        <p className="is-bad mt-2" role="alert">
          ✕ {refusal.message} {refusal.remedy}
        </p>
      ) : null}
      {notes.map((note) => (
        <p key={note} className="quiet mt-2">
          {note}
        </p>
      ))}
      {isSame ? <p className="mt-2">● What runs there is the same as here.</p> : null}
      {unread ? <p className="is-look mt-2">◑ What runs there could not be compared: {unread}</p> : null}
      {differences && differences.length > 0 ? <Differences all={differences} /> : null}
    </div>
  );
}
