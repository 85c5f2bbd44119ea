'use client';
/** The signal path of the selected tag: five stages, live, each with its setting; the break is marked. */
import { ArrowRight, ChevronDown, ChevronUp } from 'lucide-react';
import Link from 'next/link';
import { Fragment, useEffect, useState } from 'react';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { useLive, useTagView } from '../live/liveHooks.ts';
import { useRadix } from '../live/radix.ts';
import { useSelectedTag } from '../live/selection.ts';
import { RadixChoice } from '../parts/RadixChoice.tsx';
import { LimitMark, ProofMark, QualityMark } from '../parts/StateMark.tsx';
import { WaysDialog } from './WaysDialog.tsx';
import { pathOf, type PathStage, type SignalPath } from './signalPath.ts';

export function SignalStrip() {
  const tagId = useSelectedTag();
  const project = useProject();
  const view = useTagView(tagId);
  const radix = useRadix();
  const [folded, setFolded] = useState(false);
  const [isLooking, setLooking] = useState(false);
  const tag = tagId === null ? null : project.tag(tagId);
  if (!tag || !view) return <Folded text="Select a tag to follow its signal path" />;
  const path = pathOf(project, tag, view, radix);
  return (
    <section aria-label="Signal path" className="bg-base-100 border-primary border-t-2 px-4 pt-2 pb-3" data-strip={tag.name}>
      <div className="flex min-h-8 items-center gap-3">
        <strong className="max-w-72 shrink-0 truncate" title={tag.name}>
          {tag.name}
        </strong>
        <span className="quiet min-w-24 truncate">
          signal path · {path.where} · <Age at={view.sample?.at ?? null} isBad={view.level === 'bad'} />
        </span>
        <QualityMark level={view.level} reason={view.reason} why={view.why} />
        <LimitMark view={view} />
        <ProofMark state={project.proofOf(tag.id).state} />
        <span className="flex-1" />
        <Finding path={path} onLook={() => setLooking(true)} />
        {folded ? null : <RadixChoice />}
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          aria-expanded={!folded}
          aria-label={folded ? 'Unfold the signal path' : 'Fold the signal path'}
          onClick={() => setFolded(!folded)}
        >
          {folded ? <ChevronUp size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />}
        </button>
      </div>
      {folded ? null : (
        <ol className="mt-1 flex items-stretch gap-1">
          {path.stages.map((stage, i) => (
            <Fragment key={stage.title}>
              {i > 0 ? <Arrow broken={path.brokenAt !== null && i >= path.brokenAt} /> : null}
              <Stage stage={stage} index={i} brokenAt={path.brokenAt} />
            </Fragment>
          ))}
        </ol>
      )}
      {isLooking ? <WaysDialog tag={tag} onClose={() => setLooking(false)} /> : null}
    </section>
  );
}

function Folded({ text }: { readonly text: string }) {
  return (
    <section aria-label="Signal path" className="bg-base-100 border-base-300 quiet border-t px-4 py-2">
      {text}
    </section>
  );
}

function Stage({ stage, index, brokenAt }: { readonly stage: PathStage; readonly index: number; readonly brokenAt: number | null }) {
  const isBreak = brokenAt === index;
  const isAfter = brokenAt !== null && index > brokenAt;
  return (
    <li className="min-w-0 flex-1">
      <Link
        href={stage.href}
        data-stage={index + 1}
        data-broken={isBreak || undefined}
        className={`block rounded-md border px-3 py-1.5 ${isBreak ? 'border-warning bg-base-200' : `border-base-300 hover:border-primary ${isAfter ? 'border-dashed' : ''}`}`}
        title={stage.title}
      >
        <span className={`block text-xs ${isBreak ? 'is-look font-semibold' : 'quiet'}`}>
          {index + 1} · {stage.title}
          {isBreak ? ' · breaks here' : ''}
        </span>
        <span className={`num block truncate text-lg leading-6 ${isAfter ? 'quiet' : ''}`}>{stage.value}</span>
        <span className="quiet block truncate text-xs" title={stage.setting}>
          {stage.setting}
        </span>
      </Link>
    </li>
  );
}

function Arrow({ broken }: { readonly broken: boolean }) {
  return (
    <ArrowRight
      size={20}
      aria-hidden
      className={`shrink-0 self-center ${broken ? 'is-look' : 'text-primary'}`}
      strokeDasharray={broken ? '3 3' : undefined}
    />
  );
}

function Finding({ path, onLook }: { readonly path: SignalPath; readonly onLook: () => void }) {
  const change = useChange();
  if (path.finding === null) return null;
  const { remedy } = path;
  return (
    <>
      <span className="is-look truncate text-right" title={path.finding} data-finding>
        {path.finding}
      </span>
      {path.isQuestion ? (
        <button type="button" className="btn btn-sm btn-outline" onClick={onLook}>
          Look
        </button>
      ) : null}
      {remedy ? (
        <button type="button" className="btn btn-sm btn-warning" onClick={() => void change(remedy.label, remedy.changes)}>
          {remedy.button}
        </button>
      ) : null}
    </>
  );
}

/** Grows without anything arriving. */
function Age({ at, isBad }: { readonly at: number | null; readonly isBad: boolean }) {
  const live = useLive();
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 500);
    return () => clearInterval(timer);
  }, []);
  if (at === null) return 'not read yet';
  const seconds = Math.max(0, (live.now() - at) / 1000);
  return `${isBad ? 'lost' : 'read'} ${seconds < 60 ? `${seconds.toFixed(1)} s` : `${Math.round(seconds / 60)} min`} ago`;
}
