'use client';
/** The trace of one link: its frames as they pass, in words, each to be taken apart. */
import { ArrowLeft, Download, Pause, Play } from 'lucide-react';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Device } from '@/core/project/entities.ts';
import type { DissectedFrame, DriverDescription } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { exactTimeOfDay } from '../parts/moment.ts';
import { hexToBytes } from '@noble/hashes/utils.js';
import { spaced } from '@/core/live/wireJson.ts';

interface FrameJson {
  readonly n: number;
  readonly at: number;
  readonly direction: 'sent' | 'received';
  readonly bytes: string;
  readonly note: string | null;
  readonly oddity: string | null;
}
interface Row extends FrameJson {
  readonly told: DissectedFrame | null;
  readonly gapMs: number | null;
}

const KEPT = 400;
const REFRESH_MS = 500;

export function TraceBench() {
  const project = useProject();
  const asked = useSearchParams().get('link') ?? '';
  const link = project.links.find((l) => l.id === asked) ?? project.links[0];
  if (!link)
    return (
      <Empty title="No links yet">
        <p>The trace shows what passes over a link. Make one first.</p>
        <Link href="/links" className="btn btn-primary">
          To the links
        </Link>
      </Empty>
    );
  return <Trace key={link.id} linkId={link.id} />;
}

