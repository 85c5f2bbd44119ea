'use client';
/** A page or a panel as a file, out and in; what of it has no tag here is told before it is brought in. */
import { Download } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { MOST_FILE_BYTES, pageFile, pagesFrom, picturesOn, type PagesToMake } from '@/core/panel/pageFile.ts';
import { tagAt } from '@/core/project/tagPath.ts';
import type { Change } from '@/core/project/command.ts';
import type { Page, Panel, Picture } from '@/core/project/entities.ts';
import { expressionPath } from '../../expression/reading.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FileDrop } from '../../parts/FileDrop.tsx';
import { pictureAddress } from '../drawings/picture.tsx';
import { takePicture } from './PicturesDialog.tsx';

interface PageFileDialogProps {
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly page: Page | null;
  readonly onPanel: (id: string) => void;
  readonly onClose: () => void;
}

const MISSING_SHOWN = 12;

export function PageFileDialog({ panel, pages, page, onPanel, onClose }: PageFileDialogProps) {
  const project = useProject();
  const change = useChange();
  const [text, setText] = useState<string | null>(null);
  const [name, setName] = useState<string | null>(null);
  const [isInto, setInto] = useState(false);
  const [isBusy, setBusy] = useState(false);
  const save = async (of: readonly Page[], name: string): Promise<void> => {
    const source = {
      panel,
      pages: of,
      elementsOn: (id: string) => project.elementsOn(id),
      stateList: (id: string) => project.stateList(id),
      picture: (id: string) => project.picture(id),
    };
    const pictureData = new Map<string, string>();
    for (const picture of picturesOn(source)) {
      const data = await pictureBase64(picture);
      if (data === null) toast.error(`The picture ${picture.name} could not be fetched.`, { description: 'The file goes without it.' });
      else pictureData.set(picture.id, data);
    }
    const file = pageFile({
      ...source,
      pictureData,
      subjectList: (id) => project.subjectList(id),
      // A page alone is of no controller.
      words: of.length === pages.length ? project.wordsOf(panel.id) : [],
      pathOf: (id) => {
        const tag = project.tag(id);
        return tag && expressionPath(project, tag);
      },
    });
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([file], { type: 'application/json' }));
    link.download = `${name.replace(/[^\p{L}\p{N} _-]/gu, '-')}.pages.json`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  };
  const read = useMemo(
    () =>
      text === null
        ? null
        : pagesFrom(text, {
            newId: uuid,
            tagNamed: (parts) => tagAt(parts, project.named),
            stateListNamed: (name) => idNamed(project.stateLists, name),
            subjectListNamed: (name) => idNamed(project.subjectLists, name),
            pictureNamed: (name) => idNamed(project.pictures, name),
            panelNames: project.panels.map(({ name }) => name),
            into: isInto ? { id: panel.id, pageCount: pages.length } : null,
          }),
    [text, isInto, project, panel.id, pages.length],
  );
  const bring = async ({ changes, panelId, pageCount, pictures }: PagesToMake): Promise<void> => {
    setBusy(true);
    const made: Change[] = [];
    for (const { id, name, data } of pictures) {
      const taken = await takePicture(new File([bytesIn(data)], name));
      // Refused, and told: what shows it says that it is gone.
      if (!taken) continue;
      const { removed: _, ...facts } = taken;
      made.push({ kind: 'picture', id, set: { name, ...facts } });
    }
    const label = isInto ? `${counted(pageCount, 'page')} brought into ${panel.name}` : 'panel brought in from a file';
    const done = await change(label, [...made, ...changes]);
    setBusy(false);
    if (!done.ok) return;
    onPanel(panelId);
    toast(`${counted(pageCount, 'page')} brought in`);
    onClose();
  };
  return (
    <Dialog title="Pages as a file" onClose={onClose}>
      <div className="flex flex-col gap-4">
        <section className="flex flex-wrap gap-2">
          {page ? (
            <button type="button" className="btn btn-sm" onClick={() => void save([page], page.name)}>
              <Download size={14} aria-hidden /> Save the page {page.name}
            </button>
          ) : null}
          <button type="button" className="btn btn-sm" onClick={() => void save(pages, panel.name)}>
            <Download size={14} aria-hidden /> Save the panel with {counted(pages.length, 'page')}
          </button>
        </section>
        <section className="flex flex-col gap-2">
          <FileDrop
            label="Bring pages in"
            ask="Drop a page file here, or choose one"
            accept=".json"
            chosen={name}
            onFile={(file) => {
              if (file.size > MOST_FILE_BYTES)
                toast.error(`${file.name} is too large for a page file.`, { description: `At most ${MOST_FILE_BYTES / 1_000_000} MB are read.` });
              else
                void file.text().then((content) => {
                  setName(file.name);
                  setText(content);
                });
            }}
          />
          <label className="flex items-center gap-2 text-xs font-semibold">
            <input type="checkbox" className="checkbox checkbox-sm" checked={isInto} onChange={(e) => setInto(e.target.checked)} />
            Into {panel.name}, after its pages; else as a panel of its own
          </label>
          {read && !read.ok ? (
            <p className="is-bad text-sm" role="alert">
              {read.problem.message} {read.problem.remedy}
            </p>
          ) : null}
          {read?.ok ? (
            <div className="text-sm" data-page-file>
              <p>
                {counted(read.value.pageCount, 'page')} with {counted(read.value.elementCount, 'element')}
                {read.value.pictures.length > 0 ? ` and ${counted(read.value.pictures.length, 'new picture')}` : ''}.
              </p>
              {read.value.missing.length > 0 ? (
                <p className="is-look">
                  ◑ {counted(read.value.missing.length, 'tag')} of it {read.value.missing.length === 1 ? 'is' : 'are'} not here, and what shows{' '}
                  {read.value.missing.length === 1 ? 'it' : 'them'} has none: {read.value.missing.slice(0, MISSING_SHOWN).join(', ')}
                  {read.value.missing.length > MISSING_SHOWN ? ' …' : ''}
                </p>
              ) : (
                <p className="is-good">✓ All of its tags are here.</p>
              )}
            </div>
          ) : null}
        </section>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Close
        </button>
        <button type="button" className="btn btn-sm btn-primary" disabled={!read?.ok || isBusy} onClick={() => read?.ok && void bring(read.value)}>
          {isBusy ? 'Bringing in …' : 'Bring in'}
        </button>
      </div>
    </Dialog>
  );
}

function idNamed(among: readonly { readonly id: string; readonly name: string }[], name: string): string | null {
  return among.find((other) => other.name.toLowerCase() === name.toLowerCase())?.id ?? null;
}

async function pictureBase64({ id, digest }: Picture): Promise<string | null> {
  const answer = await fetch(pictureAddress(id, digest)).catch(() => null);
  if (!answer?.ok) return null;
  let binary = '';
  for (const byte of new Uint8Array(await answer.arrayBuffer())) binary += String.fromCharCode(byte);
  return btoa(binary);
}

/** Empty where it is no base64: no picture either, and told as that. */
function bytesIn(base64: string): Uint8Array<ArrayBuffer> {
  try {
    return Uint8Array.from(atob(base64), (character) => character.charCodeAt(0));
  } catch {
    return new Uint8Array();
  }
}
