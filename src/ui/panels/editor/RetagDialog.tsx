'use client';
/** Finds and replaces in the names of the tags that elements use; shows what would change before anything does. */
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import { retagged } from '@/core/panel/retag.ts';
import { tagsUsedBy } from '@/core/panel/uses.ts';
import { tagAt, tagPath, tagPathParts } from '@/core/project/tagPath.ts';
import type { Element, Page } from '@/core/project/entities.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import type { ProjectView } from '../../live/project.ts';
import { Dialog } from '../../parts/Dialog.tsx';

type Where = 'chosen' | 'page' | 'panel';

interface RetagDialogProps {
  readonly chosen: readonly Element[];
  readonly elements: readonly Element[];
  readonly pages: readonly Page[];
  readonly onClose: () => void;
}

interface Found {
  readonly from: string;
  readonly to: string | null;
  /** The path that was looked for. */
  readonly wanted: string;
  readonly count: number;
}

export function RetagDialog({ chosen, elements, pages, onClose }: RetagDialogProps) {
  const project = useProject();
  const change = useChange();
  const [where, setWhere] = useState<Where>(chosen.length > 0 ? 'chosen' : 'page');
  const [find, setFind] = useState('');
  const [put, setPut] = useState('');
  const those = useMemo(
    () => (where === 'chosen' ? chosen : where === 'page' ? elements : pages.flatMap(({ id }) => project.elementsOn(id))),
    [where, chosen, elements, pages, project],
  );
  const found = useMemo(() => search(project, those, find, put), [project, those, find, put]);
  const next = new Map(found.flatMap(({ from, to }) => (to === null ? [] : [[from, to] as const])));
  const changes = those.flatMap((element) => {
    const set = retagged(element, (id) => next.get(id) ?? id);
    return set ? [{ kind: 'element' as const, id: element.id, set }] : [];
  });
  const replace = async (): Promise<void> => {
    const done = await change(`tags with “${find}” replaced in ${counted(changes.length, 'element')}`, changes);
    if (!done.ok) return;
    toast(`${counted(changes.length, 'element')} changed`);
    onClose();
  };
  return (
    <Dialog title="Replace tags" onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (changes.length > 0) void replace();
        }}
      >
        <div className="grid grid-cols-3 gap-2">
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            In
            <select className="select select-sm" value={where} onChange={(e) => setWhere(e.target.value as Where)}>
              <option value="chosen" disabled={chosen.length === 0}>
                what is chosen
              </option>
              <option value="page">this page</option>
              <option value="panel">the whole panel</option>
            </select>
          </label>
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            Find in the paths of tags
            <input className="input input-sm num" autoFocus value={find} placeholder="Stand 1" onChange={(e) => setFind(e.target.value)} />
          </label>
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            Put in its place
            <input className="input input-sm num" value={put} placeholder="Stand 2" onChange={(e) => setPut(e.target.value)} />
          </label>
        </div>
        <div className="max-h-72 overflow-auto" data-retag>
          {find === '' ? (
            <p className="quiet text-sm">What a tag’s path would become is looked for among the tags of the project.</p>
          ) : found.length === 0 ? (
            <p className="quiet text-sm">No tag that is used there has “{find}” in its path.</p>
          ) : (
            <table className="w-full text-[13px]">
              <thead>
                <tr className="quiet text-left">
                  <th className="font-normal">Tag now</th>
                  <th className="font-normal">then</th>
                  <th className="text-right font-normal">elements</th>
                </tr>
              </thead>
              <tbody>
                {found.map(({ from, to, wanted, count }) => (
                  <tr key={from} className="border-base-300 border-t">
                    <td className="num py-0.5">{pathIn(project, from)}</td>
                    <td className={`num ${to === null ? 'is-bad' : ''}`}>{to === null ? `✕ no tag ${wanted}: it stays` : pathIn(project, to)}</td>
                    <td className="num text-right">{count}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={changes.length === 0}>
            Replace in {counted(changes.length, 'element')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function pathIn(project: ProjectView, id: string): string {
  const tag = project.tag(id);
  return tag ? tagPath(tag, project) : 'a tag that is gone';
}

function search(project: ProjectView, elements: readonly Element[], find: string, put: string): readonly Found[] {
  if (find === '') return [];
  const counts = new Map<string, number>();
  for (const element of elements) for (const id of tagsUsedBy(element)) counts.set(id, (counts.get(id) ?? 0) + 1);
  return [...counts].flatMap(([from, count]): Found | readonly [] => {
    const tag = project.tag(from);
    const parts = tag ? tagPathParts(tag, project) : [];
    if (!parts.some((part) => part.toLowerCase().includes(find.toLowerCase()))) return [];
    const wanted = parts.map((part) => replaced(part, find, put));
    return { from, to: tagAt(wanted, project.named), wanted: wanted.join('.'), count };
  });
}

function replaced(part: string, find: string, put: string): string {
  const at = part.toLowerCase().indexOf(find.toLowerCase());
  return at < 0 ? part : `${part.slice(0, at)}${put}${part.slice(at + find.length)}`;
}
