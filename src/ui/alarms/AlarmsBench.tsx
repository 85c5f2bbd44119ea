'use client';
/** Alarms of the project: what raises each, how it stands, and what became of all of them. */
import { Download, Plus, X } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import type { AlarmLine, AlarmRecord } from '@/core/alarm/alarmLine.ts';
import { EVENT_WORDS, STATE_WORDS } from '@/core/alarm/alarmState.ts';
import { counted } from '@/core/counted.ts';
import { walked } from '@/core/panel/bound.ts';
import { AS_WRITTEN } from '@/core/panel/scene.ts';
import type { Alarm } from '@/core/project/entities.ts';
import { PRIORITIES } from '@/core/project/kinds/priorities.ts';
import { call } from '../live/api.ts';
import { useChange, useProject, useStep } from '../live/LiveContext.tsx';
import { boundText } from '../panels/editor/BoundField.tsx';
import { PriorityMark, stateText, timeText, unknownText, useAlarmsNow } from '../panels/drawings/alarmParts.tsx';
import { Empty } from '../parts/Field.tsx';
import { saveCsv } from '../parts/saveCsv.ts';
import { AlarmForm } from './AlarmForm.tsx';
import { alarmsCsv } from './alarmsCsv.ts';
import { conditionText } from './conditionText.ts';

const COLUMNS = 'grid grid-cols-[5.5rem_minmax(0,2fr)_minmax(0,2fr)_minmax(0,1fr)_minmax(0,1.6fr)_2.5rem] items-center gap-3 px-3';

export function AlarmsBench() {
  const project = useProject();
  const [open, setOpen] = useState<Alarm | 'new' | null>(null);
  const [isPast, setPast] = useState(false);
  const now = useAlarmsNow(null);
  const alarms = [...project.alarms].sort(
    (a, b) => PRIORITIES.indexOf(a.priority) - PRIORITIES.indexOf(b.priority) || a.group.localeCompare(b.group, 'en'),
  );
  const standing = new Map(now?.lines.map((line) => [line.id, line]));
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="text-lg font-semibold">Alarms</h1>
        <span className="quiet" role="status">
          {counted(alarms.length, 'alarm')}
          {now ? `, ${now.lines.length} open` : ''}
        </span>
        {now && now.unknown.length > 0 ? (
          <span className="is-look min-w-0 truncate text-sm" title={unknownText(now.unknown, AS_WRITTEN)}>
            ◑ {unknownText(now.unknown, AS_WRITTEN)}
          </span>
        ) : null}
        {now && now.problem !== '' ? <span className="is-bad truncate text-sm">✕ {now.problem}</span> : null}
        <span className="flex-1" />
        <div className="flex gap-1" role="group" aria-label="What is shown">
          <button
            type="button"
            aria-pressed={!isPast}
            className={`btn btn-sm ${isPast ? 'btn-ghost' : 'btn-primary'}`}
            onClick={() => setPast(false)}
          >
            Alarms
          </button>
          <button type="button" aria-pressed={isPast} className={`btn btn-sm ${isPast ? 'btn-primary' : 'btn-ghost'}`} onClick={() => setPast(true)}>
            What became of them
          </button>
        </div>
        <Link className="btn btn-sm btn-outline" href="/map">
          Back to the map
        </Link>
        <button type="button" className="btn btn-sm btn-primary" onClick={() => setOpen('new')}>
          <Plus size={14} aria-hidden /> Alarm
        </button>
      </div>
      {open === null ? null : <AlarmForm key={open === 'new' ? '' : open.id} alarm={open === 'new' ? null : open} onClose={() => setOpen(null)} />}
      {isPast ? (
        <Past />
      ) : alarms.length > 0 ? (
        <div className="card-flat min-h-0 flex-1 overflow-auto" role="table" aria-label="Alarms">
          <div role="row" className={`${COLUMNS} border-base-300 quiet bg-base-100 sticky top-0 border-b py-1.5 text-[13px] font-semibold`}>
            {['Priority', 'Text', 'Raised by', 'Group', 'State', ''].map((title) => (
              <span role="columnheader" key={title}>
                {title}
              </span>
            ))}
          </div>
          {alarms.map((alarm) => (
            <AlarmRow key={alarm.id} alarm={alarm} line={standing.get(alarm.id) ?? null} isKnown={now !== null} onEdit={() => setOpen(alarm)} />
          ))}
        </div>
      ) : open === null ? (
        <Empty title="No alarms yet">
          <p>
            An alarm watches a bit, a limit, a value that fails, or any expression. Panels list alarms, and people acknowledge and shelve them there;
            what becomes of each is kept.
          </p>
          <button type="button" className="btn btn-primary" onClick={() => setOpen('new')}>
            Make an alarm
          </button>
        </Empty>
      ) : null}
    </div>
  );
}

