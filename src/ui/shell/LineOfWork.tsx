'use client';
/** The steps in the order people work, each with its count and the one thing that needs attention. */
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useMemo } from 'react';
import type { Status } from '@/core/live/status.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useStatus } from '../live/liveHooks.ts';
import type { ProjectView } from '../live/project.ts';

type Tone = 'done' | 'look' | 'bad' | 'idle';
interface Stop {
  readonly path: string;
  readonly name: string;
  readonly note: string;
  readonly tone: Tone;
}

const RING: Readonly<Record<Tone, string>> = {
  done: 'bg-success border-success',
  look: 'border-warning',
  bad: 'border-error',
  idle: 'border-base-300',
};
const NOTE: Readonly<Record<Tone, string>> = { done: 'quiet', look: 'is-look', bad: 'is-bad', idle: 'quiet' };

export function LineOfWork() {
  const project = useProject();
  const status = useStatus();
  const path = usePathname();
  const stops = useMemo(() => stopsOf(project, status), [project, status]);
  return (
    <nav aria-label="Line of work" className="relative mt-2">
      <div className="bg-base-300 absolute top-[7px] right-[12%] left-2 h-0.5" aria-hidden />
      <ol className="relative grid grid-cols-6">
        {stops.map((stop) => {
          const here = path.startsWith(stop.path);
          return (
            <li key={stop.path}>
              <Link href={stop.path} className="block rounded" aria-current={here ? 'step' : undefined}>
                <span
                  aria-hidden
                  className={`bg-base-100 block h-4 border-2 ${here ? 'bg-primary border-primary w-9 rounded-full' : `w-4 rounded-full ${RING[stop.tone]}`}`}
                />
                <span className={`mt-1 block leading-4 ${here ? 'text-primary font-bold' : 'font-medium'}`}>{stop.name}</span>
                <span className={`block truncate pr-2 text-xs ${NOTE[stop.tone]}`}>{stop.note}</span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

function stopsOf(project: ProjectView, status: Status | null): readonly Stop[] {
  const devices = project.devices.length;
  const answering = status?.devices.filter((d) => d.state === 'answering').length ?? 0;
  const tags = project.tagCount;
  const unfit = project.unfit.size;
  const { bad = 0, uncertain: doubtful = 0 } = status?.values ?? {};
  const proofs = project.proofCounts();
  const scaled = project.scaleCount;
  const unscaled = project.toScale.size;
  const panels = project.panels;
  const pages = panels.reduce((n, p) => n + project.pagesOf(p.id).length, 0);
  const some = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
  return [
    {
      path: '/links',
      name: 'Links',
      tone: devices === 0 ? 'idle' : answering === devices ? 'done' : 'look',
      note:
        devices === 0
          ? 'no device yet'
          : answering === devices
            ? `${some(devices, 'device')} · all answering`
            : `${answering} of ${devices} answering`,
    },
    {
      path: '/lists',
      name: 'Lists',
      tone: project.sources.length > 0 ? 'done' : 'idle',
      note: project.sources.length > 0 ? `${project.sources.length} imported` : 'none imported yet',
    },
    {
      path: '/map',
      name: 'Map',
      tone: tags === 0 ? 'idle' : unfit > 0 ? 'bad' : bad + doubtful > 0 ? 'look' : 'done',
      note:
        tags === 0
          ? 'no tags yet'
          : !project.isWhole
            ? `${some(tags, 'tag')} · opening …`
            : `${some(tags, 'tag')}${unfit > 0 ? ` · ${unfit} do not fit` : bad > 0 ? ` · ${bad} without a value` : doubtful > 0 ? ` · ${doubtful} uncertain` : ''}`,
    },
    {
      path: '/scale',
      name: 'Scale',
      tone: tags === 0 ? 'idle' : unscaled > 0 ? 'look' : 'done',
      note: !project.isWhole ? 'opening …' : unscaled > 0 ? `${scaled} scaled · ${unscaled} unscaled` : `${scaled} scaled`,
    },
    {
      path: '/panels',
      name: 'Panels',
      tone: panels.length > 0 ? 'done' : 'idle',
      note: panels.length > 0 ? `${some(panels.length, 'panel')} · ${some(pages, 'page')}` : 'none yet',
    },
    {
      path: '/check',
      name: 'Check',
      tone: proofs.failed > 0 ? 'bad' : proofs.changed > 0 ? 'look' : proofs.proven > 0 && proofs.unproven === 0 ? 'done' : 'idle',
      note: !project.isWhole
        ? 'opening …'
        : `${proofs.proven} of ${tags} proven${proofs.failed > 0 ? ` · ${proofs.failed} failed` : proofs.changed > 0 ? ` · ${proofs.changed} changed` : ''}`,
    },
  ];
}
