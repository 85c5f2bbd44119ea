'use client';
/** Brings a controller's tag list in: choose a file, see each row understood or why not, take all or nothing. */
import { useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { Applied } from '@/core/project/snapshot.ts';
import type { Problem } from '@/core/result.ts';
import type { ListPreview } from '@/core/taglist/understand.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { call } from '../live/api.ts';
import { useLive, useProject } from '../live/LiveContext.tsx';
import { Empty, Field } from '../parts/Field.tsx';
import { FileDrop } from '../parts/FileDrop.tsx';
import { dayAndTime } from '../parts/moment.ts';
import { ListPreviewTable } from './ListPreviewTable.tsx';

interface Chosen {
  readonly fileName: string;
  readonly text: string;
}

const MAX_FILE_BYTES = 8_000_000;

export function ListsBench() {
  const project = useProject();
  const live = useLive();
  const [deviceId, setDeviceId] = useState('');
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [preview, setPreview] = useState<ListPreview | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const target = project.device(deviceId) ?? project.devices[0] ?? null;

  const look = async (list: Chosen, device: string): Promise<void> => {
    setChosen(list);
    setPreview(null);
    setProblem(null);
    setBusy(true);
    const seen = await call<ListPreview>('POST', '/lists/preview', { deviceId: device, text: list.text });
    setBusy(false);
    if (seen.ok) setPreview(seen.value);
    else setProblem(seen.problem);
  };
  const choose = async (file: File): Promise<void> => {
    if (!target) return;
    const read = await readText(file);
    if ('problem' in read) {
      setChosen({ fileName: file.name, text: '' });
      setPreview(null);
      setProblem(read.problem);
    } else await look({ fileName: file.name, text: read.text }, target.id);
  };
  const commit = async (): Promise<void> => {
    if (!chosen || !target || !preview) return;
    setBusy(true);
    const done = await call<Applied>('POST', '/lists/commit', {
      commandId: uuid(),
      sourceId: uuid(),
      deviceId: target.id,
      fileName: chosen.fileName,
      text: chosen.text,
    });
    setBusy(false);
    if (!done.ok) {
      setProblem(done.problem);
      return;
    }
    live.applyChanges(done.value.revision, done.value.changes);
    toast(`${preview.good} tags brought in from ${chosen.fileName}`);
    setChosen(null);
    setPreview(null);
  };

  if (!target)
    return (
      <Empty title="No device to bring a list in for">
        <p>A tag list belongs to a device. Make a link and a device first.</p>
        <a className="btn btn-primary" href="/links">
          Go to Links
        </a>
      </Empty>
    );
  return (
    <div className="flex h-full flex-col gap-3">
      <h1 className="sr-only">Lists</h1>
      <div className="flex items-end gap-4">
        <div className="w-56">
          <Field
            label="For the device"
            help={describeDriver(project.link(target.linkId)?.driver ?? '')?.notation.forms.split(';')[0] ? 'Its notation reads the addresses.' : ''}
          >
            {(ids) => (
              <select
                {...ids}
                className="select select-sm w-full"
                value={target.id}
                onChange={(e) => {
                  setDeviceId(e.target.value);
                  if (chosen) void look(chosen, e.target.value);
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
            ask="Drop a CSV file here, or choose one"
            accept=".csv,.txt,text/csv"
            chosen={chosen?.fileName ?? null}
            onFile={(file) => void choose(file)}
          />
        </div>
        {preview ? (
          <div className="ml-auto flex items-center gap-3 pb-5">
            <span data-preview-count>
              <strong>{preview.good}</strong> rows understood
              {preview.bad > 0 ? <span className="is-bad font-semibold"> · {preview.bad} not</span> : null}
            </span>
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={busy || preview.bad > 0 || preview.problems.length > 0 || preview.good === 0}
              onClick={() => void commit()}
            >
              Bring {preview.good} tags in
            </button>
          </div>
        ) : null}
      </div>
      {busy ? (
        <p className="quiet flex items-center gap-2" role="status">
          <span className="loading loading-spinner loading-sm" aria-hidden /> Reading the list …
        </p>
      ) : null}
      {problem ? <Problems problems={[problem]} /> : null}
      {preview ? (
        <>
          <Problems problems={preview.problems} />
          {preview.bad > 0 ? (
            <p className="is-bad" role="alert">
              The list is taken as a whole or not at all: correct the marked rows in the file, and choose it again.
            </p>
          ) : null}
          {preview.unknownColumns.length > 0 ? (
            <p className="quiet">Columns left out, their heading is not understood: {preview.unknownColumns.join(', ')}</p>
          ) : null}
          <ListPreviewTable preview={preview} />
        </>
      ) : (
        <Sources />
      )}
    </div>
  );
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

function Sources() {
  const project = useProject();
  const sources = project.sources;
  return (
    <section aria-label="Lists brought in">
      {sources.length === 0 ? (
        <Empty title="No list brought in yet">
          <p>
            Export the tag list from the controller&apos;s program as CSV. It needs a column for the name, the address and the data type; comment,
            unit, group, access, low and high are understood too.
          </p>
        </Empty>
      ) : (
        <table className="card-flat w-full text-[13px]">
          <thead>
            <tr className="quiet h-8 text-left">
              <th className="pl-3">List</th>
              <th>Device</th>
              <th className="text-right">Tags</th>
              <th className="pl-8">Brought in</th>
            </tr>
          </thead>
          <tbody>
            {sources.map((s) => (
              <tr key={s.id} className="border-base-300 h-8 border-t">
                <td className="pl-3 font-medium">{s.fileName}</td>
                <td>{project.device(s.deviceId)?.name}</td>
                <td className="num text-right">{s.rowCount}</td>
                <td className="pl-8">{dayAndTime(s.importedAt)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

async function readText(file: File): Promise<{ readonly text: string } | { readonly problem: Problem }> {
  if (file.size > MAX_FILE_BYTES)
    return {
      problem: {
        code: 'too-large',
        message: `${file.name} is larger than ${MAX_FILE_BYTES / 1_000_000} MB.`,
        remedy: 'Split it, or leave out what is not needed.',
      },
    };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer()) };
  } catch {
    return { problem: { code: 'encoding', message: `${file.name} is not text in UTF-8.`, remedy: 'Save it as CSV in UTF-8.' } };
  }
}