interface AlarmRowProps {
  readonly alarm: Alarm;
  /** Null where it is normal. */
  readonly line: AlarmLine | null;
  readonly isKnown: boolean;
  readonly onEdit: () => void;
}

function AlarmRow({ alarm, line, isKnown, onEdit }: AlarmRowProps) {
  const project = useProject();
  const change = useChange();
  const step = useStep();
  const { template } = walked({ template: alarm.settings.template }, (by) => boundText(project, { by })) as { template: string };
  const state = line?.state ?? 'normal';
  const remove = async (): Promise<void> => {
    const done = await change(`alarm “${template.slice(0, 60)}” removed`, [{ kind: 'alarm', id: alarm.id, set: null }]);
    if (done.ok) toast('The alarm was removed', { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  const raised = conditionText(alarm, project);
  return (
    <div role="row" data-alarm={state} className={`${COLUMNS} border-base-300 min-h-9 border-b py-1`}>
      <PriorityMark priority={alarm.priority} say={AS_WRITTEN.say} />
      <button type="button" className="link link-hover truncate text-left font-medium" title={template} onClick={onEdit}>
        {template}
      </button>
      <span className="num truncate text-[13px]" title={raised}>
        {raised}
      </span>
      <span className="truncate">{alarm.group}</span>
      <span className={`truncate ${state === 'normal' ? 'quiet' : ''}`} title={line?.problem}>
        {line ? stateText(line, AS_WRITTEN.say) : isKnown ? STATE_WORDS.normal : '…'}
      </span>
      <button
        type="button"
        className="btn btn-xs btn-ghost btn-square"
        aria-label={`Remove the alarm ${template}`}
        title="Remove"
        onClick={() => void remove()}
      >
        <X size={13} aria-hidden />
      </button>
    </div>
  );
}

const MOST_RECORDS = 1000;

function Past() {
  const [text, setText] = useState('');
  const [records, setRecords] = useState<readonly AlarmRecord[] | string | null>(null);
  useEffect(() => {
    let isOver = false;
    const timer = setTimeout(
      () =>
        void call<readonly AlarmRecord[]>(
          'GET',
          `/alarms/events?limit=${MOST_RECORDS}${text === '' ? '' : `&text=${encodeURIComponent(text)}`}`,
        ).then((done) => isOver || setRecords(done.ok ? done.value : done.problem.message)),
      text === '' ? 0 : 200,
    );
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [text]);
  const list = typeof records === 'string' || records === null ? [] : records;
  return (
    <>
      <div className="flex items-center gap-2">
        <input
          className="input input-sm w-72"
          aria-label="Find in what became of alarms"
          placeholder="Find by text, group, person, reason"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <span className="quiet" role="status">
          {records === null ? 'Reading …' : counted(list.length, 'record')}
        </span>
        <span className="flex-1" />
        <button type="button" className="btn btn-sm btn-ghost" disabled={list.length === 0} onClick={() => saveCsv('alarms.csv', alarmsCsv(list))}>
          <Download size={14} aria-hidden /> CSV
        </button>
      </div>
      {typeof records === 'string' ? (
        <p className="is-bad">✕ {records}</p>
      ) : (
        <div className="card-flat min-h-0 flex-1 overflow-auto">
          {list.length === 0 && records !== null ? <p className="quiet p-3">{text === '' ? 'Nothing has come yet.' : 'Nothing like that.'}</p> : null}
          <table className="table-sm table">
            <tbody>
              {list.map(({ seq, at, kind, text: said, priority, group, by, note }) => (
                <tr key={seq}>
                  <td className="num whitespace-nowrap">{timeText(at)}</td>
                  <td>{EVENT_WORDS[kind]}</td>
                  <td className="font-medium">{said}</td>
                  <td>{priority}</td>
                  <td>{group}</td>
                  <td>{by}</td>
                  <td className="quiet">{note}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
