'use client';
/** Finds steps, tags, devices and actions by typing. */
import { Command } from 'cmdk';
import { addressOf } from '@/core/project/tagSource.ts';
import { Search } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { call } from '../live/api.ts';
import { useProject, useStep } from '../live/LiveContext.tsx';
import { useStatus } from '../live/liveHooks.ts';
import { selectTag } from '../live/selection.ts';
import { matching } from '../live/tagSearch.ts';
import { openDialog } from './openDialogs.ts';
import { STEPS } from './steps.ts';
import { changeTheme } from './theme.ts';

const TAGS_SHOWN = 8;
const ITEM = 'flex cursor-pointer items-center gap-3 rounded px-3 py-1.5 data-[selected=true]:bg-base-200';
const HEADING =
  '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:opacity-80';

interface Action {
  readonly name: string;
  readonly about: string;
  readonly keys?: string;
  readonly run: () => void;
}

export function Palette() {
  const close = (): void => openDialog(null);
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (ref.current && !ref.current.open) ref.current.showModal();
    ref.current?.querySelector('input')?.focus();
  }, []);
  return (
    <dialog
      ref={ref}
      className="modal items-start pt-[12vh]"
      aria-label="Find anything"
      onClose={close}
      onClick={(e) => e.target === ref.current && close()}
    >
      <div className="modal-box hairline max-w-2xl p-2 shadow-none">
        <Found onDone={close} />
      </div>
    </dialog>
  );
}

function Found({ onDone }: { readonly onDone: () => void }) {
  const project = useProject();
  const router = useRouter();
  const [text, setText] = useState('');
  const tags = useMemo(() => (text.trim() === '' ? [] : matching(project, text, undefined, TAGS_SHOWN)), [project, text]);
  const actions = useActions();
  const wanted = text.trim().toLowerCase();
  const fits = (...texts: readonly string[]): boolean => wanted.split(/\s+/).every((word) => texts.join(' ').toLowerCase().includes(word));
  const steps = STEPS.filter((s) => fits(s.name, s.about));
  const devices = project.devices.filter((d) => fits(d.name, 'device test connection')).slice(0, 6);
  const fitting = actions.filter((a) => fits(a.name, a.about));
  const go = (path: string): void => {
    router.push(path);
    onDone();
  };
  return (
    <Command label="Find anything" shouldFilter={false} loop className="outline-none">
      <label className="border-base-300 flex items-center gap-2 border-b px-3 pb-2">
        <Search size={16} aria-hidden className="quiet" />
        <Command.Input
          value={text}
          onValueChange={setText}
          className="w-full bg-transparent py-1 text-base outline-none"
          placeholder="A tag, a device, a step, or what to do"
        />
        <kbd className="kbd kbd-xs">Esc</kbd>
      </label>
      <Command.List className="max-h-[55vh] overflow-auto">
        <Command.Empty className="quiet px-3 py-6 text-center">Nothing is called that. Try part of a name, an address or a comment.</Command.Empty>
        {tags.length > 0 ? (
          <Command.Group heading="Tags" className={HEADING}>
            {tags.map((tag) => (
              <Command.Item
                key={tag.id}
                value={`tag ${tag.id}`}
                className={ITEM}
                onSelect={() => {
                  selectTag(tag.id);
                  go('/map');
                }}
              >
                <span className="truncate font-medium">{tag.name}</span>
                <span className="quiet min-w-0 flex-1 truncate">{tag.comment}</span>
                <span className="num quiet">{addressOf(tag)}</span>
              </Command.Item>
            ))}
          </Command.Group>
        ) : null}
        {steps.length > 0 ? (
          <Command.Group heading="Steps" className={HEADING}>
            {steps.map((step) => (
              <Command.Item key={step.path} value={step.path} className={ITEM} onSelect={() => go(step.path)}>
                <span className="font-medium">{step.name}</span>
                <span className="quiet min-w-0 flex-1 truncate">{step.about}</span>
                <kbd className="kbd kbd-xs">Alt {STEPS.indexOf(step) + 1}</kbd>
              </Command.Item>
            ))}
          </Command.Group>
        ) : null}
        {devices.length > 0 ? (
          <Command.Group heading="Devices" className={HEADING}>
            {devices.map((device) => (
              <Command.Item key={device.id} value={`device ${device.id}`} className={ITEM} onSelect={() => go(`/links?test=${device.id}`)}>
                <span className="font-medium">{device.name}</span>
                <span className="quiet">test the connection</span>
              </Command.Item>
            ))}
          </Command.Group>
        ) : null}
        {fitting.length > 0 ? (
          <Command.Group heading="Actions" className={HEADING}>
            {fitting.map((action) => (
              <Command.Item
                key={action.name}
                value={`action ${action.name}`}
                className={ITEM}
                onSelect={() => {
                  onDone();
                  action.run();
                }}
              >
                <span className="font-medium">{action.name}</span>
                <span className="quiet min-w-0 flex-1 truncate">{action.about}</span>
                {action.keys ? <kbd className="kbd kbd-xs">{action.keys}</kbd> : null}
              </Command.Item>
            ))}
          </Command.Group>
        ) : null}
      </Command.List>
    </Command>
  );
}

function useActions(): readonly Action[] {
  const step = useStep();
  const router = useRouter();
  const isOpen = (useStatus()?.unlocked.length ?? 0) > 0;
  return [
    { name: 'Undo', about: 'take the last change back', keys: 'Ctrl Z', run: () => void step('undo') },
    { name: 'Redo', about: 'do again what was undone', keys: 'Ctrl Shift Z', run: () => void step('redo') },
    { name: 'What was changed', about: 'the history of the project', run: () => openDialog('history') },
    { name: 'Project file', about: 'export the project, import one, backups', run: () => openDialog('files') },
    { name: 'Phones and panels', about: 'open the server to the local network, let others join', run: () => openDialog('network') },
    { name: 'Unlock writing', about: 'open a device for writing, for a time', run: () => openDialog('unlock') },
    ...(isOpen
      ? [
          {
            name: 'Lock writing',
            about: 'close all devices now',
            run: () =>
              void call('POST', '/guard/lock', {}).then((done) => (done.ok ? toast('Writing is locked') : toast.error(done.problem.message))),
          },
        ]
      : []),
    { name: 'Memory of a device', about: 'what lies where, what overlaps, what is free; makes tags of cells', run: () => router.push('/map/memory') },
    { name: 'Copy rules', about: 'values that are copied from tag to tag, while somebody has armed them', run: () => router.push('/map/copies') },
    { name: 'Alarms', about: 'what calls for somebody, how it stands, and what became of it', run: () => router.push('/map/alarms') },
    { name: 'Preflight', about: 'everything doubtful in the project: overlaps, units, unused tags', run: () => router.push('/map/preflight') },
    { name: 'Log of writes', about: 'what was written to machines, when and by whom', run: () => router.push('/writes') },
    { name: 'Audit trail', about: 'who unlocked, joined, checked and restored, and when', run: () => router.push('/audit') },
    { name: 'Day or night', about: 'change the theme', run: changeTheme },
    { name: 'Keys', about: 'all keys on one page', keys: '?', run: () => openDialog('keys') },
  ];
}
