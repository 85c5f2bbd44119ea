'use client';
/** Finds who answers on a link, and on a serial port with which speed and parity. Only reads. */
import { useEffect, useRef, useState } from 'react';
import { v7 as uuid } from 'uuid';
import { longestLine, longestNumbers, type Finding } from '@/core/find/finding.ts';
import type { Link } from '@/core/project/entities.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { callLines } from '../live/api.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';

type What = 'numbers' | 'line';

export function FindNumbers({ link, onClose }: { readonly link: Link; readonly onClose: () => void }) {
  const driver = describeDriver(link.driver);
  const tries = driver?.searchesLine?.length ?? 0;
  const searchesLine = tries > 0;
  const title = titleOf(driver);
  const word = title.toLowerCase();
  const [what, setWhat] = useState<What>('numbers');
  const [from, setFrom] = useState('1');
  const [to, setTo] = useState(searchesLine ? '10' : '16');
  const [timeoutMs, setTimeoutMs] = useState('200');
  const [found, setFound] = useState<readonly Finding[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  const [state, setState] = useState<'idle' | 'running' | 'ended'>('idle');
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);

  const count = Number(to) - Number(from) + 1;
  const isFit = [from, to, timeoutMs].every((t) => /^\d+$/.test(t)) && count >= 1 && Number(from) >= 1 && Number(to) <= 255;
  const longest = what === 'numbers' ? longestNumbers(count, Number(timeoutMs)) : longestLine(tries, count, Number(timeoutMs));
  const begin = async (): Promise<void> => {
    setFound([]);
    setProblem(null);
    setState('running');
    const mine = new AbortController();
    stop.current = mine;
    const body = { from: Number(from), to: Number(to), timeoutMs: Number(timeoutMs) };
    const done = await callLines<Finding>('POST', `/links/${link.id}/find/${what}`, (f) => setFound((known) => [...known, f]), mine.signal, body);
    if (!done.ok && !mine.signal.aborted) setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
    setState('ended');
  };
  const tried = found.filter((f) => f.kind === 'number' || f.kind === 'line').length;
  const all = what === 'numbers' ? count : tries;
  return (
    <Dialog title={`Discover devices on ${link.name}`} onClose={onClose} wide>
      <p className="quiet mb-3">
        Asks each for one value and writes nothing. While it runs the link is read by nobody else here, so its values turn bad, and come back by
        themselves.
      </p>
      <div className="grid grid-cols-4 gap-x-4">
        {searchesLine ? (
          <Field label="Look for" help="A device whose number is known, with unknown settings; or unknown numbers.">
            {(ids) => (
              <select
                {...ids}
                className="select select-sm w-full"
                value={what}
                disabled={state === 'running'}
                onChange={(e) => setWhat(e.target.value as What)}
              >
                <option value="numbers">{word}s</option>
                <option value="line">speed and parity</option>
              </select>
            )}
          </Field>
        ) : null}
        <NumberField label={`From ${word}`} value={from} onChange={setFrom} isDisabled={state === 'running'} />
        <NumberField label={`To ${word}`} value={to} onChange={setTo} isDisabled={state === 'running'} />
        <NumberField label={`Time-out per ${word}`} unit="ms" value={timeoutMs} onChange={setTimeoutMs} isDisabled={state === 'running'} />
      </div>
      <div className="mt-2 flex items-center gap-3">
        {state === 'running' ? (
          <button type="button" className="btn btn-sm" onClick={() => stop.current?.abort()}>
            Stop
          </button>
        ) : (
          <button type="button" className="btn btn-sm btn-primary" disabled={!isFit} onClick={() => void begin()}>
            {state === 'idle' ? 'Begin' : 'Begin again'}
          </button>
        )}
        <span className="quiet">
          {isFit ? `Takes ${durationOf(longest)} at the most, when nobody answers.` : `The ${word}s are 1 to 255, the first before the last.`}
        </span>
      </div>
      {state !== 'idle' ? <progress className="progress mt-3 w-full" value={tried} max={all} aria-label="Progress of the search" /> : null}
      {problem ? (
        <p role="alert" className="is-bad mt-2">
          {problem}
        </p>
      ) : null}
      <Found link={link} found={found} isEnded={state === 'ended'} />
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}

function NumberField(props: { label: string; unit?: string; value: string; onChange: (text: string) => void; isDisabled: boolean }) {
  return (
    <Field label={props.label} unit={props.unit}>
      {(ids) => (
        <input
          {...ids}
          className="input input-sm num w-full"
          inputMode="numeric"
          value={props.value}
          disabled={props.isDisabled}
          onChange={(e) => props.onChange(e.target.value)}
        />
      )}
    </Field>
  );
}

function Found({ link, found, isEnded }: { readonly link: Link; readonly found: readonly Finding[]; readonly isEnded: boolean }) {
  const project = useProject();
  const change = useChange();
  const driver = describeDriver(link.driver);
  const setting = driver?.scansNumbers ?? '';
  const title = titleOf(driver);
  const taken = new Set(project.devices.filter((d) => d.linkId === link.id).map((d) => d.settings[setting]));
  const heard = found.find((f) => f.kind === 'listened');
  const numbers = found.filter((f) => f.kind === 'number' && f.answer !== 'silent');
  const line = found.findLast((f) => f.kind === 'line');
  const lineWords = line?.kind === 'line' ? (driver?.line?.({ ...link.settings, ...line.settings })?.words ?? '') : '';
  const problems = found.filter((f) => f.kind === 'problem');
  const answersAll = numbers.length > 3 && found.every((f) => f.kind !== 'number' || f.answer !== 'silent');
  return (
    <div aria-live="polite" className="mt-2">
      {heard?.kind === 'listened' && heard.heard > 0 ? (
        <p className="is-look">◆ {heard.heard} frames were heard before anything was asked: another master is at work on this line.</p>
      ) : null}
      {problems.map((p) => (p.kind === 'problem' ? <p key={p.message} className="is-bad">{`${p.message} ${p.remedy}`}</p> : null))}
      {line?.kind === 'line' ? (
        line.number === null ? (
          <p className="quiet">
            {isEnded ? 'Nobody answered with any setting. ' : ''}Last tried: <span className="num">{lineWords}</span>
          </p>
        ) : (
          <p>
            <span className="is-good">
              ● {title} {line.number} answers at{' '}
            </span>
            <span className="num">{lineWords}</span> {line.seen ? `(${line.seen}) ` : ''}
            <button
              type="button"
              className="btn btn-xs btn-outline"
              onClick={() => {
                const set = { settings: { ...link.settings, ...line.settings } };
                void change(`link ${link.name} set to ${lineWords}`, [{ kind: 'link', id: link.id, set }]);
              }}
            >
              Set the link to it
            </button>
          </p>
        )
      ) : null}
      {answersAll ? <p className="is-look">◆ Every number is answered: this device does not look at the {title.toLowerCase()}.</p> : null}
      <ul className="max-h-60 overflow-auto">
        {numbers.map((u) =>
          u.kind === 'number' ? (
            <li key={u.number} data-found={u.number} className="border-base-300 flex h-9 items-center gap-3 border-b">
              <span className="num w-16">
                {title.toLowerCase()} {u.number}
              </span>
              <span className={u.answer === 'damaged' ? 'is-look' : 'is-good'}>
                {u.answer === 'value' ? '● answers' : u.answer === 'refusal' ? '● answers, and has no value there' : '◆ something damaged comes'}
              </span>
              <span className="num quiet">{u.ms.toFixed(1)} ms</span>
              <span className="flex-1 truncate">{u.seen}</span>
              {taken.has(u.number) ? (
                <span className="quiet">set up already</span>
              ) : u.answer === 'damaged' ? null : (
                <button
                  type="button"
                  className="btn btn-xs btn-outline"
                  onClick={() => {
                    const name = freeName(
                      project.devices.map((d) => d.name),
                      `${title} ${u.number}`,
                    );
                    const set = { linkId: link.id, name, settings: { [setting]: u.number }, dialect: {}, witnessUrl: '' };
                    void change(`device ${name} made`, [{ kind: 'device', id: uuid(), set }]);
                  }}
                >
                  Add as a device
                </button>
              )}
            </li>
          ) : null,
        )}
      </ul>
      {isEnded && numbers.length === 0 && !line && problems.length === 0 ? (
        <p className="quiet">Nobody answered. Test the connection of a device to learn why.</p>
      ) : null}
    </div>
  );
}

/** What the driver calls the number of a device. */
function titleOf(driver: ReturnType<typeof describeDriver>): string {
  return driver?.device.properties[driver.scansNumbers ?? '']?.title ?? 'Number';
}

function freeName(taken: readonly string[], wanted: string): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? wanted : `${wanted} (${n})`;
    if (!taken.some((t) => t.toLowerCase() === name.toLowerCase())) return name;
  }
}

function durationOf(ms: number): string {
  const seconds = Math.ceil(ms / 1000);
  return seconds < 90 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`;
}
