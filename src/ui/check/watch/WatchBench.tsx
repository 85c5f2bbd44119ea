'use client';
/** Any tags, live: raw in three bases, engineering value, how far and how fast it went, and the last minutes as lines. */
import { Camera, Download, RotateCcw, X } from 'lucide-react';
import Papa from 'papaparse';
import { useEffect, useState } from 'react';
import { FORMULA } from '@/core/csvGuard.ts';
import { NOTHING_WATCHED, ratePerSecond, type Watched } from '@/core/check/watch/watched.ts';
import type { Tag } from '@/core/project/entities.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import type { TagView } from '../../live/liveClient.ts';
import { useProject } from '../../live/LiveContext.tsx';
import type { ProjectView } from '../../live/project.ts';
import { useLive, useStatus, useTagView } from '../../live/liveHooks.ts';
import { selectTag, useSelectedTag } from '../../live/selection.ts';
import { TrendChart } from '../../panels/drawings/TrendChart.tsx';
import { Empty } from '../../parts/Field.tsx';
import { saveCsv } from '../../parts/saveCsv.ts';
import { StateOf } from '../../parts/StateMark.tsx';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { rawJsonText } from '../../signalPath/signalPath.ts';
import { SetDialog } from './SetDialog.tsx';
import { KEPT_MS, useWatched } from './useWatched.ts';
import { MOST_WATCHED, rememberWatched, watchedTags } from './watchedTags.ts';

/** What is left of the arithmetic where nothing moves. */
const NEXT_TO_NOTHING = 1e-12;
/** Lines that are told apart at a glance. */
const MOST_LINES = 6;

