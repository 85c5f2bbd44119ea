'use client';
/** The lists that were imported, each with its versions and the way to import the next one. */
import { useState } from 'react';
import { VERSIONS_KEPT } from '@/core/project/kept.ts';
import type { Source } from '@/core/project/entities.ts';
import type { ListVersion } from '@/core/taglist/draft.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { FileDrop } from '../parts/FileDrop.tsx';
import { LIST_FILES } from './files.ts';
import { dayAndTime } from '../parts/moment.ts';

interface SourcesProps {
  readonly onNewVersion: (file: File, source: Source) => void;
  readonly onCompare: (sourceId: string, from: string, to: string) => void;
}

export function Sources({ onNewVersion, onCompare }: SourcesProps) {
  const project = useProject();
  const [openId, setOpenId] = useState<string | null>(null);
  if (project.sources.length === 0)
    return (
      <section aria-label="Lists imported">
        <Empty title="No list imported yet">
          <p>
            Export the tag list from the controller&apos;s program: as delimited text or a workbook (XLSX) with a column for the name and the address,
            as declarations (IEC 61131-3 text or PLCopen XML), as a node set (UANodeSet), or as Mill Latch&apos;s own JSON. Headings are understood in
            several languages.
          </p>
        </Empty>
      </section>
    );
  return (
    <section aria-label="Lists imported">
      <table className="card-flat w-full text-[13px]">
        <thead>
          <tr className="quiet h-8 text-left">
            <th className="pl-3">List</th>
            <th>Device</th>
            <th className="text-right">Tags</th>
            <th className="pl-8">Imported</th>
            <th>
              <span className="sr-only">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {project.sources.map((s) => (
            <SourceRows
              key={s.id}
              source={s}
              isOpen={openId === s.id}
              onOpen={() => setOpenId(openId === s.id ? null : s.id)}
              onNewVersion={onNewVersion}
              onCompare={onCompare}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function SourceRows({
  source,
  isOpen,
  onOpen,
  onNewVersion,
  onCompare,
}: SourcesProps & {
  readonly source: Source;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
}) {
  const project = useProject();
  const [versions, setVersions] = useState<readonly ListVersion[] | null>(null);
  const [marked, setMarked] = useState<readonly string[]>([]);
  /** The earlier of the two that are marked, and the later one. */
  const pair = (versions ?? []).filter((v) => marked.includes(v.id)).reverse();
  const open = (): void => {
    onOpen();
    if (!isOpen)
      void call<readonly ListVersion[]>('GET', `/lists/sources/${source.id}/versions`).then((told) => setVersions(told.ok ? told.value : []));
  };
  return (
    <>
      <tr className="border-base-300 h-10 border-t">
        <td className="pl-3 font-medium">{source.fileName}</td>
        <td>{project.device(source.deviceId)?.name}</td>
        <td className="num text-right">{source.rowCount}</td>
        <td className="pl-8">{dayAndTime(source.importedAt)}</td>
        <td className="pr-3">
          <span className="flex items-center justify-end gap-3">
            <button type="button" className="btn btn-sm btn-ghost" aria-expanded={isOpen} onClick={open}>
              Versions
            </button>
            <a className="btn btn-sm btn-ghost" href={`/api/v1/devices/${source.deviceId}/list`} download>
              Export as CSV
            </a>
            <FileDrop
              label={`New version of ${source.fileName}`}
              ask="New version …"
              accept={LIST_FILES}
              chosen={null}
              onFile={(file) => onNewVersion(file, source)}
            />
          </span>
        </td>
      </tr>
      {isOpen ? (
        <tr>
          <td colSpan={5} className="pb-2 pl-8">
            {versions === null ? <span className="quiet">Reading the versions …</span> : null}
            {versions?.length === 0 ? <span className="quiet">Imported before versions were kept.</span> : null}
            <ul>
              {versions?.map((v) => (
                <li key={v.id} className="flex h-7 items-center gap-4">
                  {versions.length > 1 ? (
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      aria-label={`Compare the version of ${dayAndTime(v.at)}`}
                      checked={marked.includes(v.id)}
                      onChange={() => setMarked((now) => (now.includes(v.id) ? now.filter((id) => id !== v.id) : [...now.slice(-1), v.id]))}
                    />
                  ) : null}
                  <span className="w-44">{dayAndTime(v.at)}</span>
                  <span className="num w-16 text-right">{v.rowCount}</span>
                  <span className="max-w-80 truncate" title={v.fileName}>
                    {v.fileName}
                  </span>
                  <span className="quiet">
                    by {v.origin === 'engineer' ? 'the engineer' : v.origin}
                    {v.programVersion ? ` · version ${v.programVersion} of the program` : ''}
                    {v.id === source.versionId ? ' · the tags stand at this one' : ''}
                  </span>
                </li>
              ))}
            </ul>
            {versions && versions.length >= VERSIONS_KEPT ? (
              <p className="quiet">The newest {VERSIONS_KEPT} versions are kept, and older ones that undo can lead back to.</p>
            ) : null}
            {versions && versions.length > 1 ? (
              <button
                type="button"
                className="btn btn-sm mt-1"
                disabled={pair.length !== 2}
                onClick={() => onCompare(source.id, pair[0]?.id ?? '', pair[1]?.id ?? '')}
              >
                {pair.length === 2 ? 'Compare the two' : 'Mark two to compare them'}
              </button>
            ) : null}
          </td>
        </tr>
      ) : null}
    </>
  );
}
