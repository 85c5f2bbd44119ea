'use client';
/** The run that is in hand: how far it is, who looks at what, and what can be done with it as a whole. */
import { FileText, ListChecks, Play, Smartphone, Square } from 'lucide-react';
import { useState } from 'react';
import { WITNESSES } from '@/core/check/proof.ts';
import type { RunCounts } from '@/core/check/run.ts';
import { dayAndTime } from '../parts/moment.ts';
import { ProgressDialog } from './ProgressDialog.tsx';
import type { RunInHand } from './useRun.ts';

export function countsInWords({ agree, failed, skipped, waived, open }: RunCounts): string {
  const parts = [`${agree} agree`, `${failed} differ`];
  if (skipped > 0) parts.push(`${skipped} skipped`);
  if (waived > 0) parts.push(`${waived} waived`);
  return [...parts, `${open} open`].join(' · ');
}

/** The report to look at, for the machine's file, and for a spreadsheet. */
export function ReportLinks({ path }: { readonly path: string }) {
  return (
    <span className="flex items-center">
      <a className="btn btn-sm btn-ghost" href={`/api/v1${path}`} target="_blank" rel="noreferrer">
        <FileText size={14} aria-hidden /> Report
      </a>
      <a className="btn btn-sm btn-ghost px-1" href={`/api/v1${path}?format=pdf`} download aria-label="Report as PDF">
        PDF
      </a>
      <a className="btn btn-sm btn-ghost px-1" href={`/api/v1${path}?format=csv`} download aria-label="Report as CSV">
        CSV
      </a>
    </span>
  );
}

interface RunBarProps {
  readonly run: RunInHand;
  readonly who: string;
  readonly progress: { readonly done: number; readonly all: number } | null;
  readonly onAutomatic: (() => void) | null;
  readonly onStop: () => void;
}

export function RunBar({ run, who, progress, onAutomatic, onStop }: RunBarProps) {
  const [isOpen, setIsOpen] = useState(false);
  if (!run.now) return null;
  const { now } = run;
  const { name, witness, begunAt, endedAt, who: by, id } = now.run;
  const looked = now.counts.all - now.counts.open;
  return (
    <section aria-label="Run" className="card-flat flex items-center gap-3 px-3 py-2 text-[13px]" data-run={id}>
      <ListChecks size={16} aria-hidden className="quiet shrink-0" />
      <div className="min-w-0 flex-1">
        <p className="flex items-baseline gap-2">
          <strong className="truncate">{name}</strong>
          <span className="quiet truncate">
            against {WITNESSES[witness]} · {by}, {dayAndTime(begunAt)}
            {endedAt === null ? '' : ` · ended ${dayAndTime(endedAt)}`}
          </span>
        </p>
        <p className="flex items-center gap-2">
          <progress className="progress progress-primary w-28" value={looked} max={now.counts.all} aria-label="Tags looked at" />
          <span className="num">
            {looked}/{now.counts.all}
          </span>
          <button
            type="button"
            className="link quiet truncate no-underline hover:underline"
            title="By device, page and person"
            onClick={() => setIsOpen(true)}
            data-counts
          >
            {countsInWords(now.counts)}
          </button>
        </p>
      </div>
      {progress ? (
        <>
          <span className="num">
            {progress.done}/{progress.all}
          </span>
          <button type="button" className="btn btn-sm" onClick={onStop}>
            Stop
          </button>
        </>
      ) : onAutomatic && endedAt === null ? (
        <button type="button" className="btn btn-sm btn-primary" onClick={onAutomatic}>
          <Play size={14} aria-hidden /> Run by itself
        </button>
      ) : null}
      <a
        className="btn btn-sm btn-ghost"
        href={`/run/${id}`}
        target="_blank"
        rel="noreferrer"
        title="One tag at a time, for a phone in front of the panel"
      >
        <Smartphone size={14} aria-hidden /> Phone
      </a>
      <ReportLinks path={`/checks/runs/${id}/report`} />
      <button type="button" className="btn btn-sm" disabled={who === ''} onClick={() => void run.setEnded(who, endedAt === null)}>
        {endedAt === null ? (
          <>
            <Square size={13} aria-hidden /> End
          </>
        ) : (
          'Go on'
        )}
      </button>
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => run.open(null)}>
        Close
      </button>
      {isOpen ? <ProgressDialog now={now} onClose={() => setIsOpen(false)} /> : null}
    </section>
  );
}