function Trace({ linkId }: { readonly linkId: string }) {
  const project = useProject();
  const link = project.links.find((l) => l.id === linkId);
  const driver = describeDriver(link?.driver ?? '');
  const { frames, isPaused, setPaused, problem } = useFrames(linkId);
  const [party, setParty] = useState('');
  const [service, setService] = useState('');
  const [onlyOdd, setOnlyOdd] = useState(false);
  const [chosen, setChosen] = useState<number | null>(null);
  const rows = useMemo(() => (link && driver ? rowsOf(frames, driver, link.settings) : []), [frames, driver, link]);
  const shown = rows.filter(
    ({ told, oddity }) =>
      (party === '' || told?.party === party) && (service === '' || told?.service === service) && (!onlyOdd || oddity !== null || told?.isError),
  );
  const devices = project.devices.filter((d) => d.linkId === linkId);
  const partyOf = (device: Device): string => driver?.party(device.settings) ?? '';
  const nameOf = (of: string | null): string =>
    (devices.length === 1 && of === null ? devices[0]?.name : devices.find((d) => partyOf(d) === of)?.name) ?? of ?? '';
  const asked = [...new Set(rows.flatMap((r) => r.told?.service ?? []))].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  const selected = rows.find((r) => r.n === chosen) ?? null;
  if (!link || !driver) return null;
  return (
    <div className="flex h-full min-h-0 flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <Link href="/links" className="btn btn-sm btn-ghost" aria-label="Back to the links">
          <ArrowLeft size={14} aria-hidden />
        </Link>
        <h1 className="text-base font-semibold">
          Trace of {link.name} <span className="quiet num font-normal">{driver.target(link.settings)}</span>
        </h1>
        <span className="flex-1" />
        <label className="flex items-center gap-1">
          Device
          <select className="select select-sm w-36" value={party} onChange={(e) => setParty(e.target.value)}>
            <option value="">all</option>
            {devices.map((d) => (
              <option key={d.id} value={partyOf(d)}>
                {d.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1">
          Request
          <select className="select select-sm w-24" value={service} onChange={(e) => setService(e.target.value)}>
            <option value="">all</option>
            {asked.map((f) => (
              <option key={f} value={f}>
                {f}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-sm" checked={onlyOdd} onChange={(e) => setOnlyOdd(e.target.checked)} />
          only irregular frames
        </label>
        <button type="button" className="btn btn-sm" onClick={() => setPaused(!isPaused)} aria-pressed={isPaused}>
          {isPaused ? <Play size={14} aria-hidden /> : <Pause size={14} aria-hidden />} {isPaused ? 'Resume' : 'Pause'}
        </button>
        <a className="btn btn-sm" href={`/api/v1/links/${linkId}/capture?form=text`} download>
          <Download size={14} aria-hidden /> Text
        </a>
        <a
          className="btn btn-sm"
          href={`/api/v1/links/${linkId}/capture?form=pcap`}
          download
          title={`A network analyser reads it ${driver.capture?.(link.settings).reading ?? ''}`}
        >
          <Download size={14} aria-hidden /> Capture
        </a>
      </div>
      {problem ? (
        <p role="alert" className="is-bad">
          {problem}
        </p>
      ) : null}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_22rem] gap-3">
        <FrameList rows={shown} isPaused={isPaused} chosen={chosen} onChoose={setChosen} nameOf={nameOf} total={rows.length} />
        <aside className="card-flat min-h-0 overflow-auto p-3" aria-label="The frame, field by field">
          {selected ? (
            <Fields row={selected} />
          ) : (
            <p className="quiet">Choose a frame to see it field by field. The capture keeps the last 2000 frames.</p>
          )}
        </aside>
      </div>
    </div>
  );
}

/** The newest frames, fetched as they come. */
function useFrames(linkId: string) {
  const [frames, setFrames] = useState<readonly FrameJson[]>([]);
  const [isPaused, setPaused] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    if (isPaused) return;
    const stop = new AbortController();
    let last = 0;
    const load = async (): Promise<void> => {
      const loaded = await call<readonly FrameJson[]>('GET', `/links/${linkId}/frames?limit=${KEPT}&after=${last}`, undefined, stop.signal);
      if (stop.signal.aborted) return;
      setProblem(loaded.ok ? null : loaded.problem.message);
      if (loaded.ok && loaded.value.length > 0) {
        const came = loaded.value;
        const isFirst = last === 0;
        last = came.at(-1)?.n ?? last;
        setFrames((known) => (isFirst ? came : [...known, ...came]).slice(-KEPT));
      }
      timer = setTimeout(() => void load(), REFRESH_MS);
    };
    let timer = setTimeout(() => void load(), 0);
    return () => {
      stop.abort();
      clearTimeout(timer);
    };
  }, [linkId, isPaused]);
  return { frames, isPaused, setPaused, problem };
}

function rowsOf(frames: readonly FrameJson[], driver: DriverDescription, settings: Readonly<Record<string, unknown>>): readonly Row[] {
  return frames.map((frame, i) => ({
    ...frame,
    told: driver.dissect?.(settings, frame.direction, hexToBytes(frame.bytes)) ?? null,
    gapMs: i === 0 ? null : frame.at - (frames[i - 1]?.at ?? frame.at),
  }));
}

function FrameList(props: {
  readonly rows: readonly Row[];
  readonly isPaused: boolean;
  readonly chosen: number | null;
  readonly onChoose: (n: number) => void;
  readonly nameOf: (party: string | null) => string;
  readonly total: number;
}) {
  const { rows, isPaused, chosen, onChoose, nameOf, total } = props;
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!isPaused && chosen === null && list.current) list.current.scrollTop = list.current.scrollHeight;
  }, [rows, isPaused, chosen]);
  const move = (by: number): void => {
    const at = rows.findIndex((r) => r.n === chosen);
    const next = rows[at < 0 ? rows.length - 1 : Math.min(rows.length - 1, Math.max(0, at + by))];
    if (next) onChoose(next.n);
  };
  return (
    <div
      ref={list}
      className="card-flat min-h-0 overflow-auto"
      tabIndex={0}
      role="listbox"
      aria-label="Frames"
      aria-activedescendant={chosen === null ? undefined : `frame-${chosen}`}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowDown' && e.key !== 'ArrowUp') return;
        e.preventDefault();
        move(e.key === 'ArrowDown' ? 1 : -1);
      }}
    >
      {rows.length === 0 ? <p className="quiet p-3">{total === 0 ? 'Nothing has passed yet.' : 'Nothing of this kind has passed.'}</p> : null}
      {rows.map((row) => {
        const isBad = row.oddity !== null || row.told?.isError === true;
        return (
          <div
            key={row.n}
            id={`frame-${row.n}`}
            role="option"
            aria-selected={row.n === chosen}
            data-oddity={row.oddity ?? undefined}
            onClick={() => onChoose(row.n)}
            className={`border-base-300 grid cursor-default grid-cols-[7.5rem_5.5rem_1.25rem_7rem_minmax(0,1fr)] items-baseline gap-2 border-b px-2 py-0.5 text-[13px] ${
              row.n === chosen ? 'bg-base-300' : ''
            }`}
          >
            <span className="num quiet">{exactTimeOfDay(row.at)}</span>
            <span className="num quiet text-right">{row.gapMs === null ? '' : `+${row.gapMs.toFixed(1)}`}</span>
            <span aria-label={row.direction}>{row.direction === 'sent' ? '→' : '←'}</span>
            <span className="truncate">{nameOf(row.told?.party ?? null)}</span>
            <span className={`truncate ${isBad ? 'is-look' : ''}`} title={row.note ?? undefined}>
              {isBad ? '◆ ' : ''}
              {[row.told?.summary, row.note].filter(Boolean).join(' · ')}
            </span>
          </div>
        );
      })}
    </div>
  );
}

function Fields({ row }: { readonly row: Row }) {
  return (
    <>
      <p className="num text-xs">{exactTimeOfDay(row.at)}</p>
      <p className="font-semibold">{[row.told?.party, row.told?.summary].filter(Boolean).join(': ')}</p>
      {row.note ? <p className="is-look">◆ {row.note}</p> : null}
      <p className="num bg-base-200 my-2 rounded p-2 text-xs break-all">{spaced(row.bytes)}</p>
      <table className="w-full text-[13px]">
        <tbody>
          {[...(row.told?.fields ?? [])]
            .sort((a, b) => a.at - b.at)
            .map((field) => (
              <tr key={`${field.name} ${field.at}`} className="border-base-300 border-t align-top">
                <td className="py-1 pr-2 whitespace-nowrap">{field.name}</td>
                <td className="num quiet py-1 pr-2 text-xs">{spaced(row.bytes.slice(field.at * 2, (field.at + Math.min(field.bytes, 8)) * 2))}</td>
                <td className="py-1">{field.words}</td>
              </tr>
            ))}
        </tbody>
      </table>
    </>
  );
}
