'use client';
/** One line of a draft: a row as it is understood, or what becomes of one tag. */
import { scalePhrase } from '@/core/scaling/scale.ts';
import { counted } from '@/core/counted.ts';
import { formatNames } from '@/core/value/valueNames.ts';
import { ArrowRight, Check, Circle, X } from 'lucide-react';
import type { DraftPart, DraftRow, TagUses } from '@/core/taglist/draft.ts';
import type { ChangedTag, Difference } from '@/core/taglist/merge.ts';
import type { Proposal } from '@/core/taglist/renames.ts';
import type { ListTag, UnderstoodRow } from '@/core/taglist/understand.ts';
import type { Decided } from './DraftTable.tsx';

const ROWS = 'grid grid-cols-[4rem_1.8fr_1fr_1fr_1fr_1fr_0.7fr_3.2fr] gap-x-3 px-3';
const TAGS = 'grid grid-cols-[1.8fr_1fr_1fr_1fr_0.7fr_3fr] gap-x-3 px-3';
const CHANGES = 'grid grid-cols-[7.5rem_1.6fr_3.4fr_1.4fr] gap-x-3 px-3';
const RENAMES = 'grid grid-cols-[7.5rem_1.7fr_1.7fr_3.4fr_1.2fr] gap-x-3 px-3';
export const LINE_COLUMNS: Readonly<Record<DraftPart, string>> = {
  all: ROWS,
  bad: ROWS,
  leftOut: ROWS,
  added: TAGS,
  gone: TAGS,
  changed: CHANGES,
  proposals: RENAMES,
};
const ROW_HEADINGS = ['Row', 'Tag', 'Address', 'Area', 'Type', 'Group', 'Unit', 'Comment, or what is wrong'];
export const LINE_HEADINGS: Readonly<Record<DraftPart, readonly string[]>> = {
  all: ROW_HEADINGS,
  bad: ROW_HEADINGS,
  leftOut: ROW_HEADINGS,
  added: ['Tag', 'Address', 'Area', 'Type', 'Unit', 'Comment'],
  gone: ['Tag', 'Address', 'Area', 'Type', 'Unit', 'What becomes of it'],
  changed: ['Change', 'Tag', 'What changes', 'Used by'],
  proposals: ['Accept', 'It was', 'It may be now', 'Why', 'Used by'],
};

export function DraftRowLine({
  row,
  part,
  decided,
  onOpen,
}: {
  readonly row: DraftRow;
  readonly part: DraftPart;
  readonly decided: Decided | null;
  readonly onOpen: (row: UnderstoodRow) => void;
}) {
  switch (row.kind) {
    case 'row':
      return <RowLine row={row.row} isChosen={row.isChosen} onOpen={onOpen} />;
    case 'added':
      return <TagLine tag={row.tag} words={row.tag.comment} />;
    case 'gone':
      return <TagLine tag={row.tag} words={goneWords(row.uses)} />;
    case 'changed':
      return <ChangeLine change={row.change} uses={row.uses} columns={LINE_COLUMNS[part]} decided={decided} />;
    case 'proposal':
      return <ProposalLine proposal={row.proposal} uses={row.uses} columns={LINE_COLUMNS[part]} decided={decided} />;
  }
}

function RowLine({
  row,
  isChosen,
  onOpen,
}: {
  readonly row: UnderstoodRow;
  readonly isChosen: boolean;
  readonly onOpen: (row: UnderstoodRow) => void;
}) {
  const { cells, tag, problems, notes } = row;
  const wrong = problems.map((p) => `${p.place?.replace(/^row \d+, /, '') ?? ''}: ${p.message} ${p.remedy ?? ''}`).join(' ');
  const words =
    wrong ||
    [...(isChosen ? [] : ['Excluded by the rule.']), ...notes, cells.comment ?? '', tag ? formatNames(tag.names) : ''].filter(Boolean).join(' · ');
  return (
    <div role="row" data-row={row.row} data-understood={tag !== null} className={`${ROWS} h-full items-center`}>
      <span role="cell" className={`num flex items-center gap-1 ${tag ? (isChosen ? 'is-good' : 'quiet') : 'is-bad'}`}>
        {tag ? (
          isChosen ? (
            <Check size={13} aria-label="understood" />
          ) : (
            <Circle size={13} aria-label="excluded" />
          )
        ) : (
          <X size={13} aria-label="not understood" />
        )}
        {row.row}
      </span>
      <Cell strong>{tag?.name ?? cells.name}</Cell>
      <Cell num>{cells.address}</Cell>
      <Cell num>{tag?.canonical || '–'}</Cell>
      <Cell num>{tag?.type ?? cells.type}</Cell>
      <Cell>{cells.group}</Cell>
      <Cell>{cells.unit}</Cell>
      <span role="cell" className="flex min-w-0 items-center gap-2">
        <span className={`truncate ${wrong ? 'is-bad' : notes.length > 0 ? 'is-look' : 'quiet'}`} title={words}>
          {words}
        </span>
        {wrong || notes.length > 0 ? (
          <button
            type="button"
            className="btn btn-xs btn-ghost ml-auto shrink-0"
            aria-label={`Show row ${row.row} whole`}
            onClick={() => onOpen(row)}
          >
            {wrong ? 'Correct' : 'Show'}
          </button>
        ) : null}
      </span>
    </div>
  );
}

