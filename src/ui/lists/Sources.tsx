'use client';
/** The lists that were brought in, each with its versions and the way to bring in the next one. */
import { useState } from 'react';
import type { Source } from '@/core/project/entities.ts';
import type { ListVersion } from '@/core/taglist/draft.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { FileDrop } from '../parts/FileDrop.tsx';
import { dayAndTime } from '../parts/moment.ts';

export function Sources({ onNewVersion }: { readonly onNewVersion: (file: File, source: Source) => void }) {
  const project = useProject();
  const [openId, setOpenId] = useState<string | null>(null);
  if (project.sources.length === 0)
    return (
      <section aria-label="Lists brought in">
        <Empty title="No list brought in yet">
          <p>
            Export the tag list from the controller&apos;s program as delimited text. It needs a column for the name and the address; type, comment,
            unit, group, access and ranges are understood too, by their headings in several languages.
          </p>
        </Empty>
      </section>
    );
  return (
    <section aria-label="Lists brought in">
      <table className="card-flat w-full text-[13px]">
        <thead>
          <tr className="quiet h-8 text-left">
            <th className="pl-3">List</th>
            <th>Device</th>
            <th className="text-right">Tags</th>
            <th className="pl-8">Brought in</th>
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
}: {
  readonly source: Source;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
  readonly onNewVersion: (file: File, source: Source) => void;
}) {
  const project = useProject();
  const [versions, setVersions] = useState<readonly ListVersion[] | null>(null);
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
            <FileDrop
              label={`New version of ${source.fileName}`}
              ask="New version …"
              accept=".csv,.txt,.tsv,text/csv,text/plain"
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
            {versions?.length === 0 ? <span className="quiet">Brought in before versions were kept.</span> : null}
            <ul>
              {versions?.map((v) => (
                <li key={v.id} className="flex gap-4">
                  <span className="w-44">{dayAndTime(v.at)}</span>
                  <span className="num w-16 text-right">{v.rowCount}</span>
                  <span>{v.fileName}</span>
                  <span className="quiet">
                    by {v.origin === 'engineer' ? 'the engineer' : v.origin}
                    {v.id === source.versionId ? ' · the tags stand at this one' : ''}
                  </span>
                </li>
              ))}
            </ul>
          </td>
        </tr>
      ) : null}
    </>
  );
}
