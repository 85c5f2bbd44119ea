'use client';
/** The frame of every step: the line of work above, the bench, the signal path of the selected tag below. */
import { usePathname, useRouter } from 'next/navigation';
import { useEffect, type ReactNode } from 'react';
import { Toaster } from 'sonner';
import { LiveProvider, useLastChange, useProject, useStep } from '../live/LiveContext.tsx';
import { NetworkDialog } from '../network/NetworkDialog.tsx';
import { useSelectedTag } from '../live/selection.ts';
import { Boundary } from '../parts/Boundary.tsx';
import { ChangedBack } from '../parts/ChangedBack.tsx';
import { DrivenBar } from '../parts/DrivenBar.tsx';
import { NotReleasedAlarm } from '../parts/NotReleasedAlarm.tsx';
import { TroublesBar } from '../parts/TroublesBar.tsx';
import { timeOfDay } from '../parts/moment.ts';
import { SignalStrip } from '../signalPath/SignalStrip.tsx';
import { GuidedStart } from './GuidedStart.tsx';
import { Header } from './Header.tsx';
import { HistoryDialog } from './HistoryDialog.tsx';
import { KeysDialog } from './KeysDialog.tsx';
import { LineOfWork } from './LineOfWork.tsx';
import { useStatus } from '../live/liveHooks.ts';
import { openDialog, useOpenDialog } from './openDialogs.ts';
import { Palette } from './Palette.tsx';
import { ProjectFilesDialog } from './ProjectFilesDialog.tsx';
import { STEPS } from './steps.ts';
import { UnlockDialog } from './UnlockDialog.tsx';

export function Shell({ children }: { readonly children: ReactNode }) {
  const path = usePathname();
  return (
    <LiveProvider waiting={<Loading />}>
      <div className="flex h-dvh min-w-[960px] flex-col">
        <header className="bg-base-100 border-base-300 border-b px-4 pt-2 pb-2">
          <Boundary name="the line of work">
            <Header />
            <LineOfWork />
          </Boundary>
        </header>
        <NotReleasedAlarm canAct />
        <DrivenBar canAct />
        <TroublesBar />
        <Boundary name="the guide">
          <GuidedStart />
        </Boundary>
        <main className="min-h-0 flex-1 overflow-auto px-4 py-2">
          <Boundary name="this step" of={path}>
            <OnceItsTagsAreThere path={path}>{children}</OnceItsTagsAreThere>
          </Boundary>
        </main>
        <Strip />
        <Boundary name="the footer">
          <Footer />
        </Boundary>
      </div>
      <Keys />
      <Boundary name="this dialog">
        <Dialogs />
      </Boundary>
      <ChangedBack />
      <Toaster
        position="bottom-right"
        toastOptions={{
          className: 'card-flat',
          style: {
            background: 'var(--color-base-100)',
            color: 'var(--color-base-content)',
            border: '1px solid var(--color-base-300)',
            boxShadow: 'none',
          },
        }}
      />
    </LiveProvider>
  );
}

/** Links are shown at once; every other step shows tags. */
function OnceItsTagsAreThere({ path, children }: { readonly path: string; readonly children: ReactNode }) {
  const project = useProject();
  if (project.isWhole || path.startsWith('/links')) return children;
  return (
    <p className="quiet grid h-full place-items-center" role="status">
      Opening {project.tagCount.toLocaleString('en-GB')} tags …
    </p>
  );
}

function Strip() {
  const tagId = useSelectedTag();
  return (
    <Boundary name="the signal path" of={tagId ?? ''}>
      <SignalStrip />
    </Boundary>
  );
}

function Loading() {
  return (
    <div className="grid h-dvh place-items-center" role="status">
      <p className="quiet">Opening the project …</p>
    </div>
  );
}

/** When values of local tags were last forced to the disk: what is younger would be lost with the power. */
function KeptValues() {
  const kept = useStatus()?.kept;
  if (!kept || (kept.at === null && !kept.isWaiting && kept.problem === '')) return null;
  if (kept.problem !== '')
    return (
      <span className="is-bad" title={kept.problem}>
        {' '}
        · ✕ local values are not on the disk
      </span>
    );
  return kept.at === null ? null : <span> · local values on the disk at {timeOfDay(kept.at)}</span>;
}

function Footer() {
  const at = useLastChange();
  return (
    <footer className="bg-base-100 border-base-300 quiet flex justify-between border-t px-4 py-1 text-xs">
      <span>
        {at ? `Saved at ${timeOfDay(at)}` : 'Every change is saved at once'} ·{' '}
        <button type="button" className="link" onClick={() => openDialog('files')}>
          Project file and backups
        </button>
        <KeptValues />
      </span>
      <span>
        <kbd className="kbd kbd-xs">Ctrl K</kbd> find anything · <kbd className="kbd kbd-xs">Ctrl Z</kbd> undo · <kbd className="kbd kbd-xs">?</kbd>{' '}
        keys
      </span>
    </footer>
  );
}

function Dialogs() {
  const open = useOpenDialog();
  const close = (): void => openDialog(null);
  switch (open) {
    case 'palette':
      return <Palette />;
    case 'keys':
      return <KeysDialog onClose={close} />;
    case 'history':
      return <HistoryDialog onClose={close} />;
    case 'files':
      return <ProjectFilesDialog onClose={close} />;
    case 'network':
      return <NetworkDialog onClose={close} />;
    case 'unlock':
      return <UnlockDialog onClose={close} />;
    case null:
      return null;
  }
}

/** Keys that work anywhere; those that a field uses itself are left to it. */
function Keys() {
  const step = useStep();
  const router = useRouter();
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const isField = event.target instanceof HTMLElement && event.target.matches('input, textarea, select');
      const control = event.ctrlKey || event.metaKey;
      const key = event.key.toLowerCase();
      const path = event.altKey && !control ? STEPS[Number(event.key) - 1]?.path : undefined;
      if (control && key === 'k') openDialog('palette');
      else if (control && key === 'z' && !isField) void step(event.shiftKey ? 'redo' : 'undo');
      else if (path) router.push(path);
      else if (event.key === '?' && !isField && !control) openDialog('keys');
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [step, router]);
  return null;
}
