'use client';
/** Imports a controller's tag list, and in again: choose a file, see what becomes of each tag, take all or nothing. */
import { counted } from '@/core/counted.ts';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '@/core/result.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { Correction, DraftPart, DraftStatus, DraftSummary, ListVersion } from '@/core/taglist/draft.ts';
import type { UnderstoodRow } from '@/core/taglist/understand.ts';
import { useBench, useProject } from '../live/LiveContext.tsx';
import { Empty, Field } from '../parts/Field.tsx';
import { FileDrop } from '../parts/FileDrop.tsx';
import { dayAndTime } from '../parts/moment.ts';
import { FORMAT_WORDS } from '@/core/taglist/written.ts';
import { RowDialog } from './RowDialog.tsx';
import { DraftTable, type Decided } from './DraftTable.tsx';
import { Choosing } from './Choosing.tsx';
import { LIST_FILES } from './files.ts';
import { ReadingChoices } from './ReadingChoices.tsx';
import { Sources } from './Sources.tsx';
import { useDraft } from './useDraft.ts';

const NONE: ReadonlySet<string> = new Set();

export function ListsBench() {
  const project = useProject();
  const live = useBench();
  const draft = useDraft((sourceId) => project.sources.find((s) => s.id === sourceId)?.choices ?? {});
  const [deviceId, setDeviceId] = useState('');
  const [part, setPart] = useState<DraftPart | null>(null);
  const [renames, setRenames] = useState(NONE);
  const [bytes, setBytes] = useState(NONE);
  const [leaveOutBad, setLeaveOutBad] = useState(false);
  const [panel, setPanel] = useState<'reading' | 'choosing' | 'none' | null>(null);
  const [row, setRow] = useState<UnderstoodRow | null>(null);
  const [file, setFile] = useState<File | null>(null);
  const target = project.device(deviceId) ?? project.devices[0] ?? null;
  const { status, problem } = draft;
  const summary = status?.phase === 'failed' ? null : (status?.summary ?? null);

  const forget = (): void => {
    setPart(null);
    setRenames(NONE);
    setBytes(NONE);
    setLeaveOutBad(false);
    setPanel(null);
  };
  const choose = (chosen: File, device: string, sourceId: string | null = null): void => {
    forget();
    setFile(chosen);
    void draft.open(chosen, device, sourceId);
  };
  const decided: Decided = {
    renames,
    bytes,
    toggle: (kind, name) => (kind === 'renames' ? setRenames : setBytes)((now) => toggled(now, name)),
  };
  const take = async (): Promise<void> => {
    if (!status || !summary) return;
    const done = await draft.take({ renames: [...renames], bytes: [...bytes], leaveOutBad });
    if (!done.ok) return;
    live.applyChanges(done.value);
    toast(status.isNewSource ? `${counted(summary.merge.added, 'tag')} imported from ${status.fileName}` : `${status.fileName} imported again`);
    forget();
  };

  if (!target)
    return (
      <Empty title="No device to import a list for">
        <p>A tag list belongs to a device. Make a link and a device first.</p>
        <a className="btn btn-primary" href="/links">
          Go to Links
        </a>
      </Empty>
    );
  const isUnsure =
    summary !== null &&
    (summary.problems.length > 0 ||
      summary.unplaced > 0 ||
      summary.encodingConfidence < 0.7 ||
      summary.plainNumbers > 0 ||
      summary.counting !== null ||
      summary.typeWords.some((w) => w.type === null) ||
      summary.columns.some((c) => c.key && c.confidence < 0.7));
  const shows = panel ?? (isUnsure ? 'reading' : 'none');
  const { compared = null } = status ?? {};
  return (
    <div className="flex h-full flex-col gap-3">
      <h1 className="sr-only">Lists</h1>
      <div className="flex items-end gap-4">
        <div className="w-56">
          <Field label="Target device" help="Its notation reads the addresses.">
            {(ids) => (
              <select
                {...ids}
                className="select select-sm w-full"
                value={target.id}
                onChange={(e) => {
                  setDeviceId(e.target.value);
                  if (status && file) choose(file, e.target.value);
                }}
              >
                {project.devices.map((d) => (
                  <option key={d.id} value={d.id}>
                    {d.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
        </div>
        <div className="mb-5">
          <FileDrop
            label="Tag list file"
            ask="Drop a tag list here, or choose one"
            accept={LIST_FILES}
            chosen={compared ? null : (status?.fileName ?? null)}
            onFile={(chosen) => choose(chosen, target.id)}
          />
        </div>
        {!status && describeDriver(project.link(target.linkId)?.driver ?? '')?.capabilities.browse ? (
          <button
            type="button"
            className="btn btn-sm mb-5"
            disabled={draft.isBusy}
            onClick={() => {
              forget();
              void draft.ask(target.id);
            }}
          >
            Ask {target.name} for its tags
          </button>
        ) : null}
        {status ? (
          <div className="ml-auto flex items-center gap-3 pb-5">
            {summary && !compared ? <Understood summary={summary} /> : null}
            <button type="button" className="btn btn-sm" onClick={() => draft.discard()} disabled={status.phase === 'storing'}>
              {status.phase === 'reading' ? 'Cancel' : compared ? 'Close' : 'Discard'}
            </button>
            {summary && !compared && status.phase !== 'reading' ? (
              <button
                type="button"
                className="btn btn-sm btn-primary"
                disabled={draft.isBusy || !canTake(status, summary, leaveOutBad)}
                onClick={() => void take()}
              >
                {takeWords(status, summary, renames.size, bytes.size)}
              </button>
            ) : null}
          </div>
        ) : null}
      </div>
      {draft.isBusy ? <Doing status={status} /> : null}
      {problem ? <Problems problems={[problem]} /> : null}
      {status && summary && status.phase !== 'reading' ? (
        <>
          <Problems problems={summary.problems} />
          {compared ? <Compared from={compared.from} to={compared.to} /> : <Age status={status} summary={summary} />}
          {summary.bad > 0 ? (
            <label className="is-bad flex items-center gap-2" role="alert">
              <input type="checkbox" className="checkbox checkbox-sm" checked={leaveOutBad} onChange={(e) => setLeaveOutBad(e.target.checked)} />
              {summary.bad === 1 ? 'One row is not understood.' : `${summary.bad} rows are not understood.`} Correct{' '}
              {summary.bad === 1 ? 'it' : 'them'} below or in the list, or leave {summary.bad === 1 ? 'it' : 'them'} out.
            </label>
          ) : null}
          <div className="flex items-center gap-3">
            <Parts status={status} summary={summary} chosen={part ?? firstPart(status, summary)} onChoose={setPart} />
            {compared ? null : (
              <span className="ml-auto flex items-center gap-1">
                <span className="quiet pr-2">{FORMAT_WORDS[summary.format]}</span>
                {(['choosing', 'reading'] as const).map((which) => (
                  <button
                    key={which}
                    type="button"
                    className={`btn btn-sm ${shows === which ? 'btn-neutral' : 'btn-ghost'}`}
                    aria-expanded={shows === which}
                    onClick={() => setPanel(shows === which ? 'none' : which)}
                  >
                    {which === 'reading' ? 'Reading options' : 'Selection'}
                  </button>
                ))}
              </span>
            )}
          </div>
          {shows === 'reading' && !compared ? (
            <ReadingChoices summary={summary} choices={draft.choices} isBusy={draft.isBusy} onChange={(choices) => void draft.read(choices)} />
          ) : null}
          {shows === 'choosing' && !compared ? (
            <Choosing
              draftId={status.id}
              summary={summary}
              choices={draft.choices}
              isBusy={draft.isBusy}
              onChange={(choices) => void draft.read(choices)}
            />
          ) : null}
          <DraftTable
            key={`${status.id} ${part ?? firstPart(status, summary)} ${JSON.stringify(draft.choices)}`}
            draftId={status.id}
            part={part ?? firstPart(status, summary)}
            decided={compared ? null : decided}
            onOpen={setRow}
          />
          {row && !compared ? (
            <RowDialog
              row={row}
              deviceId={target.id}
              isBusy={draft.isBusy}
              onClose={() => setRow(null)}
              onCorrect={(correction) =>
                void draft.read({ ...draft.choices, corrections: withCorrection(draft.choices.corrections ?? [], correction) })
              }
            />
          ) : null}
        </>
      ) : status || draft.isBusy ? null : (
        <Sources
          onNewVersion={(chosen, source) => choose(chosen, source.deviceId, source.id)}
          onCompare={(sourceId, from, to) => {
            forget();
            void draft.compare(sourceId, from, to);
          }}
        />
      )}
    </div>
  );
}

/** What is put right of a row is added to what was put right of it before. */
function withCorrection(corrections: readonly Correction[], added: Correction): readonly Correction[] {
  const before = corrections.find((c) => c.name === added.name);
  return [...corrections.filter((c) => c !== before), { name: added.name, cells: { ...before?.cells, ...added.cells } }];
}

function Understood({ summary }: { readonly summary: DraftSummary }) {
  return (
    <span data-preview-count>
      <strong>{summary.good}</strong> {summary.good === 1 ? 'row' : 'rows'} understood
      {summary.bad > 0 ? <span className="is-bad font-semibold"> · {summary.bad} not</span> : null}
      {summary.leftOut > 0 ? <span className="quiet"> · {summary.leftOut} excluded</span> : null}
    </span>
  );
}

/** Which versions stand side by side. */
function Compared({ from, to }: { readonly from: ListVersion; readonly to: ListVersion }) {
  return (
    <p data-compared>
      What <strong>{to.fileName}</strong> of {dayAndTime(to.at)} changed since <strong>{from.fileName}</strong> of {dayAndTime(from.at)}
    </p>
  );
}

/** A list of another version than the program in the device is likely an old one. */
function Age({ status: { deviceVersion }, summary: { programVersion } }: { readonly status: DraftStatus; readonly summary: DraftSummary }) {
  if (programVersion === '' || deviceVersion === '') return null;
  if (programVersion === deviceVersion)
    return <p className="quiet">The list is from version {programVersion} of the program, the one in the device.</p>;
  return (
    <p className="is-look" role="note" data-old-list>
      This list may be old: it is from version {programVersion} of the program, the device says it runs {deviceVersion}.
    </p>
  );
}

function Doing({ status }: { readonly status: DraftStatus | null }) {
  const part = status?.part ?? 0;
  return (
    <div role="status" className="flex items-center gap-3">
      <progress className="progress progress-primary w-64" value={part > 0 && part < 1 ? part : undefined} max={1} aria-label="Progress" />
      <span className="quiet">{status ? `${status.doing} …` : 'Sending the file …'}</span>
    </div>
  );
}

const PART_WORDS: Readonly<Record<DraftPart, string>> = {
  all: 'All rows',
  bad: 'Not understood',
  added: 'New',
  changed: 'Changed',
  gone: 'Gone',
  proposals: 'Renamed or moved?',
  leftOut: 'Excluded',
};

function Parts({
  status,
  summary,
  chosen,
  onChoose,
}: {
  readonly status: DraftStatus;
  readonly summary: DraftSummary;
  readonly chosen: DraftPart;
  readonly onChoose: (part: DraftPart) => void;
}) {
  const { merge } = summary;
  const ofRows: readonly (readonly [DraftPart, number])[] = [
    ['all', summary.rows],
    ['bad', summary.bad],
    ['leftOut', summary.leftOut],
  ];
  const counts: readonly (readonly [DraftPart, number])[] = status.isNewSource
    ? ofRows
    : [['added', merge.added], ['changed', merge.changed], ['gone', merge.gone], ['proposals', merge.proposals], ...(status.compared ? [] : ofRows)];
  return (
    <div role="tablist" aria-label="Rows to look at" className="flex gap-1">
      {counts.map(([part, count]) => (
        <button
          key={part}
          type="button"
          role="tab"
          aria-selected={part === chosen}
          className={`btn btn-sm ${part === chosen ? 'btn-neutral' : 'btn-ghost'} ${part === 'bad' && count > 0 && part !== chosen ? 'is-bad' : ''}`}
          onClick={() => onChoose(part)}
        >
          {PART_WORDS[part]} <span className="num">{count}</span>
        </button>
      ))}
      {status.isNewSource ? null : <span className="quiet self-center pl-2">{merge.same} unchanged</span>}
    </div>
  );
}

/** Where there is something to decide or to see, the eye is led there. */
function firstPart(status: DraftStatus, { merge, bad }: DraftSummary): DraftPart {
  if (bad > 0) return 'bad';
  if (status.isNewSource) return 'all';
  if (merge.proposals > 0) return 'proposals';
  return merge.changed > 0 ? 'changed' : merge.gone > 0 ? 'gone' : 'added';
}

function canTake({ phase }: DraftStatus, { bad, problems, good, leftOut }: DraftSummary, leaveOutBad: boolean): boolean {
  return phase === 'ready' && problems.length === 0 && (bad === 0 || leaveOutBad) && good > leftOut;
}

/** A rename that is accepted is one change instead of one new and one gone; a type that is not accepted is none. */
function takeWords({ isNewSource }: DraftStatus, { merge }: DraftSummary, renames: number, bytes: number): string {
  if (isNewSource) return `Import ${counted(merge.added, 'tag')}`;
  const changes = merge.added + merge.gone - renames + merge.changed - merge.changedBytes + bytes;
  return changes === 0 ? 'Keep as the newest version' : `Import ${counted(changes, 'change')}`;
}

function toggled(set: ReadonlySet<string>, name: string): ReadonlySet<string> {
  const now = new Set(set);
  if (!now.delete(name)) now.add(name);
  return now;
}

function Problems({ problems }: { readonly problems: readonly Problem[] }) {
  if (problems.length === 0) return null;
  return (
    <ul className="card-flat border-error p-3" role="alert" aria-label="What is wrong with the list">
      {problems.map((p, i) => (
        <li key={i}>
          {p.place ? <span className="num mr-2">{p.place}</span> : null}
          <strong className="is-bad">{p.message}</strong> <span>{p.remedy}</span>
        </li>
      ))}
    </ul>
  );
}
