/** Nothing was sent yet: how to send something, and the code to do it with. */
import { useEffect } from 'react';
import { useAtHand } from './useAtHand.ts';
import { PairingCode } from './PairingCode.tsx';

export function WaitingScreen() {
  const { host, problem, take } = useAtHand();
  const isRunning = host?.hosted !== null && host?.hosted !== undefined;
  useEffect(() => {
    if (isRunning) location.replace('/');
  }, [isRunning]);
  return (
    <main className="bg-base-200 grid min-h-dvh place-items-center p-6">
      <section className="card-flat flex w-full max-w-2xl flex-col gap-4 p-8">
        <h1 className="text-2xl font-semibold">{host ? host.name : 'Panel host'}</h1>
        <p>This panel host has no panel yet.</p>
        <ol className="ml-5 list-decimal space-y-1">
          <li>Show a code here.</li>
          <li>
            At the bench, open <strong>Panels</strong>, and choose <strong>Panel hosts</strong>.
          </li>
          <li>
            Enter the address of this machine and the code{host ? <span className="quiet"> (port {host.port})</span> : null}, and send the panel.
          </li>
        </ol>
        {host ? <PairingCode host={host} onHost={take} /> : null}
        {host?.rolledBack ? (
          <p className="is-bad" role="alert">
            What was sent last was given up: {host.rolledBack.why}
          </p>
        ) : null}
        {problem ? (
          <p className="is-bad" role="alert">
            ✕ {problem}
          </p>
        ) : null}
        <p className="quiet">
          <a className="link" href="/host">
            About this panel host
          </a>
          : its name, who may send to it, the network, writing.
        </p>
      </section>
    </main>
  );
}
