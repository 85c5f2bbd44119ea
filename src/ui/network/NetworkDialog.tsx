'use client';
/** Opens the server to the local network, shows the code to join with, and lists who has joined. */
import { useEffect, useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import type { NetworkState, PairingCode, Peer } from '@/core/live/network.ts';
import type { Problem } from '@/core/result.ts';
import { call } from '../live/api.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';
import { dayAndTime, timeOfDay } from '../parts/moment.ts';

const REFRESH_MS = 2000;

export function NetworkDialog({ onClose }: { readonly onClose: () => void }) {
  return (
    <Dialog title="Phones and panels on the network" onClose={onClose} wide>
      <p className="quiet mb-3">
        The server answers this machine only, unless you open it here. Others join with a code, read only, and see panels and nothing else. What
        travels on the network is not encrypted: use it on the machine&apos;s own network.
      </p>
      <Network />
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}

/** Whether others reach this program, by which code they join, and who has. */
export function Network() {
  const [state, setState] = useState<NetworkState | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [round, setRound] = useState(0);
  useEffect(() => {
    const stop = new AbortController();
    const load = (): void =>
      void call<NetworkState>('GET', '/network', undefined, stop.signal).then((loaded) => {
        if (stop.signal.aborted) return;
        if (loaded.ok) setState(loaded.value);
        setProblem(loaded.ok ? null : loaded.problem);
      });
    load();
    const timer = setInterval(load, REFRESH_MS);
    return () => {
      stop.abort();
      clearInterval(timer);
    };
  }, [round]);
  return (
    <>
      {problem ? (
        <p className="is-bad" role="alert">
          {problem.message} {problem.remedy}
        </p>
      ) : null}
      {state ? <Settings key={String(state.open)} state={state} onState={setState} /> : <p className="quiet">Loading …</p>}
      {state?.open ? <PairWith /> : null}
      {state ? <Peers peers={state.peers} onChanged={() => setRound((n) => n + 1)} /> : null}
    </>
  );
}

function Settings({ state, onState }: { readonly state: NetworkState; readonly onState: (state: NetworkState) => void }) {
  const form = useForm({ defaultValues: { address: state.address || (state.adapters[0]?.address ?? ''), names: state.names.join(' ') } });
  const { errors, isSubmitting } = form.formState;
  const address = useWatch({ control: form.control, name: 'address' });
  const keep = (open: boolean): Promise<void> =>
    form.handleSubmit(async (texts) => {
      const names = texts.names.split(/[\s,]+/).filter((name) => name !== '');
      const done = await call<NetworkState>('POST', '/network', { open, address: texts.address.trim(), names });
      if (done.ok) onState(done.value);
      else showProblem(form, done.problem, ['address', 'names']);
    })();
  return (
    <form className="grid grid-cols-[1fr_1fr_auto] items-start gap-3" noValidate onSubmit={(e) => e.preventDefault()}>
      <Field
        label="Address of this machine"
        help={state.adapters.map((a) => `${a.address} (${a.name})`).join(', ') || 'No adapter has an address now.'}
        error={errorAt(errors, 'address')}
      >
        {(ids) => (
          <input {...ids} className="input input-sm num w-full" disabled={state.open} placeholder="192.0.2.20" {...form.register('address')} />
        )}
      </Field>
      <Field label="Host names" help="Where it is asked by name; several with spaces between." error={errorAt(errors, 'names')}>
        {(ids) => <input {...ids} className="input input-sm w-full" disabled={state.open} placeholder="mill-pc.local" {...form.register('names')} />}
      </Field>
      <button
        type="button"
        className={`btn btn-sm mt-6 ${state.open ? 'btn-warning' : 'btn-primary'}`}
        disabled={isSubmitting || (!state.open && address.trim() === '')}
        onClick={() => void keep(!state.open)}
      >
        {state.open ? 'Close it again' : 'Open to the network'}
      </button>
      {state.url ? (
        <p className="col-span-3">
          Others reach it at <strong className="num">{state.url}</strong>
        </p>
      ) : null}
    </form>
  );
}

function PairWith() {
  const [code, setCode] = useState<PairingCode | null>(null);
  const [problem, setProblem] = useState('');
  const show = async (): Promise<void> => {
    const made = await call<PairingCode>('POST', '/network/code');
    if (made.ok) setCode(made.value);
    setProblem(made.ok ? '' : made.problem.message);
  };
  return (
    <section aria-label="Code to join with" className="border-base-300 mt-3 flex min-h-14 items-center gap-4 border-t pt-3">
      <button type="button" className="btn btn-sm btn-outline" onClick={() => void show()}>
        {code ? 'Show another code' : 'Show a code'}
      </button>
      {code ? (
        <p>
          <strong className="num text-2xl tracking-widest" data-pairing-code>
            {code.code.slice(0, 4)} {code.code.slice(4)}
          </strong>{' '}
          <span className="quiet">for one phone or panel, until {timeOfDay(code.validUntil)}</span>
        </p>
      ) : null}
      {problem ? <span className="is-bad">{problem}</span> : null}
    </section>
  );
}

function Peers({ peers, onChanged }: { readonly peers: readonly Peer[]; readonly onChanged: () => void }) {
  const [problem, setProblem] = useState('');
  const set = async (peer: Peer, rights: string): Promise<void> => {
    const done = await call('POST', `/network/peers/${peer.id}`, { rights });
    setProblem(done.ok ? '' : done.problem.message);
    onChanged();
  };
  return (
    <section aria-label="Joined" className="border-base-300 mt-3 border-t pt-3">
      <h3 className="mb-1 font-semibold">Joined</h3>
      {problem ? <p className="is-bad">{problem}</p> : null}
      {peers.length === 0 ? <p className="quiet">Nobody yet.</p> : null}
      <ul>
        {peers.map((peer) => (
          <li key={peer.id} data-peer={peer.name} className="border-base-300 flex items-center gap-3 border-b py-1">
            <span className="min-w-0 flex-1 truncate font-medium">{peer.name}</span>
            <span className="quiet text-[13px] whitespace-nowrap">since {dayAndTime(peer.joinedAt)}</span>
            <select
              className="select select-xs w-44"
              aria-label={`Rights of ${peer.name}`}
              value={peer.rights}
              onChange={(e) => void set(peer, e.target.value)}
            >
              <option value="read">reads only</option>
              <option value="check">reads, and looks in checks</option>
              <option value="write">reads, and writes on panels</option>
            </select>
            <button type="button" className="btn btn-xs btn-outline" onClick={() => void set(peer, 'none')}>
              Remove
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
