'use client';
/** Alarms that are open, and what became of others; each is acknowledged, shelved, or reset. */
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { alarmFilter } from '@/core/panel/panelAlarms.ts';
import { passes, type AlarmAct, type AlarmLine, type AlarmRecord } from '@/core/alarm/alarmLine.ts';
import { EVENT_WORDS, isCalling } from '@/core/alarm/alarmState.ts';
import { levelOf } from '@/core/panel/levels.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import type { Scene } from '@/core/panel/scene.ts';
import type { Element } from '@/core/project/entities.ts';
import { call } from '../../live/api.ts';
import { useStage } from '../SceneContext.tsx';
import { AlarmDialog, type ActMore } from './AlarmDialog.tsx';
import { alarmText, callingIn, PriorityMark, stateText, timeText, unknownText, useAlarms } from './alarmParts.tsx';
import type { DrawingProps } from './drawing.ts';

/** Narrower than this a line is two. */
const WIDE_PX = 560;
const RECORDS = 200;

export function AlarmsDrawing({ element, w, isEnabled }: DrawingProps) {
  const { scene, isPressable, signing } = useStage();
  const { say } = scene;
  const { canShelve } = settingsOf('alarms', element);
  const { lines, unknown, problem, isLive } = useAlarms(element);
  const [isPast, setPast] = useState(false);
  const [openId, setOpen] = useState<string | null>(null);
  const level = levelOf(element);
  const isBarred = level > (signing.who?.level ?? 0);
  const canAct = isPressable && isLive && (isEnabled || isBarred);
  const act = useActs(element);
  const allowed = (then: () => void): void => (isBarred ? signing.ask(level) : then());
  const calling = callingIn(lines);
  const opened = lines.find(({ id }) => id === openId) ?? null;
  const isWide = w >= WIDE_PX;
  const ackAll = async (): Promise<void> => {
    // What is seen now, and no other.
    for (const line of calling) if (!(await act(line, 'ack', {}))) return;
  };
  return (
    <section
      className="bg-base-100 hairline flex h-full w-full flex-col overflow-hidden rounded-md text-[15px]"
      aria-label={element.label || say('Alarms')}
    >
      <header className="border-base-300 flex flex-wrap items-center gap-2 border-b px-2 py-1">
        <strong className="truncate text-[14px]">{element.label || say('Alarms')}</strong>
        <span className="quiet num text-[13px]" role="status">
          {lines.length === 0 ? '' : say('{1} open, {2} to acknowledge', String(lines.length), String(calling.length))}
        </span>
        <span className="flex-1" />
        <Tab isOn={!isPast} onClick={() => setPast(false)}>
          {say('Now')}
        </Tab>
        <Tab isOn={isPast} onClick={() => setPast(true)}>
          {say('Before')}
        </Tab>
        {isPast ? null : (
          <button
            type="button"
            className="btn btn-sm min-h-9"
            disabled={!canAct || calling.length === 0}
            onClick={() => allowed(() => void ackAll())}
          >
            {say('Acknowledge all')}
          </button>
        )}
      </header>
      {isLive ? null : (
        <p className="is-bad px-3 py-2 font-semibold" role="alert">
          ✕ {say('Alarms are not live')}
        </p>
      )}
      {problem === '' ? null : <p className="is-bad px-3 py-1 text-[13px]">✕ {problem}</p>}
      {unknown.length > 0 && isLive ? <p className="is-look px-3 py-1 text-[13px]">◑ {unknownText(unknown, scene)}</p> : null}
      <div className="min-h-0 flex-1 overflow-auto" tabIndex={-1}>
        {isPast ? (
          <Records scene={scene} element={element} />
        ) : lines.length === 0 ? (
          <p className="quiet p-3">{isLive ? say('No alarms') : ''}</p>
        ) : (
          <ul className={isLive ? '' : 'opacity-50'}>
            {lines.map((line) => (
              <li
                key={line.id}
                className={`border-base-300 relative flex items-center gap-3 border-b py-1 pr-2 pl-3 ${isWide ? '' : 'flex-wrap'}`}
                data-alarm={line.state}
              >
                {isCalling(line.state) ? <span className="bg-error blinks absolute inset-y-0 left-0 w-1" aria-hidden /> : null}
                <PriorityMark priority={line.priority} say={say} />
                <button
                  type="button"
                  className={`flex min-h-11 min-w-0 flex-col justify-center text-left ${isWide ? 'flex-1' : 'order-last w-full'}`}
                  onClick={() => setOpen(line.id)}
                >
                  {/* A text that is cut could be cut in a number: it takes the lines that it needs. */}
                  <span className={`max-w-full leading-tight [overflow-wrap:anywhere] ${isCalling(line.state) ? 'font-semibold' : ''}`} dir="auto">
                    {alarmText(line, scene)}
                  </span>
                  <span className="quiet max-w-full text-[13px] leading-tight [overflow-wrap:anywhere]">
                    {stateText(line, say)}
                    {line.problem === '' ? '' : ` · ${line.problem}`}
                  </span>
                </button>
                {isWide ? null : <span className="flex-1" />}
                <span className="quiet num shrink-0 text-[13px]">{timeText(line.cameAt)}</span>
                {isCalling(line.state) || isWide ? (
                  <button
                    type="button"
                    className={`btn btn-sm min-h-11 shrink-0 ${isCalling(line.state) ? 'btn-primary' : 'invisible'}`}
                    disabled={!canAct || !isCalling(line.state)}
                    onClick={() => allowed(() => void act(line, 'ack', {}))}
                  >
                    {say('Acknowledge')}
                  </button>
                ) : null}
              </li>
            ))}
          </ul>
        )}
      </div>
      {opened ? (
        <AlarmDialog
          line={opened}
          scene={scene}
          canAct={canAct}
          canShelve={canShelve}
          onAct={(what, more) => {
            if (isBarred) return void signing.ask(level);
            void act(opened, what, more).then((done) => done && setOpen(null));
          }}
          onClose={() => setOpen(null)}
        />
      ) : null}
    </section>
  );
}

