'use client';
/** The project as a file, out and in, and the backups of the data folder. */
import { Download, RotateCcw } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { Applied } from '@/core/project/snapshot.ts';
import type { Difference } from '@/core/projectFile/projectFile.ts';
import type { Problem, Result } from '@/core/result.ts';
import { call, sendFile } from '../live/api.ts';
import { useBench, useProject, useStep } from '../live/LiveContext.tsx';
import { Differences, differing } from '../parts/Differences.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { FileDrop } from '../parts/FileDrop.tsx';
import { dayAndTime } from '../parts/moment.ts';

interface Preview {
  readonly name: string;
  readonly exportedAt: string;
  readonly differences: readonly Difference[];
  readonly newProofs: number;
}
interface Backup {
  readonly name: string;
  readonly at: string;
  readonly why: string;
}

export function ProjectFilesDialog({ onClose }: { readonly onClose: () => void }) {
  const project = useProject().project;
  return (
    <Dialog title="The project as a file" onClose={onClose} wide>
      <section className="mb-4 flex items-center gap-4">
        <a className="btn btn-sm btn-outline" href="/api/v1/project-file" download>
          <Download size={14} aria-hidden /> Export the project
        </a>
        <span className="quiet">One zip with all of {project.name}: JSON, and the tags of each device as a list.</span>
      </section>
      <BringIn onDone={onClose} />
      <Backups />
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}

function BringIn({ onDone }: { readonly onDone: () => void }) {
  const live = useBench();
  const step = useStep();
  const [file, setFile] = useState<File | null>(null);
  const [seen, setSeen] = useState<Result<Preview> | null>(null);
  const [busy, setBusy] = useState(false);
  const look = async (chosen: File): Promise<void> => {
    setFile(chosen);
    setSeen(null);
    setBusy(true);
    setSeen(await sendFile<Preview>('/project-file/preview', chosen));
    setBusy(false);
  };
  const commit = async (): Promise<void> => {
    if (!file) return;
    setBusy(true);
    const done = await sendFile<Applied>(`/project-file/commit?command=${uuid()}`, file);
    setBusy(false);
    if (!done.ok) {
      setSeen(done);
      return;
    }
    live.applyChanges(done.value);
    toast(done.value.label, { action: { label: 'Undo', onClick: () => void step('undo') } });
    onDone();
  };
  const differs = seen?.ok && (seen.value.newProofs > 0 || seen.value.differences.some((d) => differing(d) > 0));
  return (
    <section aria-label="Import a project" className="border-base-300 border-t pt-3">
      <div className="flex items-center gap-4">
        <FileDrop
          label="Project file"
          ask="Import a project: drop its zip here, or choose it"
          accept=".zip,application/zip"
          chosen={file?.name ?? null}
          onFile={(f) => void look(f)}
        />
        {busy ? <span className="loading loading-spinner loading-sm" role="status" aria-label="Reading the file" /> : null}
      </div>
      {seen && !seen.ok ? <ProblemLine problem={seen.problem} /> : null}
      {seen?.ok ? (
        <div className="mt-3" data-file-preview>
          <p>
            <strong>{seen.value.name}</strong>
            {seen.value.exportedAt ? <span className="quiet">, exported {dayAndTime(seen.value.exportedAt)}</span> : null}
          </p>
          {differs ? (
            <>
              <Differences all={seen.value.differences} />
              {seen.value.newProofs > 0 ? (
                <p className="quiet">
                  {seen.value.newProofs} proofs come with it. Those from another installation count as seen elsewhere until a tag is checked here.
                </p>
              ) : null}
              <p className="mb-2">This project is replaced by the one in the file, as one change that undo takes back.</p>
              <button type="button" className="btn btn-sm btn-primary" disabled={busy} onClick={() => void commit()}>
                Import it
              </button>
            </>
          ) : (
            <p className="quiet">The file and this project are the same.</p>
          )}
        </div>
      ) : null}
    </section>
  );
}

function Backups() {
  const [backups, setBackups] = useState<readonly Backup[] | null>(null);
  const [asked, setAsked] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    void call<readonly Backup[]>('GET', '/backups', undefined, stop.signal).then((loaded) => {
      if (stop.signal.aborted) return;
      if (loaded.ok) setBackups(loaded.value);
      else setProblem(loaded.problem);
    });
    return () => stop.abort();
  }, []);
  const make = async (): Promise<void> => {
    setBusy(true);
    const made = await call<Backup>('POST', '/backups');
    setBusy(false);
    setProblem(made.ok ? null : made.problem);
    if (made.ok) setBackups((known) => [made.value, ...(known ?? [])]);
  };
  const restore = async (name: string): Promise<void> => {
    const done = await call('POST', '/backups/restore', { name });
    if (done.ok) toast('The server starts again with the backup …');
    else setProblem(done.problem);
    setAsked(null);
  };
  return (
    <section aria-label="Backups" className="border-base-300 mt-4 border-t pt-3">
      <div className="mb-1 flex items-center gap-3">
        <h3 className="flex-1 font-semibold">Backups of the data folder</h3>
        <button type="button" className="btn btn-xs btn-outline" disabled={busy} onClick={() => void make()}>
          {busy ? 'Making one …' : 'Make one now'}
        </button>
      </div>
      {problem ? <ProblemLine problem={problem} /> : null}
      {backups?.length === 0 ? (
        <p className="quiet">None yet. One is made once a day, and before what is risky: a project file, a restore, a newer Mill Latch.</p>
      ) : null}
      <ul>
        {backups?.map((b) => (
          <li key={b.name} className="border-base-300 flex items-center gap-3 border-b py-1 text-[13px]">
            <span className="w-48 whitespace-nowrap">{dayAndTime(b.at)}</span>
            <span className="quiet flex-1">{b.why}</span>
            {asked === b.name ? (
              <>
                <span className="is-look">The project goes back to this. What is there now becomes a backup.</span>
                <button type="button" className="btn btn-xs btn-warning" onClick={() => void restore(b.name)}>
                  Restore it
                </button>
                <button type="button" className="btn btn-xs btn-ghost" onClick={() => setAsked(null)}>
                  Leave it
                </button>
              </>
            ) : (
              <button type="button" className="btn btn-xs btn-outline" onClick={() => setAsked(b.name)}>
                <RotateCcw size={13} aria-hidden /> Restore …
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function ProblemLine({ problem }: { readonly problem: Problem }) {
  return (
    <p role="alert" className="mt-2">
      {problem.place ? <span className="num mr-2">{problem.place}</span> : null}
      <strong className="is-bad">{problem.message}</strong> {problem.remedy}
    </p>
  );
}
