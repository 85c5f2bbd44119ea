'use client';
/** The runs that were begun, the newest first: go on with one, or look at what it came to. */
import type { RunCounts } from '@/core/check/run.ts';
import type { Run } from '@/core/check/run.ts';
import { WITNESSES } from '@/core/check/proof.ts';
import { CloseRow } from '../parts/CloseRow.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { dayAndTime } from '../parts/moment.ts';
import { useLoaded } from '../parts/useLoaded.ts';
import { countsInWords, ReportLinks } from './RunBar.tsx';

export function RunsDialog({ onOpen, onClose }: { readonly onOpen: (id: string) => void; readonly onClose: () => void }) {
  const { value: runs, problem } = useLoaded<readonly (Run & { readonly counts: RunCounts })[]>('/checks/runs');
  return (
    <Dialog title="Runs" onClose={onClose} wide>
      {problem === '' ? null : (
        <p role="alert" className="is-bad">
          {problem}
        </p>
      )}
      {runs === null && problem === '' ? <p className="quiet">Loading …</p> : null}
      {runs?.length === 0 ? <p className="quiet">No run was begun yet. Choose what to check and against whom, and begin one.</p> : null}
      {runs && runs.length > 0 ? (
        <table className="w-full text-[13px]">
          <thead>
            <tr className="border-base-300 border-b text-left">
              <th className="py-1 pr-3 font-semibold">What</th>
              <th className="pr-3 font-semibold">Against</th>
              <th className="pr-3 font-semibold">Begun</th>
              <th className="pr-3 font-semibold">So far</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {runs.map((run) => (
              <tr key={run.id} className="border-base-300 border-b">
                <td className="max-w-56 truncate py-1 pr-3 font-medium" title={run.name}>
                  {run.name}
                </td>
                <td className="pr-3">{WITNESSES[run.witness]}</td>
                <td className="pr-3 whitespace-nowrap">
                  {dayAndTime(run.begunAt)}, {run.who}
                </td>
                <td className="pr-3">
                  {countsInWords(run.counts)}
                  {run.endedAt === null ? '' : ' · ended'}
                </td>
                <td className="text-right">
                  <button type="button" className="btn btn-xs" onClick={() => onOpen(run.id)}>
                    {run.endedAt === null ? 'Go on' : 'Look'}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      <div className="mt-3 flex items-center gap-2 text-[13px]">
        <span className="quiet">All tags, whatever run they were checked in:</span>
        <ReportLinks path="/checks/report" />
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}
