'use client';
/** Panels and their pages: what stands where, which tag each thing shows, what it does. */
import {
  ArrowLeftRight,
  ExternalLink,
  FileJson,
  Languages,
  Layers,
  Replace,
  MonitorSmartphone,
  MonitorUp,
  Plus,
  Ruler,
  Settings2,
  Trash2,
  Users,
  Waypoints,
  type LucideIcon,
} from 'lucide-react';
import { useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import { SNAPS, type Snap } from '@/core/project/kinds/page.ts';
import type { Element, Page, Panel, Tag } from '@/core/project/entities.ts';
import { byHeight } from '@/core/panel/scene.ts';
import { sceneInLanguage } from '@/core/panel/sceneWording.ts';
import { languageName } from '@/core/panel/wording.ts';
import { sceneOf } from '@/mapping/panels/sceneOf.ts';
import { useChange, useProject, useStep } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { keptField } from '../parts/keptField.ts';
import { openDialog } from '../shell/openDialogs.ts';
import { AddList } from './editor/AddList.tsx';
import { Canvas } from './editor/Canvas.tsx';
import { ChosenActions } from './editor/ChosenActions.tsx';
import { ExchangeDialog } from './editor/ExchangeDialog.tsx';
import { FittingChoice } from './editor/FittingChoice.tsx';
import { ElementForm } from './editor/ElementForm.tsx';
import { suits } from './editor/fitting.ts';
import { LanguagesDialog } from './editor/LanguagesDialog.tsx';
import { ManyForm } from './editor/ManyForm.tsx';
import { Outline } from './editor/Outline.tsx';
import { MultiplyDialog } from './editor/MultiplyDialog.tsx';
import { PageFileDialog } from './editor/PageFileDialog.tsx';
import { PageWaysDialog } from './editor/PageWaysDialog.tsx';
import { PeopleDialog } from './editor/PeopleDialog.tsx';
import { RetagDialog } from './editor/RetagDialog.tsx';
import { HostsDialog } from './hosts/HostsDialog.tsx';
import { SendAgain } from './hosts/SendAgain.tsx';
import { SubjectsDialog } from './editor/SubjectsDialog.tsx';
import { PanelSettings } from './editor/PanelSettings.tsx';
import { useChosen } from './editor/useChosen.ts';
import { useEdit } from './editor/useEdit.ts';
import { PanelUnits } from './PanelUnits.tsx';
import { SubjectPreview, SubjectsProvider } from './Subjects.tsx';
import { StageProvider, type ValuesFrom } from './SceneContext.tsx';

function goTo(panelId: string, pageId: string | null): void {
  // The project is here already: there is nothing to ask the server for.
  window.history.replaceState(null, '', `/panels?panel=${panelId}${pageId === null ? '' : `&page=${pageId}`}`);
}

export function PanelsBench() {
  const project = useProject();
  const change = useChange();
  // Where one is stands in the address: a link leads to a page, and coming back leads to the same.
  const asked = useSearchParams();
  const pageId = asked.get('page');
  const panelId = project.page(pageId ?? '')?.panelId ?? asked.get('panel');
  const panel = project.panel(panelId ?? '') ?? project.panels[0] ?? null;
  const pages = panel ? project.pagesOf(panel.id) : [];
  const page = pages.find((p) => p.id === pageId) ?? pages[0] ?? null;
  const makePanel = async (): Promise<void> => {
    const [newPanel, newPage] = [uuid(), uuid()];
    const name = `Panel ${project.panels.length + 1}`;
    const done = await change(`${name} made`, [
      { kind: 'panel', id: newPanel, set: { name, units: [] } },
      { kind: 'page', id: newPage, set: { panelId: newPanel, name: 'Overview', position: 0 } },
    ]);
    if (done.ok) goTo(newPanel, newPage);
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
    <div className="flex h-full min-h-0 flex-col gap-2">
      <PanelBar
        panel={panel}
        pages={pages}
        page={page}
        onPanel={(id) => goTo(id, null)}
        onPage={(id) => goTo(panel.id, id)}
        onMake={() => void makePanel()}
      />
      {page ? <Arranged key={page.id} panel={panel} pages={pages} page={page} /> : <p className="quiet">This panel has no page yet.</p>}
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
  const step = useStep();
  const [open, setOpen] = useState<'units' | 'settings' | 'file' | 'ways' | 'exchange' | 'subjects' | 'languages' | 'people' | 'hosts' | null>(null);
  const [sends, setSends] = useState(0);
  const closeHosts = (): void => {
    setOpen(null);
    setSends(sends + 1);
  };
  const addPage = async (): Promise<void> => {
    const id = uuid();
    const position = Math.max(-1, ...pages.map((one) => one.position)) + 1;
    const done = await change(`page added to ${panel.name}`, [
      { kind: 'page', id, set: { panelId: panel.id, name: `Page ${pages.length + 1}`, position } },
    ]);
    if (done.ok) onPage(id);
  };
  const removePage = async (gone: Page): Promise<void> => {
    const done = await change(`page ${gone.name} removed`, [{ kind: 'page', id: gone.id, set: null }]);
    if (done.ok) toast(`${gone.name} removed`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select className="select select-sm w-36" aria-label="Panel" value={panel.id} onChange={(e) => onPanel(e.target.value)}>
        {project.panels.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
      <Rename
        key={`panel ${panel.id} ${panel.name}`}
        label="Name of the panel"
        value={panel.name}
        onKeep={(name) => change(`panel renamed to ${name}`, [{ kind: 'panel', id: panel.id, set: { name } }])}
      />
      <button type="button" className="btn btn-sm btn-ghost btn-square" aria-label="New panel" title="New panel" onClick={onMake}>
        <Plus size={14} aria-hidden />
      </button>
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => setOpen('settings')}>
        <Settings2 size={14} aria-hidden /> {panel.width} × {panel.height}
      </button>
      <div className="ml-1 flex max-w-md gap-1 overflow-x-auto" role="group" aria-label="Pages">
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
      </div>
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => void addPage()}>
        <Plus size={14} aria-hidden /> Page
      </button>
      {page ? (
        <>
          <Rename
            key={`page ${page.id} ${page.name}`}
            label="Name of the page"
            value={page.name}
            onKeep={(name) => change(`page renamed to ${name}`, [{ kind: 'page', id: page.id, set: { name } }])}
          />
          <button
            type="button"
            className="btn btn-sm btn-ghost btn-square"
            aria-label={`Remove the page ${page.name}`}
            title="Remove the page"
            onClick={() => void removePage(page)}
          >
            <Trash2 size={14} aria-hidden />
          </button>
        </>
      ) : null}
      <button
        type="button"
        className="btn btn-sm btn-ghost ml-auto px-2"
        aria-label="Units"
        title="Units: shown in others than the tags have"
        onClick={() => setOpen('units')}
      >
        <Ruler size={14} aria-hidden /> {panel.units.map(({ to }) => to).join(', ')}
      </button>
      {open === 'units' ? <PanelUnits panel={panel} onClose={() => setOpen(null)} /> : null}
      {open === 'file' ? <PageFileDialog panel={panel} pages={pages} page={page} onPanel={onPanel} onClose={() => setOpen(null)} /> : null}
      {open === 'settings' ? <PanelSettings panel={panel} pages={pages} onClose={() => setOpen(null)} /> : null}
      {open === 'exchange' ? <ExchangeDialog panel={panel} pages={pages} onClose={() => setOpen(null)} /> : null}
      {open === 'subjects' && page ? <SubjectsDialog panel={panel} page={page} onClose={() => setOpen(null)} /> : null}
      {open === 'languages' ? <LanguagesDialog panel={panel} onClose={() => setOpen(null)} /> : null}
      {open === 'people' ? <PeopleDialog panel={panel} pages={pages} onClose={() => setOpen(null)} /> : null}
      {open === 'hosts' ? <HostsDialog panel={panel} onClose={closeHosts} /> : null}
      {open === 'ways' ? <Ways panel={panel} onPage={onPage} onClose={() => setOpen(null)} /> : null}
      <div className="flex">
        <IconButton icon={Layers} label="Subjects" title="Subjects: one page for many like things" onClick={() => setOpen('subjects')} />
        <IconButton icon={Waypoints} label="Map of pages" title="Map of pages: what leads where" onClick={() => setOpen('ways')} />
        <IconButton
          icon={ArrowLeftRight}
          label="With the controller"
          title="With the controller: pages that it commands, what it is told"
          onClick={() => setOpen('exchange')}
        />
        <IconButton icon={Languages} label="Languages" title="Languages: the texts of the panel in each" onClick={() => setOpen('languages')} />
        <IconButton icon={Users} label="People" title="People: who may open and operate what" onClick={() => setOpen('people')} />
        <IconButton icon={FileJson} label="Pages as a file" onClick={() => setOpen('file')} />
        <IconButton
          icon={MonitorUp}
          label="Panel hosts"
          title="Panel hosts: this panel on the machine, without the bench"
          onClick={() => setOpen('hosts')}
        />
        <IconButton icon={MonitorSmartphone} label="Phones and panels" onClick={() => openDialog('network')} />
      </div>
      <SendAgain panel={panel} round={sends} onTrouble={() => setOpen('hosts')} />
      <a
        className="btn btn-sm btn-outline"
        href={`/panel/${panel.id}${page ? `?page=${page.id}` : ''}`}
        target="_blank"
        rel="noreferrer"
        aria-label="Open the panel"
        title="Open the panel full screen"
      >
        <ExternalLink size={14} aria-hidden /> Open
      </a>
    </div>
  );
}

interface IconButtonProps {
  readonly icon: LucideIcon;
  readonly label: string;
  readonly title?: string;
  readonly onClick: () => void;
}

function IconButton({ icon: Icon, label, title = label, onClick }: IconButtonProps) {
  return (
    <button type="button" className="btn btn-sm btn-ghost btn-square" aria-label={label} title={title} onClick={onClick}>
      <Icon size={14} aria-hidden />
    </button>
  );
}

function Ways({ panel, onPage, onClose }: { readonly panel: Panel; readonly onPage: (id: string) => void; readonly onClose: () => void }) {
  const scene = sceneOf(useProject(), panel.id);
  const open = (id: string): void => {
    onPage(id);
    onClose();
  };
  return scene ? <PageWaysDialog scene={scene} onPage={open} onClose={onClose} /> : null;
}

function Rename({ label, value, onKeep }: { readonly label: string; readonly value: string; readonly onKeep: (name: string) => unknown }) {
  return <input key={value} className="input input-sm w-24" aria-label={label} title={label} maxLength={80} {...keptField(value, onKeep, true)} />;
}

const SNAP_WORDS: Readonly<Record<Snap, string>> = { off: 'nothing', edges: 'edges', grid: 'the grid' };
const VALUE_WORDS: Readonly<Record<ValuesFrom, string>> = { live: 'of the machine', made: 'made up', none: 'none' };
const ZOOMS = [0.5, 0.75, 1, 1.5, 2];
type Side = 'add' | 'settings' | 'outline';

function Arranged({ panel, pages, page }: { readonly panel: Panel; readonly pages: readonly Page[]; readonly page: Page }) {
  const project = useProject();
  const change = useChange();
  const [language, setLanguage] = useState<string | null>(null);
  const scene = useMemo(() => {
    const written = sceneOf(project, panel.id);
    return written && sceneInLanguage(written, panel.languages.some(({ code }) => code === language) ? language : null);
  }, [project, panel, language]);
  // What is arranged is as it was written, whatever it says here.
  const elements = useMemo(() => [...project.elementsOn(page.id)].sort(byHeight), [project, page.id]);
  const chosen = useChosen(elements);
  const edit = useEdit(panel, page, chosen);
  const [side, setSide] = useState<Side>('add');
  const [open, setOpen] = useState<'multiply' | 'retag' | null>(null);
  const [values, setValues] = useState<ValuesFrom>('live');
  const [zoom, setZoom] = useState<number | null>(null);
  const [dropped, setDropped] = useState<{ readonly tag: Tag; readonly at: { readonly x: number; readonly y: number } } | null>(null);
  const [element, ...more] = chosen.elements;
  // What was chosen is what one wants to see the settings of.
  const shown: Side = side === 'add' && element ? 'settings' : side;
  const drop = (tag: Tag, at: { readonly x: number; readonly y: number }, on: Element | null): void => {
    if (on && suits(on.kind, tag)) {
      edit.set(`${tag.name} bound to ${on.label || ELEMENTS[on.kind].name}`, { tagId: tag.id }, [on]);
      chosen.choose([on.id]);
    } else setDropped({ tag, at });
  };
  if (!scene) return null;
  const has = chosen.ids.length > 0;
  return (
    <SubjectsProvider>
      <StageProvider scene={scene} values={values} isPressable={false} isArranged isPhone={false}>
        <div className="flex min-h-0 flex-1 gap-2">
          <aside className="card-flat flex w-72 shrink-0 flex-col gap-2 overflow-auto p-3" aria-label="Page tools">
            <div className="flex gap-1" role="tablist" aria-label="Page tools">
              {(['add', 'settings', 'outline'] as const).map((one) => (
                <button
                  key={one}
                  type="button"
                  role="tab"
                  aria-selected={shown === one}
                  className={`btn btn-sm flex-1 ${shown === one ? 'btn-primary' : 'btn-ghost'}`}
                  onClick={() => {
                    setSide(one);
                    if (one === 'add') chosen.choose([]);
                  }}
                >
                  {{ add: 'Add', settings: 'Settings', outline: 'Outline' }[one]}
                </button>
              ))}
            </div>
            {shown === 'add' ? <AddList edit={edit} /> : null}
            {shown === 'settings' && has ? <ChosenActions edit={edit} onMultiply={() => setOpen('multiply')} /> : null}
            {shown === 'settings' ? (
              element && more.length === 0 ? (
                <ElementForm key={element.id} element={element} pages={pages} edit={edit} />
              ) : element ? (
                <ManyForm chosen={chosen} edit={edit} />
              ) : (
                <p className="quiet text-sm">Choose an element on the page. Drag over several to choose them together.</p>
              )
            ) : null}
            {shown === 'outline' ? <Outline elements={elements} chosen={chosen} /> : null}
          </aside>
          <div className="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
            <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="The page">
              <label className="quiet flex items-center gap-1 text-xs">
                Snaps to
                <select
                  className="select select-xs w-24"
                  value={page.snap}
                  onChange={(e) => void change(`snapping of ${page.name} changed`, [{ kind: 'page', id: page.id, set: { snap: e.target.value } }])}
                >
                  {SNAPS.map((snap) => (
                    <option key={snap} value={snap}>
                      {SNAP_WORDS[snap]}
                    </option>
                  ))}
                </select>
              </label>
              <label className="quiet flex items-center gap-1 text-xs">
                of
                <input
                  key={page.pitch}
                  className="input input-xs num w-12"
                  aria-label="Pitch of the grid"
                  {...keptField(
                    String(page.pitch),
                    (text) => change(`grid of ${page.name} changed`, [{ kind: 'page', id: page.id, set: { pitch: Number(text) } }]),
                    true,
                  )}
                />
                px
              </label>
              <label className="quiet flex items-center gap-1 text-xs">
                Values
                <select className="select select-xs w-32" value={values} onChange={(e) => setValues(e.target.value as ValuesFrom)}>
                  {(['live', 'made', 'none'] as const).map((from) => (
                    <option key={from} value={from}>
                      {VALUE_WORDS[from]}
                    </option>
                  ))}
                </select>
              </label>
              <SubjectPreview pageId={page.id} />
              {panel.languages.length > 1 ? (
                <label className="quiet flex items-center gap-1 text-xs">
                  In
                  <select className="select select-xs w-28" value={language ?? ''} onChange={(e) => setLanguage(e.target.value || null)}>
                    {panel.languages.map(({ code }, i) => (
                      <option key={code} value={i === 0 ? '' : code}>
                        {languageName(code)}
                      </option>
                    ))}
                  </select>
                </label>
              ) : null}
              <label className="quiet flex items-center gap-1 text-xs">
                Zoom
                <select
                  className="select select-xs w-20"
                  value={zoom ?? ''}
                  onChange={(e) => setZoom(e.target.value === '' ? null : Number(e.target.value))}
                >
                  <option value="">fit</option>
                  {ZOOMS.map((z) => (
                    <option key={z} value={z}>
                      {z * 100} %
                    </option>
                  ))}
                </select>
              </label>
              <span className="flex-1" />
              <button type="button" className="btn btn-xs btn-ghost" onClick={() => setOpen('retag')}>
                <Replace size={13} aria-hidden /> Replace tags
              </button>
              <span className="quiet text-xs">{elements.length} elements</span>
            </div>
            <Canvas panel={panel} page={page} elements={elements} chosen={chosen} edit={edit} zoom={zoom} onTagDropped={drop} />
          </div>
        </div>
        {open === 'multiply' && has ? <MultiplyDialog panel={panel} chosen={chosen} edit={edit} onClose={() => setOpen(null)} /> : null}
        {open === 'retag' ? <RetagDialog chosen={chosen.elements} elements={elements} pages={pages} onClose={() => setOpen(null)} /> : null}
        {dropped ? (
          <FittingChoice tag={dropped.tag} onClose={() => setDropped(null)} onTake={(kind) => void edit.add(kind, dropped.tag, dropped.at)} />
        ) : null}
      </StageProvider>
    </SubjectsProvider>
  );
}
