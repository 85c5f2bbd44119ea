'use client';
/** The test of a connection, stage by stage as it goes, each failure with its meaning, likely causes and frames. */
import { counted } from '@/core/counted.ts';
import { Check, Info, Minus, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { Problem } from '@/core/result.ts';
import type { Device } from '@/core/project/entities.ts';
import type { SettingsProposal, TestStage } from '@/drivers/contract.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { callLines } from '../live/api.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { spaced } from '@/core/live/wireJson.ts';

interface FrameJson {
  readonly at: number;
  readonly direction: 'sent' | 'received';
  readonly bytes: string;
  readonly note: string | null;
}
type Stage = Omit<TestStage, 'frames'> & { readonly frames: readonly FrameJson[] };

const MARKS = {
  passed: { icon: Check, tone: 'is-good' },
  noted: { icon: Info, tone: 'is-look' },
  failed: { icon: X, tone: 'is-bad' },
  skipped: { icon: Minus, tone: 'quiet' },
} as const;

export function ConnectionTest({ device, onClose }: { readonly device: Device; readonly onClose: () => void }) {
  const { id: deviceId, name } = device;
  const project = useProject();
  const change = useChange();
  const [stages, setStages] = useState<readonly Stage[]>([]);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [isRunning, setRunning] = useState(true);
  const [round, setRound] = useState(0);
  useEffect(() => {
    const stop = new AbortController();
    const take = (stage: Stage): void => {
      if (!stop.signal.aborted) setStages((known) => [...known, stage]);
    };
    void callLines<Stage>('POST', `/devices/${deviceId}/test`, take, stop.signal).then((done) => {
      if (stop.signal.aborted) return;
      setRunning(false);
      if (!done.ok) setProblem(done.problem);
    });
    return () => stop.abort();
  }, [deviceId, round]);
  const again = (): void => {
    setStages([]);
    setProblem(null);
    setRunning(true);
    setRound(round + 1);
  };
  const take = async ({ label, of, settings }: SettingsProposal): Promise<void> => {
    const entity = of === 'link' ? project.link(device.linkId) : project.device(deviceId);
    if (!entity) return;
    const set = { settings: { ...entity.settings, ...settings } };
    const done = await change(`${label.charAt(0).toLowerCase()}${label.slice(1)}: ${entity.name}`, [
      { kind: of, id: entity.id, set, was: { settings: entity.settings } },
    ]);
    if (done.ok) again();
  };
  const failed = stages.find((s) => s.state === 'failed');

  return (
    <Dialog title={`Test of the connection to ${name}`} onClose={onClose} wide>
      <ol className="flex flex-col gap-2" aria-label="Stages">
        {stages.map((stage) => (
          <StageRow key={stage.id} stage={stage} onTake={(proposal) => void take(proposal)} />
        ))}
      </ol>
      {isRunning ? (
        <p className="quiet mt-3 flex items-center gap-2" role="status">
          <span className="loading loading-spinner loading-sm" aria-hidden /> {stages.length === 0 ? 'Asking the device …' : 'Going on …'}
        </p>
      ) : problem ? (
        <p role="alert" className="mt-3">
          <strong className="is-bad">{problem.message}</strong> {problem.remedy}
        </p>
      ) : (
        <p className={`mt-3 font-semibold ${failed ? 'is-bad' : 'is-good'}`} role="status">
          {failed ? `✕ Failed at: ${failed.title}.` : '● The connection to the device is good.'}
        </p>
      )}
      <div className="mt-5 flex justify-end gap-2">
        <button type="button" className="btn btn-sm" disabled={isRunning} onClick={again}>
          Test again
        </button>
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          {isRunning ? 'Cancel' : 'Close'}
        </button>
      </div>
    </Dialog>
  );
}

function StageRow({ stage, onTake }: { readonly stage: Stage; readonly onTake: (proposal: SettingsProposal) => void }) {
  const { proposal } = stage;
  const { icon: Icon, tone } = MARKS[stage.state];
  return (
    <li data-stage={stage.id} data-state={stage.state} className="flex gap-3">
      <span className={`mt-0.5 ${tone}`}>
        <Icon size={16} aria-label={stage.state} />
      </span>
      <div className="min-w-0 flex-1">
        <p>
          <strong>{stage.title}</strong> <span className={tone}>{stage.state}</span>
          {stage.state === 'skipped' ? null : <span className="num quiet text-xs"> {stage.ms.toFixed(1)} ms</span>}
        </p>
        <p className="num text-[13px]">{stage.seen}</p>
        {stage.meaning ? <p className="mt-1">{stage.meaning}</p> : null}
        {stage.causes?.length ? (
          <ol className="list-decimal pl-5" aria-label="Likely causes">
            {stage.causes.map((cause) => (
              <li key={cause.cause} data-cause={cause.id}>
                {cause.cause}. <span className="quiet">{cause.remedy}</span>
              </li>
            ))}
          </ol>
        ) : null}
        {proposal ? (
          <button type="button" className="btn btn-sm btn-outline my-1" onClick={() => onTake(proposal)}>
            {proposal.label}
          </button>
        ) : null}
        {stage.frames.length > 0 ? (
          <details className="text-xs" open={stage.state === 'failed'}>
            <summary className="quiet cursor-pointer">{counted(stage.frames.length, 'frame')}</summary>
            <ol className="num bg-base-200 mt-1 max-h-40 overflow-auto rounded p-2" aria-label="Frames of the stage">
              {stage.frames.map((frame, i) => (
                <li key={`${frame.at} ${i}`} className="flex gap-3 whitespace-nowrap">
                  <span className="quiet w-16 text-right">{i === 0 ? '' : `+${(frame.at - (stage.frames[i - 1]?.at ?? frame.at)).toFixed(1)}`}</span>
                  <span>{frame.direction === 'sent' ? '→' : '←'}</span>
                  <span>{spaced(frame.bytes)}</span>
                  {frame.note ? <span className="is-look">{frame.note}</span> : null}
                </li>
              ))}
            </ol>
          </details>
        ) : null}
      </div>
    </li>
  );
}