function TagLine({ tag, words }: { readonly tag: ListTag; readonly words: string }) {
  return (
    <div role="row" data-tag={tag.listName} className={`${TAGS} h-full items-center`}>
      <Cell strong>{tag.name}</Cell>
      <Cell num>{tag.address || '–'}</Cell>
      <Cell num>{tag.canonical || '–'}</Cell>
      <Cell num>{tag.type}</Cell>
      <Cell>{tag.unit}</Cell>
      <Cell quiet>{words}</Cell>
    </div>
  );
}

function ChangeLine({
  change,
  uses,
  columns,
  decided,
}: {
  readonly change: ChangedTag;
  readonly uses: TagUses | undefined;
  readonly columns: string;
  readonly decided: Decided | null;
}) {
  const name = change.after.listName;
  return (
    <div role="row" data-tag={name} className={`${columns} h-full items-center`}>
      <span role="cell">
        {change.changesBytes && decided ? (
          <Decide
            label={`Accept the other type of ${name}`}
            on={decided.bytes.has(name)}
            words={['held back', 'accepted']}
            onToggle={() => decided.toggle('bytes', name)}
          />
        ) : (
          <span className="is-good inline-flex items-center gap-1">
            <Check size={13} aria-hidden /> {decided ? 'will apply' : 'changed'}
          </span>
        )}
      </span>
      <Cell strong>{name}</Cell>
      <span role="cell" className="flex items-center gap-3 overflow-hidden whitespace-nowrap" title={change.differences.map(inWords).join(', ')}>
        {change.differences.map((d) => (
          <span key={d.field} className="inline-flex items-center gap-1">
            <span className="quiet">{FIELD_WORDS[d.field] ?? d.field}</span>
            {d.field === 'comment' ? null : <span className="num">{text(d.from)}</span>}
            <ArrowRight size={12} aria-label="becomes" />
            <span className={d.field === 'comment' ? '' : 'num font-semibold'}>{text(d.to)}</span>
          </span>
        ))}
      </span>
      <Cell quiet>{usesWords(uses)}</Cell>
    </div>
  );
}

function ProposalLine({
  proposal,
  uses,
  columns,
  decided,
}: {
  readonly proposal: Proposal;
  readonly uses: TagUses | undefined;
  readonly columns: string;
  readonly decided: Decided | null;
}) {
  const { from, to, confidence, reason, alternatives } = proposal;
  const words =
    alternatives.length > 0 ? `It could as well be ${alternatives.join(', ')}. ${reason}` : `${Math.round(confidence * 100)} %: ${reason}`;
  return (
    <div role="row" data-tag={from.listName} className={`${columns} h-full items-center`}>
      <span role="cell">
        {decided ? (
          <Decide
            label={`${from.listName} became ${to.listName}`}
            on={decided.renames.has(from.listName)}
            words={['two tags', 'the same tag']}
            onToggle={() => decided.toggle('renames', from.listName)}
          />
        ) : null}
      </span>
      <Cell strong>{from.listName}</Cell>
      <Cell strong>{to.listName}</Cell>
      <span role="cell" className={`truncate ${alternatives.length > 0 ? 'is-look' : 'quiet'}`} title={words}>
        {words}
      </span>
      <Cell quiet>{usesWords(uses)}</Cell>
    </div>
  );
}

function Decide({
  label,
  on,
  words,
  onToggle,
}: {
  readonly label: string;
  readonly on: boolean;
  readonly words: readonly [string, string];
  readonly onToggle: () => void;
}) {
  return (
    <label className="flex cursor-pointer items-center gap-1.5">
      <input type="checkbox" className="checkbox checkbox-xs" aria-label={label} checked={on} onChange={onToggle} />
      <span className={on ? 'is-good' : 'is-look'}>{words[on ? 1 : 0]}</span>
    </label>
  );
}

function Cell({
  children,
  num = false,
  strong = false,
  quiet = false,
}: {
  readonly children: string | undefined;
  readonly num?: boolean;
  readonly strong?: boolean;
  readonly quiet?: boolean;
}) {
  return (
    <span role="cell" className={`truncate ${num ? 'num' : ''} ${strong ? 'font-medium' : ''} ${quiet ? 'quiet' : ''}`} title={children}>
      {children}
    </span>
  );
}

const FIELD_WORDS: Readonly<Record<string, string>> = {
  rangeLow: 'low',
  rangeHigh: 'high',
  periodMs: 'period',
  isForPanel: 'for panels',
  initial: 'initial value',
  names: 'names of values',
};

function inWords({ field, from, to }: Difference): string {
  return `${FIELD_WORDS[field] ?? field}: ${text(from)} becomes ${text(to)}`;
}

function text(value: Difference['from']): string {
  if (value === null || value === '') return 'none';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value !== 'object') return String(value);
  if (!('kind' in value)) return formatNames(value) || 'none';
  return scalePhrase(value);
}

function usesWords(uses: TagUses | undefined): string {
  if (!uses) return '';
  const { elements, isProven, isNamed, hasScale } = uses;
  const parts = [
    elements > 0 ? counted(elements, 'panel element') : '',
    isProven ? 'a proof' : '',
    isNamed ? 'device or write settings' : '',
    hasScale ? 'a scale' : '',
  ].filter(Boolean);
  return parts.join(', ') || 'nothing';
}

function goneWords(uses: TagUses | undefined): string {
  if (!uses) return 'it was removed here already';
  const isUsed = uses.elements > 0 || uses.isProven || uses.isNamed;
  if (isUsed) return `kept and marked: used by ${usesWords(uses)}`;
  return uses.hasScale ? 'removed with its scale: nothing uses it' : 'removed: nothing uses it';
}
