'use client';
/** Every tag with its raw, engineering and drawn value and how far it is proven; only rows on the screen are drawn. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import type { RunEntry, RunState } from '@/core/check/run.ts';
import type { Tag } from '@/core/project/entities.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useTagView } from '../live/liveHooks.ts';
import { useRadix } from '../live/radix.ts';
import { rawJsonText } from '../signalPath/signalPath.ts';
import { ConsistentMark, ProofMark, StateOf } from '../parts/StateMark.tsx';
import type { CheckResult } from '@/core/check/proof.ts';
import type { Result } from '@/core/result.ts';

const ROW = 31;
const COLUMNS = 'grid grid-cols-[1.2fr_1.2fr_1.35fr_5.5rem_1fr_0.85fr] gap-x-3 px-3';

interface TableProps {
  readonly tags: readonly Tag[];
  readonly outcomes: ReadonlyMap<string, Result<CheckResult>>;
  /** What became of each in the run that is in hand; null without one. */
  readonly inRun: ReadonlyMap<string, RunEntry> | null;
  readonly selected: string | null;
  readonly onSelect: (tagId: string) => void;
}

export function CheckTable({ tags, outcomes, inRun, selected, onSelect }: TableProps) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: tags.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 8 });
  const at = tags.findIndex((t) => t.id === selected);
  const move = (to: number): void => {
    const tag = tags[Math.max(0, Math.min(to, tags.length - 1))];
    if (!tag) return;
    onSelect(tag.id);
    virtual.scrollToIndex(Math.max(0, Math.min(to, tags.length - 1)));
  };
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label="Tags to check"
      aria-rowcount={tags.length + 1}
      tabIndex={0}
      className="card-flat min-h-32 flex-1 overflow-auto text-[13px] outline-offset-[-2px]"
      onKeyDown={(e) => {
        if (e.key === 'ArrowDown') move(at + 1);
        else if (e.key === 'ArrowUp') move(at - 1);
        else return;
        e.preventDefault();
      }}
    >
      <div role="row" className={`${COLUMNS} bg-base-200 border-base-300 sticky top-0 z-10 h-8 items-center border-b font-semibold`}>
        {['Tag', 'Raw', 'Engineering', 'State', inRun ? 'In this run' : 'Wire and panel', 'Proof'].map((heading, i) => (
          <span key={heading} role="columnheader" className={i === 1 || i === 2 ? 'text-right' : ''}>
            {heading}
          </span>
        ))}
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const tag = tags[item.index];
          return tag ? (
            <Row
              key={tag.id}
              tag={tag}
              top={item.start}
              outcome={outcomes.get(tag.id) ?? null}
              entry={inRun?.get(tag.id) ?? null}
              isSelected={tag.id === selected}
              onSelect={() => onSelect(tag.id)}
            />
          ) : null;
        })}
      </div>
    </div>
  );
}

function Row({
  tag,
  top,
  outcome,
  entry,
  isSelected,
  onSelect,
}: {
  readonly tag: Tag;
  readonly top: number;
  readonly outcome: Result<CheckResult> | null;
  readonly entry: RunEntry | null;
  readonly isSelected: boolean;
  readonly onSelect: () => void;
}) {
  const project = useProject();
  const view = useTagView(tag.id);
  const radix = useRadix();
  const effective = project.effective(tag.id);
  const raw =
    view?.sample?.raw && view.level !== 'bad' && effective.ok ? rawJsonText(effective.value.def.type, view.sample.raw, radix) : NO_VALUE_TEXT;
  return (
    <div
      role="row"
      aria-selected={isSelected}
      data-tag={tag.name}
      className={`${COLUMNS} absolute inset-x-0 cursor-pointer items-center border-b ${isSelected ? 'bg-base-200 border-primary' : 'border-base-300'}`}
      style={{ height: ROW, transform: `translateY(${top}px)` }}
      onMouseDown={onSelect}
    >
      <span role="gridcell" className="truncate font-medium" title={tag.name}>
        {tag.name}
      </span>
      <span role="gridcell" className="num truncate text-right">
        <Shown text={raw} />
      </span>
      <span role="gridcell" className="num truncate text-right" title={`${view?.text ?? ''} ${tag.unit}`}>
        <Shown text={view?.text ?? ''} /> <span className="quiet">{view?.level === 'bad' ? '' : tag.unit}</span>
      </span>
      <span role="gridcell" className="truncate">
        {view ? <StateOf view={view} /> : null}
      </span>
      <span role="gridcell" className="truncate">
        {entry !== null ? (
          <InRun entry={entry} />
        ) : outcome === null ? (
          <span className="quiet">not checked now</span>
        ) : outcome.ok ? (
          <ConsistentMark consistent={outcome.value.consistent} />
        ) : (
          <span className="is-bad">✕ no value</span>
        )}
      </span>
      <span role="gridcell">
        <ProofMark state={project.proofOf(tag.id).state} />
      </span>
    </div>
  );
}

const RUN_STATES = {
  open: { mark: '○', words: 'open', tone: 'quiet' },
  skipped: { mark: '↷', words: 'skipped', tone: 'quiet' },
  proven: { mark: '✓', words: 'agrees', tone: 'is-good' },
  consistent: { mark: '=', words: 'consistent', tone: 'is-good' },
  failed: { mark: '✕', words: 'differs', tone: 'is-bad' },
  waived: { mark: '–', words: 'waived', tone: 'quiet' },
} as const satisfies Record<RunState, object>;

function InRun({ entry }: { readonly entry: RunEntry }) {
  const { mark, words, tone } = RUN_STATES[entry.state];
  return (
    <span className={tone} title={entry.sentence} data-in-run={entry.state}>
      {mark} {words}
    </span>
  );
}

function Shown({ text }: { readonly text: string }) {
  return <span className={text.length > 13 ? 'num-long' : ''}>{text}</span>;
}
