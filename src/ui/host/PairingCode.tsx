/** The code that a bench is paired with: large enough to be read out across a hall. */
import type { HostAtHand } from '@/core/hosting/messages.ts';
import { call } from '../live/api.ts';
import { timeOfDay } from '../parts/moment.ts';

export function PairingCode({ host, onHost }: { readonly host: HostAtHand; readonly onHost: (host: HostAtHand) => void }) {
  const show = async (): Promise<void> => {
    const made = await call<HostAtHand>('POST', '/host/code');
    if (made.ok) onHost(made.value);
  };
  const { code } = host;
  return (
    <div className="flex flex-wrap items-center gap-4">
      {code ? (
        <p aria-live="polite">
          <strong className="num text-4xl tracking-widest" data-pairing-code>
            {code.code.slice(0, 4)} {code.code.slice(4)}
          </strong>{' '}
          <span className="quiet">for one bench, until {timeOfDay(code.validUntil)}</span>
        </p>
      ) : null}
      <button type="button" className={`btn ${code ? 'btn-sm btn-outline' : 'btn-primary'}`} onClick={() => void show()}>
        {code ? 'Show another code' : 'Show a code to pair a bench with'}
      </button>
    </div>
  );
}
