'use client';
/** Setting a tag for its check: who may set it to what, whether the machine is isolated, and the values that tell mistakes apart. */
import { Hand, ShieldAlert, Undo2 } from 'lucide-react';
import { useState, type FormEvent, type ReactNode } from 'react';
import { LONGEST_ISOLATION_MINUTES } from '@/core/check/driving/drivenValue.ts';
import { hasEnds, type DrivePermission } from '@/core/check/driving/permission.ts';
import { tellingValues } from '@/core/check/mistakes/tellingValues.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Problem } from '@/core/result.ts';
import { v7 as uuid } from 'uuid';
import { cellsOf } from '@/mapping/cells.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { call } from '../../live/api.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { useLive } from '../../live/liveHooks.ts';
import { rememberName } from '../../live/selection.ts';
import { openUnlockFor } from '../../shell/openDialogs.ts';
import { useDriving } from './useDriving.ts';

interface SetValuesProps {
  readonly tag: Tag;
  readonly signal: EffectiveSignal;
  readonly who: string;
  readonly runId: string | null;
}

export function SetValues({ tag, signal, who, runId }: SetValuesProps) {
  const project = useProject();
  const driving = useDriving(tag.id, signal.digest);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [told, setTold] = useState('');
  const [own, setOwn] = useState('');
  const [isBusy, setIsBusy] = useState(false);
  const device = project.deviceOf(tag);
  const { permission, driven } = driving;
  const values = permission === null ? [] : tellingValues(signal.def, cellsOf(signal), permission.range ?? signal.def.range).values;
  if (!device || !driving.isLoaded) return null;
  if (signal.access !== 'readWrite' || !signal.writable)
    return <p className="quiet">It is only read: look when it comes to such a value, or have it set at the controller or fed in at the sensor.</p>;
  const act = async (path: string, body: object): Promise<boolean> => {
    setIsBusy(true);
    setTold('');
    rememberName(who);
    const done = await call<Partial<WriteOutcome>>('POST', `/driven${path}`, body);
    setIsBusy(false);
    const isRefused = done.ok && (done.value.state === 'refused' || done.value.state === 'unknown');
    setProblem(done.ok ? (isRefused ? { code: 'refused', message: done.value.sentence ?? '' } : null) : done.problem);
    if (done.ok && !isRefused) setTold(done.value.sentence ?? '');
    await driving.reload();
    return done.ok;
  };
  const set = (value: string) => act('', { id: uuid(), tagId: tag.id, value, who, ...(runId === null ? {} : { runId }) });
  const isolation = driving.isolated.find(({ deviceId }) => deviceId === device.id) ?? null;
  const isOpen = driving.unlocked.some(({ deviceId, writers }) => deviceId === device.id && writers.includes('check'));
  const unit = tag.unit === '' ? '' : ` ${tag.unit}`;
  const needsIsolation = permission?.moves === true && isolation === null;
  return (
    <section aria-label="Set it for this check" className="border-base-300 mt-2 flex flex-col gap-2 border-t pt-2" data-setting>
      <h3 className="flex items-center gap-2 font-semibold">
        <Hand size={14} aria-hidden /> Set it for this check
      </h3>
      {permission === null ? (
        <Permit tag={tag} signal={signal} who={who} isBusy={isBusy} problem={problem} onPermit={(body) => act('/permissions', body)} />
      ) : (
        <>
          <Permitted permission={permission} unit={unit}>
            <button
              type="button"
              className="btn btn-xs btn-ghost"
              disabled={isBusy || who === ''}
              onClick={() => void act(`/permissions/${tag.id}/end`, { who })}
            >
              Withdraw
            </button>
          </Permitted>
          {permission.moves ? (
            <Isolated
              deviceName={device.name}
              isolation={isolation}
              isBusy={isBusy || who === ''}
              onDeclare={(minutes) => void act('/isolation', { deviceId: device.id, who, minutes })}
            />
          ) : null}
          {isOpen ? null : (
            <p className="flex items-center gap-2">
              <span className="flex-1">◌ Writing to {device.name} is locked for driven checks.</span>
              <button type="button" className="btn btn-xs" onClick={() => openUnlockFor(device.id, 'check')}>
                Unlock …
              </button>
            </p>
          )}
          <form
            className="flex flex-wrap items-center gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (own.trim() !== '') void set(own.trim());
            }}
          >
            {values.map(({ text, shown }) => (
              <button
                key={text}
                type="button"
                className="btn btn-sm num"
                disabled={isBusy || who === '' || !isOpen || needsIsolation}
                onClick={() => void set(text)}
              >
                Set {shown}
                {unit}
              </button>
            ))}
            <input
              aria-label="Another value to set"
              className="input input-sm num w-24"
              placeholder="another"
              value={own}
              onChange={(e) => setOwn(e.target.value)}
            />
            <button type="submit" className="btn btn-sm" disabled={isBusy || who === '' || own.trim() === '' || !isOpen || needsIsolation}>
              Set
            </button>
            {driven && driven.left === null ? (
              <button type="button" className="btn btn-sm btn-outline" disabled={isBusy} onClick={() => void act(`/${driven.id}/back`, { who })}>
                <Undo2 size={13} aria-hidden /> Put {driven.oldText} back
              </button>
            ) : null}
          </form>
        </>
      )}
      <p aria-live="polite">{isBusy ? <span className="quiet">Writing …</span> : told}</p>
      {problem && permission !== null ? (
        <p role="alert">
          <strong className="is-bad">{problem.message}</strong> {problem.remedy}
        </p>
      ) : null}
    </section>
  );
}

