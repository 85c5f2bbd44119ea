'use client';
/** Name of the project, what is online, the lock against writing, day and night. */
import { counted } from '@/core/counted.ts';
import { History, Lock, LockOpen, Moon, Search, Sun } from 'lucide-react';
import type { ReactNode } from 'react';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useChannelState, useStatus } from '../live/liveHooks.ts';
import { openDialog } from './openDialogs.ts';
import { changeTheme, useTheme } from './theme.ts';
import { keptField } from '../parts/keptField.ts';

export function Header() {
  return (
    <div className="flex h-8 items-center gap-3">
      <Logo />
      <span className="font-semibold">Mill Latch</span>
      <span className="quiet">/</span>
      <ProjectName />
      <span className="flex-1" />
      <Online />
      <LockButton />
      <span className="flex">
        <IconButton label="What was changed, undo and redo" onClick={() => openDialog('history')}>
          <History size={16} aria-hidden />
        </IconButton>
        <IconButton label="Find anything (Ctrl K)" onClick={() => openDialog('palette')}>
          <Search size={16} aria-hidden />
        </IconButton>
        <ThemeButton />
      </span>
    </div>
  );
}

function Logo() {
  return (
    <svg
      width="20"
      height="16"
      viewBox="0 0 20 16"
      aria-hidden
      className="text-primary"
      fill="none"
      stroke="currentColor"
      strokeWidth="2.6"
      strokeLinecap="round"
    >
      <path d="M1.5 3.5h10a4 4 0 0 1 4 4v4.5h3M1.5 8.5v4h3.5" />
    </svg>
  );
}

function ProjectName() {
  const project = useProject().project;
  const change = useChange();
  const rename = (name: string) => change(`project renamed to ${name}`, [{ kind: 'project', id: project.id, set: { name } }]);
  return (
    <input
      key={project.name}
      aria-label="Name of the project"
      className="hover:border-base-300 focus:border-base-300 w-72 rounded border border-transparent bg-transparent px-1 font-medium"
      {...keptField(project.name, rename, true)}
    />
  );
}

function Online() {
  const { devices } = useProject();
  const channel = useChannelState();
  const status = useStatus();
  if (channel === 'silent')
    return (
      <span className="is-bad font-semibold" role="alert" data-channel="silent">
        ✕ The server does not answer: values are not live
      </span>
    );
  if (channel === 'connecting' || !status) return <span className="quiet">connecting …</span>;
  const simulated = devices.filter(({ isSimulated }) => isSimulated).length;
  const real = new Set(devices.flatMap(({ isSimulated, linkId }) => (isSimulated ? [] : linkId)));
  // One whose devices are all simulated rests, and is missed by nobody.
  const links = simulated === 0 ? status.links : status.links.filter(({ linkId }) => real.has(linkId));
  const up = links.filter((l) => l.phase === 'connected').length;
  const rate = status.links.reduce((sum, l) => sum + l.requestsPerSecond, 0);
  const all = links.length;
  return (
    <span data-channel="live">
      <span className={up === all && all > 0 ? 'is-good' : all === 0 ? 'quiet' : 'is-look'}>●</span>{' '}
      {all === 0 ? (simulated > 0 ? '' : 'no links yet') : `${up} of ${counted(all, 'link')} online · ${rate.toFixed(rate < 10 ? 1 : 0)} requests/s`}
      {simulated > 0 ? <span className="is-look"> ◆ {counted(simulated, 'device')} simulated</span> : null}
    </span>
  );
}

function LockButton() {
  const status = useStatus();
  const project = useProject();
  const unlocked = status?.unlocked ?? [];
  const names = unlocked.map((u) => project.device(u.deviceId)?.name ?? '?').join(', ');
  return (
    <button type="button" className={`btn btn-sm ${unlocked.length > 0 ? 'btn-warning' : 'btn-outline'}`} onClick={() => openDialog('unlock')}>
      {unlocked.length > 0 ? <LockOpen size={14} aria-hidden /> : <Lock size={14} aria-hidden />}
      {unlocked.length > 0 ? `writing open: ${names}` : 'writing locked'}
    </button>
  );
}

function ThemeButton() {
  const isNight = useTheme() === 'kiln';
  return (
    <IconButton label={isNight ? 'Change to day' : 'Change to night'} onClick={changeTheme}>
      {isNight ? <Sun size={16} aria-hidden /> : <Moon size={16} aria-hidden />}
    </IconButton>
  );
}

function IconButton({ label, onClick, children }: { readonly label: string; readonly onClick: () => void; readonly children: ReactNode }) {
  return (
    <button type="button" className="btn btn-sm btn-ghost px-2" aria-label={label} title={label} onClick={onClick}>
      {children}
    </button>
  );
}