export function WatchBench() {
  const project = useProject();
  const live = useLive();
  const selected = useSelectedTag();
  const [ids, setIds] = useState<readonly string[]>([]);
  const [setting, setSetting] = useState<Tag | null>(null);
  const [snapshot, setSnapshot] = useState<ReadonlyMap<string, string> | null>(null);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what was watched is known in the browser only
    setIds(watchedTags());
  }, []);
  const tags = ids.flatMap((id) => project.tag(id) ?? []);
  const { watched, restart } = useWatched(tags.map(({ id }) => id));
  const set = (next: readonly string[]): void => {
    setIds(next);
    rememberWatched(next);
  };
  const save = (): void => {
    const now = new Date(live.now()).toISOString();
    const data = tags.map((tag) => {
      const view = live.view(tag.id);
      const seen = watched.get(tag.id) ?? NOTHING_WATCHED;
      return [
        now,
        tag.name,
        view.text,
        tag.unit,
        rawIn(project, tag, view, 16),
        seen.low,
        seen.high,
        ratePerSecond(seen),
        view.level,
        snapshot?.get(tag.id) ?? '',
      ];
    });
    const fields = ['at', 'tag', 'value', 'unit', 'raw hex', 'least', 'most', 'rate per s', 'quality', 'snapshot'];
    saveCsv('watched.csv', Papa.unparse({ fields, data }, { newline: '\r\n', escapeFormulae: FORMULA }));
  };
  const withNumbers = tags.filter((tag) => (watched.get(tag.id)?.points ?? []).some(({ number }) => number !== null));
  // One that is chosen has the scale for itself.
  const chosen = withNumbers.filter(({ id }) => id === selected);
  const drawn = chosen.length > 0 ? chosen : withNumbers.slice(0, MOST_LINES);
  return (
    <div className="flex h-full min-h-0 flex-col gap-2">
      <h1 className="sr-only">Watch</h1>
      <div className="flex flex-wrap items-center gap-2">
        <a className="btn btn-sm btn-ghost" href="/check">
          Check
        </a>
        <div className="w-60">
          <TagPicker
            label="Add a tag"
            value={null}
            only={(tag) => !ids.includes(tag.id)}
            onPick={({ id }) => set([...ids, id].slice(0, MOST_WATCHED))}
          />
        </div>
        <span className="flex-1" />
        <button
          type="button"
          className="btn btn-sm"
          disabled={tags.length === 0}
          onClick={() => setSnapshot(new Map(tags.map(({ id }) => [id, live.view(id).text])))}
        >
          <Camera size={14} aria-hidden /> Snapshot
        </button>
        <button type="button" className="btn btn-sm" disabled={tags.length === 0} onClick={restart}>
          <RotateCcw size={14} aria-hidden /> Begin anew
        </button>
        <button type="button" className="btn btn-sm" disabled={tags.length === 0} onClick={save}>
          <Download size={14} aria-hidden /> CSV
        </button>
        <button type="button" className="btn btn-sm btn-ghost" disabled={tags.length === 0} onClick={() => set([])}>
          Remove all
        </button>
      </div>
      {tags.length === 0 ? (
        <Empty title="Nothing is watched">
          <p>Add tags above, or choose some in Check and press Watch there: each is shown raw and in its unit, with how far and how fast it went.</p>
        </Empty>
      ) : (
        <>
          <div className="card-flat min-h-32 flex-1 overflow-auto">
            <table className="w-full text-[13px]" aria-label="Watched tags">
              <thead>
                <tr className="bg-base-200 border-base-300 sticky top-0 z-10 border-b text-right">
                  {[
                    'Tag',
                    'Raw',
                    'Hex',
                    'Binary',
                    'Engineering',
                    'Least',
                    'Most',
                    'Rate /s',
                    'Changed',
                    'State',
                    ...(snapshot ? ['Snapshot'] : []),
                    '',
                  ].map((heading, i) => (
                    <th key={heading} scope="col" className={`px-2 py-1.5 font-semibold ${i === 0 ? 'text-left' : ''}`}>
                      {heading}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {tags.map((tag) => (
                  <Row
                    key={tag.id}
                    tag={tag}
                    seen={watched.get(tag.id) ?? NOTHING_WATCHED}
                    before={snapshot ? (snapshot.get(tag.id) ?? '') : null}
                    isSelected={tag.id === selected}
                    onSet={() => setSetting(tag)}
                    onRemove={() => set(ids.filter((id) => id !== tag.id))}
                  />
                ))}
              </tbody>
            </table>
          </div>
          {drawn.length > 0 ? (
            <section aria-label="Last minutes" className="card-flat h-60 shrink-0 overflow-hidden p-2">
              <Lines tags={drawn} watched={watched} />
            </section>
          ) : null}
        </>
      )}
      {setting ? <SetDialog tag={setting} onClose={() => setSetting(null)} /> : null}
    </div>
  );
}

function rawIn(project: ProjectView, tag: Tag, view: TagView, radix: 2 | 10 | 16): string {
  const effective = project.effective(tag.id);
  return view.sample?.raw && view.level !== 'bad' && effective.ok ? rawJsonText(effective.value.def.type, view.sample.raw, radix) : NO_VALUE_TEXT;
}

function Row({
  tag,
  seen,
  before,
  isSelected,
  onSet,
  onRemove,
}: {
  readonly tag: Tag;
  readonly seen: Watched;
  /** Of the snapshot; null without one. */
  readonly before: string | null;
  readonly isSelected: boolean;
  readonly onSet: () => void;
  readonly onRemove: () => void;
}) {
  const project = useProject();
  const live = useLive();
  const view = useTagView(tag.id);
  const driven = useStatus()?.driven ?? [];
  if (!view) return null;
  const effective = project.effective(tag.id);
  const isWhole = effective.ok && effective.value.def.type.kind === 'integer';
  const rate = ratePerSecond(seen);
  const changed = seen.changedAt === null ? '' : `${((live.now() - seen.changedAt) / 1000).toFixed(0)} s ago`;
  const isWritable = effective.ok && effective.value.access === 'readWrite' && effective.value.writable;
  const isHeld = driven.some(({ tagId, left }) => tagId === tag.id && left === null);
  const isOther = before !== null && before !== view.text;
  const cell = 'num px-2 py-1 text-right whitespace-nowrap';
  return (
    <tr
      className={`border-base-300 cursor-pointer border-b ${isSelected ? 'bg-base-200' : ''}`}
      data-watched={tag.name}
      aria-selected={isSelected}
      onClick={() => selectTag(tag.id)}
    >
      <td className="max-w-48 truncate px-2 py-1 font-medium" title={tag.name}>
        {tag.name}
      </td>
      <td className={cell}>{rawIn(project, tag, view, 10)}</td>
      <td className={cell}>{isWhole ? rawIn(project, tag, view, 16) : ''}</td>
      <td className={`${cell} text-[11px]`}>{isWhole ? rawIn(project, tag, view, 2) : ''}</td>
      <td className={cell}>
        {view.text} <span className="quiet">{view.level === 'bad' ? '' : tag.unit}</span>
      </td>
      <td className={cell}>{shortNumber(seen.low)}</td>
      <td className={cell}>{shortNumber(seen.high)}</td>
      <td className={cell}>{shortNumber(rate)}</td>
      <td className={`${cell} quiet`}>{changed}</td>
      <td className="px-2 text-right whitespace-nowrap">
        <StateOf view={view} />
      </td>
      {before === null ? null : (
        <td className={`${cell} ${isOther ? 'is-look font-semibold' : 'quiet'}`}>{isOther ? `≠ ${before}` : `= ${before}`}</td>
      )}
      <td className="px-1 text-right whitespace-nowrap">
        {isHeld ? <span className="is-look text-xs font-semibold">▣ held</span> : null}
        {isWritable ? (
          <button
            type="button"
            className="btn btn-xs btn-ghost"
            aria-label={`Set ${tag.name}`}
            onClick={(e) => {
              e.stopPropagation();
              onSet();
            }}
          >
            Set …
          </button>
        ) : null}
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          aria-label={`Watch ${tag.name} no more`}
          onClick={(e) => {
            e.stopPropagation();
            onRemove();
          }}
        >
          <X size={13} aria-hidden />
        </button>
      </td>
    </tr>
  );
}

function shortNumber(value: number | null): string {
  return value === null ? '' : String(Math.abs(value) < NEXT_TO_NOTHING ? 0 : Number(value.toPrecision(5)));
}

/** The numbers of all lines at the moments at which any of them came. */
function Lines({ tags, watched }: { readonly tags: readonly Tag[]; readonly watched: ReadonlyMap<string, Watched> }) {
  const live = useLive();
  const all = tags.map(({ id }) => watched.get(id)?.points ?? []);
  const moments = [...new Set(all.flatMap((points) => points.map(({ at }) => Math.round(at / 250) * 250)))].sort((a, b) => a - b);
  const next = all.map(() => 0);
  const points = moments.map((at) => ({
    at,
    numbers: all.map((line, i) => {
      let place = next[i] ?? 0;
      while ((line[place + 1]?.at ?? Infinity) <= at + 125) place++;
      next[i] = place;
      const point = line[place];
      return point && point.at <= at + 125 ? point.number : null;
    }),
  }));
  const lines = tags.map((tag) => ({ name: tag.name, unit: tag.unit, level: live.view(tag.id).level }));
  return <TrendChart points={points} lines={lines} ends={null} minutes={KEPT_MS / 60_000} w={1200} h={220} />;
}