function Permitted({ permission, unit, children }: { readonly permission: DrivePermission; readonly unit: string; readonly children: ReactNode }) {
  const { range, moves, who } = permission;
  return (
    <p className="flex items-center gap-2">
      <span className="flex-1">
        It may be set{' '}
        {range === null ? (
          'to any of its states'
        ) : (
          <>
            from <span className="num">{range.low}</span> to <span className="num">{range.high}</span>
            {unit}
          </>
        )}
        {moves ? ', while the machine is isolated' : '; nothing moves by it'} ({who}).
      </span>
      {children}
    </p>
  );
}

interface PermitProps {
  readonly tag: Tag;
  readonly signal: EffectiveSignal;
  readonly who: string;
  readonly isBusy: boolean;
  readonly problem: Problem | null;
  readonly onPermit: (body: object) => Promise<boolean>;
}

/** Nothing is set before a person has said so, for this tag and these values. */
function Permit({ tag, signal, who, isBusy, problem, onPermit }: PermitProps) {
  const [isOpen, setIsOpen] = useState(false);
  const { range } = signal.def;
  const [low, setLow] = useState(range === null ? '' : String(range.low));
  const [high, setHigh] = useState(range === null ? '' : String(range.high));
  const [moves, setMoves] = useState(true);
  if (!isOpen)
    return (
      <p className="flex items-center gap-2">
        <span className="quiet flex-1">Nobody has said that it may be set.</span>
        <button type="button" className="btn btn-xs" disabled={who === ''} onClick={() => setIsOpen(true)}>
          Allow it …
        </button>
      </p>
    );
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    void onPermit({ tagId: tag.id, who, low: low.trim(), high: high.trim(), moves });
  };
  return (
    <form aria-label="What may be set" className="flex flex-col gap-2" noValidate onSubmit={submit}>
      {hasEnds(signal.def) ? (
        <div className="flex items-center gap-2">
          <label htmlFor="least">From</label>
          <input id="least" autoFocus className="input input-sm num w-24" value={low} onChange={(e) => setLow(e.target.value)} />
          <label htmlFor="most">to</label>
          <input id="most" className="input input-sm num w-24" value={high} onChange={(e) => setHigh(e.target.value)} />
          <span className="quiet">{tag.unit}</span>
        </div>
      ) : null}
      <label className="flex items-center gap-2">
        <input type="radio" name="moves" className="radio radio-xs" checked={moves} onChange={() => setMoves(true)} />A command or a set point:
        something may move or heat
      </label>
      <label className="flex items-center gap-2">
        <input type="radio" name="moves" className="radio radio-xs" checked={!moves} onChange={() => setMoves(false)} />
        Nothing can move or heat by it
      </label>
      {problem ? (
        <p role="alert">
          <strong className="is-bad">{problem.message}</strong> {problem.remedy}
        </p>
      ) : null}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-sm btn-primary" disabled={isBusy || who === ''}>
          {who === '' ? 'Say above who allows it' : `${who} allows it`}
        </button>
        <button type="button" className="btn btn-sm btn-ghost" onClick={() => setIsOpen(false)}>
          Cancel
        </button>
      </div>
    </form>
  );
}

interface IsolatedProps {
  readonly deviceName: string;
  readonly isolation: { readonly who: string; readonly until: number } | null;
  readonly isBusy: boolean;
  readonly onDeclare: (minutes: number) => void;
}

/** A declaration, not a lock: only the person can know. */
function Isolated({ deviceName, isolation, isBusy, onDeclare }: IsolatedProps) {
  const live = useLive();
  const [minutes, setMinutes] = useState('10');
  const wanted = Number(minutes);
  const isRight = Number.isInteger(wanted) && wanted >= 1 && wanted <= LONGEST_ISOLATION_MINUTES;
  if (isolation)
    return (
      <p className="flex items-center gap-2">
        <span className="flex-1">
          ✓ {isolation.who} answers for it that the machine of {deviceName} is isolated,{' '}
          {Math.max(1, Math.ceil((isolation.until - live.now()) / 60_000))} more min.
        </span>
        <button type="button" className="btn btn-xs" disabled={isBusy} onClick={() => onDeclare(0)}>
          In use again
        </button>
      </p>
    );
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="is-look flex min-w-48 flex-1 items-center gap-2">
        <ShieldAlert size={14} aria-hidden className="shrink-0" />I have made sure that nothing of the machine of {deviceName} can move or heat,
        whatever is set, for
      </span>
      <input aria-label="Minutes of isolation" className="input input-sm num w-14" value={minutes} onChange={(e) => setMinutes(e.target.value)} />
      <span>min</span>
      <button type="button" className="btn btn-sm" disabled={isBusy || !isRight} onClick={() => onDeclare(wanted)}>
        Declare it isolated
      </button>
    </div>
  );
}