function Tab({ isOn, onClick, children }: { readonly isOn: boolean; readonly onClick: () => void; readonly children: string }) {
  return (
    <button type="button" aria-pressed={isOn} className={`btn btn-sm min-h-9 ${isOn ? 'btn-primary' : 'btn-ghost'}`} onClick={onClick}>
      {children}
    </button>
  );
}

/** What comes of it is told by the list itself; what was refused is said. */
function useActs(element: Element): (line: AlarmLine, act: AlarmAct, more: ActMore) => Promise<boolean> {
  const { scene, signing } = useStage();
  return async ({ id, count }, act, more) => {
    const done = await call<AlarmLine>('POST', `/panels/${scene.panel.id}/elements/${element.id}/alarm`, {
      alarmId: id,
      count,
      act,
      ...more,
      ...(signing.session === undefined ? {} : { session: signing.session }),
    });
    if (!done.ok) toast.error(done.problem.message, { description: done.problem.remedy });
    else if (done.value.problem !== '') toast.warning(done.value.problem, { duration: 15_000 });
    return done.ok;
  };
}

function Records({ scene, element }: { readonly scene: Scene; readonly element: Element }) {
  const { say, panel } = scene;
  const [records, setRecords] = useState<readonly AlarmRecord[] | string | null>(null);
  const load = useCallback(
    () =>
      void call<readonly AlarmRecord[]>('GET', `/panels/${panel.id}/alarms?limit=${RECORDS}`).then((done) =>
        setRecords(done.ok ? done.value : done.problem.message),
      ),
    [panel.id],
  );
  useEffect(load, [load]);
  if (records === null) return <p className="quiet p-3">{say('Reading …')}</p>;
  if (typeof records === 'string') return <p className="is-bad p-3">✕ {records}</p>;
  const filter = alarmFilter(element);
  const shown = records.filter((record) => filter && passes(record, filter));
  if (shown.length === 0) return <p className="quiet p-3">{say('Nothing has come yet')}</p>;
  return (
    <ul>
      {shown.map(({ seq, at, kind, text, by, note, priority }) => (
        <li key={seq} className="border-base-300 flex items-baseline gap-3 border-b px-2 py-1 text-[14px]">
          <span className="quiet num shrink-0 text-[13px]">{timeText(at)}</span>
          <span className="min-w-0 flex-1">
            {text}
            <span className="quiet block text-[13px]">
              {say(EVENT_WORDS[kind])}
              {by === '' ? '' : ` · ${by}`}
              {note === '' ? '' : ` · ${note}`}
            </span>
          </span>
          <span className="quiet shrink-0 text-[13px]">{say(priority)}</span>
        </li>
      ))}
    </ul>
  );
}
