/** Sending a panel to a panel host: how far it is, and an end to it before it is taken over. */
import { useRef, useState } from 'react';
import type { SendProgress } from '@/core/hosting/compared.ts';
import type { Problem } from '@/core/result.ts';
import { callLines } from '../../live/api.ts';

export interface Sending {
  /** How much of it is there, from 0 to 1; null while it is taken over, which is not ended half way. */
  readonly part: number | null;
  readonly said: string;
}

const ENDED: Problem = { code: 'ended', message: 'Sending was ended before it was taken over.', remedy: 'What runs there is as it was.' };

export function useSending() {
  const [progress, setProgress] = useState<Sending | null>(null);
  const stop = useRef<AbortController | null>(null);
  /** @param replaces what was seen running there @returns why it was not done, null when it was */
  const send = async (hostId: string, panelId: string, replaces: string | null): Promise<Problem | null> => {
    stop.current = new AbortController();
    setProgress({ part: 0, said: 'Putting it together …' });
    let end: Problem | null = ENDED;
    const take = (line: SendProgress): void => {
      if (line.kind === 'sent')
        setProgress({ part: line.bytes / line.of, said: `${Math.round(line.bytes / 1000)} of ${Math.ceil(line.of / 1000)} kB` });
      else if (line.kind === 'taking') setProgress({ part: null, said: 'It is taken over: what is held there is let go first …' });
      else end = line.kind === 'failed' ? line.problem : null;
    };
    const sent = await callLines<SendProgress>('POST', `/hosts/${hostId}/send`, take, stop.current.signal, { panelId, replaces });
    const wasStopped = stop.current.signal.aborted;
    setProgress(null);
    return sent.ok || wasStopped ? end : sent.problem;
  };
  return { progress, send, cancel: () => stop.current?.abort() };
}
