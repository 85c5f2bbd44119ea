'use client';
/** Panels and their pages: what stands where, and which tag each thing shows. */
import { ExternalLink, MonitorSmartphone, Plus, Ruler } from 'lucide-react';
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { ELEMENT_KINDS, ELEMENT_WORDS, freePlace, type ElementKind } from '@/core/panel/element.ts';
import { PAGE_COLUMNS } from '@/core/project/kinds/element.ts';
import type { Page, Panel, Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useSelectedTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { keptField } from '../parts/keptField.ts';
import { openDialog } from '../shell/openDialogs.ts';
import { ElementForm } from './ElementForm.tsx';
import { PageCanvas } from './PageCanvas.tsx';
import { PanelUnits } from './PanelUnits.tsx';

export function PanelsBench() {
  const project = useProject();
  const change = useChange();
  const [panelId, setPanelId] = useState<string | null>(null);
  const [pageId, setPageId] = useState<string | null>(null);
  const panel = project.panel(panelId ?? '') ?? project.panels[0] ?? null;
  const pages = panel ? project.pagesOf(panel.id) : [];
  const page = pages.find((p) => p.id === pageId) ?? pages[0] ?? null;
  const makePanel = async (): Promise<void> => {
    const [newPanel, newPage] = [uuid(), uuid()];
    const name = `Panel ${project.panels.length + 1}`;
    const done = await change(`${name} made`, [
      { kind: 'panel', id: newPanel, set: { name } },
      { kind: 'page', id: newPage, set: { panelId: newPanel, name: 'Overview', position: 0 } },
    ]);
    if (done.ok) {
      setPanelId(newPanel);
      setPageId(newPage);
    }
  };
  if (!panel)
    return (
      <Empty title="No panel yet">
        <p>A panel is an operator&apos;s screen. Put values on its pages and open it full screen, live.</p>
        <button type="button" className="btn btn-primary" onClick={() => void makePanel()}>
          <Plus size={16} aria-hidden /> Make a panel
        </button>
      </Empty>
    );
  return (
    <div className="flex flex-col gap-2">
      <h1 className="sr-only">Panels</h1>
      <PanelBar panel={panel} pages={pages} page={page} onPanel={setPanelId} onPage={setPageId} onMake={() => void makePanel()} />
      {page ? <Arranged key={page.id} page={page} /> : <p className="quiet">This panel has no page yet.</p>}
    </div>
  );
}

interface PanelBarProps {
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly page: Page | null;
  readonly onPanel: (id: string) => void;
  readonly onPage: (id: string) => void;
  readonly onMake: () => void;
}

function PanelBar({ panel, pages, page, onPanel, onPage, onMake }: PanelBarProps) {
  const project = useProject();
  const change = useChange();
  const [isAtUnits, setIsAtUnits] = useState(false);
  const addPage = async (): Promise<void> => {
    const id = uuid();
    const done = await change(`page added to ${panel.name}`, [
      { kind: 'page', id, set: { panelId: panel.id, name: `Page ${pages.length + 1}`, position: pages.length } },
    ]);
    if (done.ok) onPage(id);
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select
        className="select select-sm w-44"
        aria-label="Panel"
        value={panel.id}
        onChange={(e) => (e.target.value === '' ? onMake() : onPanel(e.target.value))}
      >
        {project.panels.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
        <option value="">New panel …</option>
      </select>
      <span className="quiet">called</span>
      <Rename
        key={`panel ${panel.id} ${panel.name}`}
        label="Name of the panel"
        value={panel.name}
        onKeep={(name) => change(`panel renamed to ${name}`, [{ kind: 'panel', id: panel.id, set: { name } }])}
      />
      <span className="quiet ml-3">Pages</span>
      {pages.map((p) => (
        <button
          key={p.id}
          type="button"
          aria-pressed={p.id === page?.id}
          className={`btn btn-sm ${p.id === page?.id ? 'btn-primary' : 'btn-ghost'}`}
          onClick={() => onPage(p.id)}
        >
          {p.name}
        </button>
      ))}
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => void addPage()}>
        <Plus size={14} aria-hidden /> Page
      </button>
      {page ? <span className="quiet">called</span> : null}
      {page ? (
        <Rename
          key={`page ${page.id} ${page.name}`}
          label="Name of the page"
          value={page.name}
          onKeep={(name) => change(`page renamed to ${name}`, [{ kind: 'page', id: page.id, set: { name } }])}
        />
      ) : null}
      <button type="button" className="btn btn-sm btn-ghost ml-auto" onClick={() => setIsAtUnits(true)}>
        <Ruler size={14} aria-hidden /> Units{panel.units.length > 0 ? ` · ${panel.units.map(({ to }) => to).join(', ')}` : ''}
      </button>
      {isAtUnits ? <PanelUnits panel={panel} onClose={() => setIsAtUnits(false)} /> : null}
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => openDialog('network')}>
        <MonitorSmartphone size={14} aria-hidden /> Phones and panels
      </button>
      <a className="btn btn-sm btn-outline" href={`/panel/${panel.id}${page ? `?page=${page.id}` : ''}`} target="_blank" rel="noreferrer">
        <ExternalLink size={14} aria-hidden /> Open the panel
      </a>
    </div>
  );
}

function Rename({ label, value, onKeep }: { readonly label: string; readonly value: string; readonly onKeep: (name: string) => unknown }) {
  return <input key={value} className="input input-sm w-36" aria-label={label} title={label} maxLength={80} {...keptField(value, onKeep, true)} />;
}

function Arranged({ page }: { readonly page: Page }) {
  const project = useProject();
  const change = useChange();
  const selectedTag = useSelectedTag();
  const [selected, setSelected] = useState<string | null>(null);
  const elements = project.elementsOn(page.id);
  const element = elements.find((e) => e.id === selected) ?? null;
  const add = async (kind: ElementKind): Promise<void> => {
    const id = uuid();
    const tag = selectedTag === null ? null : project.tag(selectedTag);
    const fits = tag && suits(kind, tag) ? tag : null;
    const { w, h } = ELEMENT_WORDS[kind];
    const set = {
      pageId: page.id,
      kind,
      tagId: fits?.id ?? null,
      label: fits?.name ?? '',
      ...freePlace(elements, PAGE_COLUMNS, w, h),
      w,
      h,
      settings: kind === 'button' && fits && fits.type !== 'BOOL' ? { action: 'write' } : {},
    };
    const done = await change(`${ELEMENT_WORDS[kind].name} put on ${page.name}`, [{ kind: 'element', id, set }]);
    if (done.ok) setSelected(id);
  };
  return (
    <>
      <div className="flex items-center gap-2" role="group" aria-label="Add to the page">
        <span className="quiet">Add to the page:</span>
        {ELEMENT_KINDS.map((kind) => (
          <button
            key={kind}
            type="button"
            className="btn btn-sm"
            title={`A ${ELEMENT_WORDS[kind].name.toLowerCase()} ${ELEMENT_WORDS[kind].use}`}
            onClick={() => void add(kind)}
          >
            {ELEMENT_WORDS[kind].name}
          </button>
        ))}
      </div>
      {element ? <ElementForm key={element.id} element={element} /> : null}
      <PageCanvas page={page} selected={selected} onSelect={setSelected} />
    </>
  );
}

/** A lamp shows a state; a bar and an entry show numbers; a number and a button go with anything. */
function suits(kind: ElementKind, tag: Tag): boolean {
  return kind === 'lamp' ? tag.type === 'BOOL' : kind === 'number' || kind === 'button' || tag.type !== 'BOOL';
}
