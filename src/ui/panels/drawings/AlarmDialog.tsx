'use client';
/** One alarm: what to do, since when, and what can be done with it. */
import { useState } from 'react';
import type { AlarmAct, AlarmLine } from '@/core/alarm/alarmLine.ts';
import { isCalling } from '@/core/alarm/alarmState.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { alarmText, PriorityMark, stateText, timeText } from './alarmParts.tsx';

export interface ActMore {
  readonly why?: string;
  readonly minutes?: number;
}

const SHELF_MINUTES = [15, 60, 240, 480] as const;

interface AlarmDialogProps {
  readonly line: AlarmLine;
  readonly scene: Scene;
  readonly canAct: boolean;
  readonly canShelve: boolean;
  readonly onAct: (act: AlarmAct, more: ActMore) => void;
  readonly onClose: () => void;
}

export function AlarmDialog({ line, scene, canAct, canShelve, onAct, onClose }: AlarmDialogProps) {
  const { say, word } = scene;
  const { state, advice, group, cameAt, goneAt, ackedAt, ackedBy, count, shelved, unknown, problem } = line;
  const [isShelving, setShelving] = useState(false);
  const [why, setWhy] = useState('');
  const [minutes, setMinutes] = useState<number>(SHELF_MINUTES[0]);
  const rows: readonly (readonly [string, string])[] = [
    [say('What to do'), word(advice)],
    [say('Group'), word(group)],
    [say('Came'), cameAt === null ? '' : `${timeText(cameAt)}${count > 1 ? ` (${count} ×)` : ''}`],
    [say('Gone'), timeText(goneAt)],
    [say('Acknowledged'), ackedAt === null ? '' : `${timeText(ackedAt)} ${ackedBy}`],
    [say('Shelved'), shelved ? `${say('until {1}', timeText(shelved.until))}: ${shelved.why} (${shelved.by})` : ''],
    [say('not known now'), unknown],
    ['', problem],
  ];
  return (
    <Dialog title={alarmText(line, scene)} onClose={onClose}>
      <p className="mb-3 flex items-center gap-3">
        <PriorityMark priority={line.priority} say={say} /> {stateText(line, say)}
      </p>
      <dl className="mb-3 grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1">
        {rows.map(([name, text]) =>
          text === '' ? null : (
            <div key={name} className="contents">
              <dt className="quiet">{name}</dt>
              <dd>{text}</dd>
            </div>
          ),
        )}
      </dl>
      {isShelving ? (
        <form
          className="flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            onAct('shelve', { why: why.trim(), minutes });
          }}
        >
          <label className="flex flex-col gap-1 text-[13px] font-semibold">
            {say('Why')}
            <input autoFocus className="input input-lg w-full" maxLength={200} value={why} onChange={(e) => setWhy(e.target.value)} />
          </label>
          <div className="flex flex-wrap gap-2" role="radiogroup" aria-label={say('For how long')}>
            {SHELF_MINUTES.map((each) => (
              <button
                key={each}
                type="button"
                role="radio"
                aria-checked={each === minutes}
                className={`btn ${each === minutes ? 'btn-primary' : ''}`}
                onClick={() => setMinutes(each)}
              >
                {each < 60 ? say('{1} min', String(each)) : say('{1} h', String(each / 60))}
              </button>
            ))}
          </div>
          <div className="mt-2 flex justify-end gap-2">
            <button type="button" className="btn btn-lg btn-ghost" onClick={() => setShelving(false)}>
              {say('Cancel')}
            </button>
            <button type="submit" className="btn btn-lg btn-primary" disabled={why.trim() === '' || !canAct}>
              {say('Shelve')}
            </button>
          </div>
        </form>
      ) : (
        <div className="flex flex-wrap justify-end gap-2">
          {canShelve && (state === 'unacked' || state === 'acked' || state === 'returned') ? (
            <button type="button" className="btn btn-lg" disabled={!canAct} onClick={() => setShelving(true)}>
              {say('Shelve')} …
            </button>
          ) : null}
          {canShelve && state === 'shelved' ? (
            <button type="button" className="btn btn-lg" disabled={!canAct} onClick={() => onAct('unshelve', {})}>
              {say('Back from the shelf')}
            </button>
          ) : null}
          {state === 'latchedAcked' ? (
            <button type="button" className="btn btn-lg" disabled={!canAct} onClick={() => onAct('reset', {})}>
              {say('Reset')}
            </button>
          ) : null}
          {isCalling(state) ? (
            <button type="button" className="btn btn-lg btn-primary" disabled={!canAct} onClick={() => onAct('ack', {})}>
              {say('Acknowledge')}
            </button>
          ) : null}
          <button type="button" className="btn btn-lg btn-ghost" onClick={onClose}>
            {say('Close')}
          </button>
        </div>
      )}
    </Dialog>
  );
}
