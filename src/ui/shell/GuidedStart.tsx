'use client';
/** Takes a newcomer from an empty project to the first right value: always the one next thing to do. */
import { Check, X } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { useProject } from '../live/LiveContext.tsx';
import { useStatus } from '../live/liveHooks.ts';

const KEY = 'mill-latch.guide-left';

interface Stage {
  readonly name: string;
  readonly isDone: boolean;
  readonly todo: string;
  readonly path: string;
  readonly go: string;
}

export function GuidedStart() {
  const project = useProject();
  const status = useStatus();
  const [isLeft, setLeft] = useState(() => localStorage.getItem(KEY) === project.project.id);
  const { proven } = project.proofCounts();
  if (isLeft || proven > 0 || !status || !project.isWhole) return null;
  const stages: readonly Stage[] = [
    {
      name: 'link',
      isDone: project.links.length > 0,
      todo: 'Create a link: host and port of the controller, or of the gateway before it.',
      path: '/links',
      go: 'Go to Links',
    },
    {
      name: 'device',
      isDone: project.devices.length > 0,
      todo: 'Give the link a device, and test the connection.',
      path: '/links',
      go: 'Go to Links',
    },
    {
      name: 'tags',
      isDone: project.tagCount > 0,
      todo: 'Import the controller’s tag list, or make one tag by hand in Map.',
      path: '/lists',
      go: 'Go to Lists',
    },
    {
      name: 'values',
      isDone: status.values.good + status.values.uncertain > 0,
      todo: 'No value comes yet: test the connection of the device, it says which stage fails.',
      path: '/links',
      go: 'Go to Links',
    },
    {
      name: 'the first right value',
      isDone: proven > 0,
      todo: 'Values come. Prove the first one: compare it with what you see at the controller.',
      path: '/check',
      go: 'Go to Check',
    },
  ];
  const next = stages.find((s) => !s.isDone);
  if (!next) return null;
  const leave = (): void => {
    localStorage.setItem(KEY, project.project.id);
    setLeft(true);
  };
  return (
    <section
      aria-label="First steps"
      data-guide={next.name}
      className="bg-base-100 border-base-300 flex items-center gap-4 border-b px-4 py-1.5 text-[13px]"
    >
      <ol className="flex items-center gap-3">
        {stages.map((stage, i) => (
          <li
            key={stage.name}
            aria-current={stage === next ? 'step' : undefined}
            className={`flex items-center gap-1 whitespace-nowrap ${stage.isDone ? 'is-good' : stage === next ? 'text-primary font-bold' : 'quiet'}`}
          >
            {stage.isDone ? <Check size={13} aria-label="done" /> : <span className="num">{i + 1}</span>} {stage.name}
          </li>
        ))}
      </ol>
      <span className="min-w-0 flex-1 truncate" title={next.todo}>
        {next.todo}
      </span>
      <Link href={next.path} className="btn btn-xs btn-primary">
        {next.go}
      </Link>
      <button type="button" className="btn btn-xs btn-ghost" aria-label="Close the guide" title="Close the guide" onClick={leave}>
        <X size={14} aria-hidden />
      </button>
    </section>
  );
}
