'use client';
/** Sends a panel once more to the panel host that has it: one press. */
import { MonitorUp } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { PairedHost } from '@/core/hosting/compared.ts';
import type { HostState } from '@/core/hosting/messages.ts';
import type { Panel } from '@/core/project/entities.ts';
import { call } from '../../live/api.ts';
import { useLoaded } from '../../parts/useLoaded.ts';
import { useSending } from './useSending.ts';

/** @param round grows when what is paired or sent may have changed */
export function SendAgain({ panel, round, onTrouble }: { readonly panel: Panel; readonly round: number; readonly onTrouble: () => void }) {
  const { value } = useLoaded<{ readonly hosts: readonly PairedHost[] }>('/hosts', round);
  const { progress, send } = useSending();
  const [isAsking, setAsking] = useState(false);
  const host = value?.hosts.find(({ panelId }) => panelId === panel.id);
  if (!host) return null;
  const again = async (): Promise<void> => {
    setAsking(true);
    const state = await call<HostState>('GET', `/hosts/${host.id}`);
    const runs = state.ok ? state.value.hosted : null;
    // What somebody else has put there is looked at first.
    const isOurs = runs === null || runs.panelId === panel.id;
    const failed = !state.ok ? state.problem : isOurs ? await send(host.id, panel.id, runs?.digest ?? null) : null;
    setAsking(false);
    if (failed) toast.error(`${failed.message} ${failed.remedy ?? ''}`.trim());
    else if (!isOurs) onTrouble();
    else toast(`${panel.name} runs on ${host.name}`);
  };
  return (
    <button
      type="button"
      className="btn btn-sm btn-outline"
      disabled={isAsking}
      title={`Send ${panel.name} again to ${host.name}`}
      onClick={() => void again()}
    >
      <MonitorUp size={14} aria-hidden /> {isAsking ? (progress?.said ?? 'Sending …') : `To ${host.name}`}
    </button>
  );
}
