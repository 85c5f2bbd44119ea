'use client';
/** How far the run is by device, by page and by person. */
import { progressBy, type PartOfRun } from '@/core/check/progress.ts';
import type { RunEntry } from '@/core/check/run.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { pagesShowing } from './scope.ts';
import type { RunNow } from './useRun.ts';

const ON_NO_PAGE = 'on no page';
const REMOVED = 'removed since';

export function ProgressDialog({ now, onClose }: { readonly now: RunNow; readonly onClose: () => void }) {
  const project = useProject();
  const pages = new Map<string, string[]>();
  for (const { pageId, tagIds } of pagesShowing(project, new Set(now.run.tagIds))) {
    const page = project.page(pageId);
    const name = page ? `${project.panel(page.panelId)?.name ?? ''} · ${page.name}` : '';
    for (const id of tagIds) pages.set(id, [...(pages.get(id) ?? []), name]);
  }
  const deviceOf = ({ tagId }: RunEntry): string => {
    const tag = project.tag(tagId);
    return tag ? (project.deviceOf(tag)?.name ?? tag.source.kind) : REMOVED;
  };
  return (
    <Dialog title={`Progress of ${now.run.name}`} onClose={onClose} wide>
      <div className="flex max-h-[60vh] flex-col gap-4 overflow-auto">
        <Parts title="By device" parts={progressBy(now.entries, (entry) => [deviceOf(entry)])} />
        <Parts title="By page" parts={progressBy(now.entries, ({ tagId }) => pages.get(tagId) ?? [ON_NO_PAGE])} />
        <Parts title="By person" parts={progressBy(now.entries, ({ who }) => (who === '' ? [] : [who]))} />
      </div>
      <div className="mt-3 text-right">
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}

function Parts({ title, parts }: { readonly title: string; readonly parts: readonly PartOfRun[] }) {
  const cell = 'num px-2 py-1 text-right';
  return (
    <table className="w-full text-[13px]" aria-label={title}>
      <thead>
        <tr className="border-base-300 border-b text-right">
          {[title, 'Tags', 'Agree', 'Differ', 'Skipped', 'Waived', 'Open'].map((heading, i) => (
            <th key={heading} scope="col" className={`px-2 py-1 font-semibold ${i === 0 ? 'text-left' : 'w-20'}`}>
              {heading}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {parts.length === 0 ? (
          <tr>
            <td className="quiet px-2 py-1" colSpan={7}>
              Nobody has looked at anything yet.
            </td>
          </tr>
        ) : null}
        {parts.map(({ name, counts }) => (
          <tr key={name} className="border-base-300 border-b" data-part={name}>
            <td className="max-w-64 truncate px-2 py-1" title={name}>
              {name}
            </td>
            <td className={cell}>{counts.all}</td>
            <td className={cell}>{counts.agree}</td>
            <td className={`${cell} ${counts.failed > 0 ? 'is-bad font-semibold' : ''}`}>{counts.failed}</td>
            <td className={cell}>{counts.skipped}</td>
            <td className={cell}>{counts.waived}</td>
            <td className={cell}>{counts.open}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
