'use client';
/** One row of the map, and the cell of it that is edited. */
import { memo, useEffect, useId, useMemo, useRef, useState } from 'react';
import { TriangleAlert } from 'lucide-react';
import type { Tag } from '@/core/project/entities.ts';
import { disagreementOf } from '@/core/project/listedType.ts';
import { addressOf, pointIn } from '@/core/project/tagSource.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useTagView } from '../live/liveHooks.ts';
import type { ProjectView } from '../live/project.ts';
import { ProofMark, StateOf } from '../parts/StateMark.tsx';
import { typeAndPlace } from '../signalPath/signalPath.ts';
import { expressionText } from '../expression/reading.ts';
import { AddressHelp } from './AddressHelp.tsx';
import { freePlaces, prefixOf } from './addressHelp.ts';
import { isIn, type Block } from './block.ts';
import { accessText, periodText, type MapColumn } from './columns.ts';

export const ROW = 31;

/** Characters that an address may have to be shown whole. */
const LONG_ADDRESS = 16;

export interface Editing {
  /** The key that began it, which replaces what was there; null begins with what was there. */
  readonly first: string | null;
  /** The tag as it was when editing began. */
  readonly tag: Tag;
  /** Its index is edited, whatever the column. */
  readonly isIndex?: boolean;
}

/** An expression takes more room than a cell. */
export function isExpression(column: MapColumn | undefined, { source }: Tag): boolean {
  return (column?.key === 'address' && source.kind === 'calculated') || (column?.key === 'index' && source.kind === 'point');
}

interface RowProps {
  readonly tag: Tag;
  readonly idPrefix: string;
  readonly index: number;
  readonly top: number;
  readonly column: number | null;
  /** The block of cells that the row is in. */
  readonly block: Block | null;
  readonly template: string;
  readonly columns: readonly MapColumn[];
  readonly editing: Editing | null;
  /** Another one whenever what the functions go by is another: they themselves are not compared. */
  readonly moment: object;
  readonly onSelect: (column: number, extendsBlock: boolean) => void;
  readonly onEdit: () => void;
  readonly onKeep: (of: MapColumn, text: string, then: 'stay' | 'down' | 'right' | 'all') => void;
  readonly onLeave: () => void;
  readonly onIndex: () => void;
}

/** Drawn anew only when something of it changed: while the map is scrolled, most rows only move. */
export const MapRow = memo(Row, (before, now) =>
  (Object.keys(now) as (keyof RowProps)[]).every((prop) => typeof now[prop] === 'function' || before[prop] === now[prop]),
);

function Row({ tag, idPrefix, index, top, column, block, template, columns, editing, onSelect, onEdit, onKeep, onLeave, onIndex }: RowProps) {
  const isSelected = column !== null;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={isSelected}
      data-tag={tag.name}
      className={`absolute inset-x-0 grid items-center border-b px-3 ${isSelected ? 'bg-base-200 border-primary' : 'border-base-300'} ${editing && isSelected ? 'z-10' : ''}`}
      style={{ height: ROW, gridTemplateColumns: template, top }}
    >
      {columns.map((c, at) => (
        <div
          key={c.key}
          id={`${idPrefix}-${at}`}
          role="gridcell"
          data-column={c.key}
          aria-selected={column === at || isIn(block, at)}
          className={`-ml-1.5 h-full min-w-0 ${editing && column === at ? 'overflow-visible' : 'truncate'} pr-2 pl-1.5 leading-[30px] ${c.mono ? 'num' : ''} ${c.right ? 'text-right' : ''} ${column === at ? 'outline-primary outline-1 -outline-offset-1' : ''} ${isIn(block, at) ? 'bg-[color-mix(in_oklab,var(--color-primary)_12%,var(--color-base-100))]' : ''}`}
          onMouseDown={(e) => {
            if (e.shiftKey) e.preventDefault();
            onSelect(at, e.shiftKey);
          }}
          onDoubleClick={onEdit}
        >
          {editing && !editing.isIndex && column === at && c.edit && !isExpression(c, tag) ? (
            <Editor tag={editing.tag} of={c} first={editing.first} onKeep={onKeep} onLeave={onLeave} onIndex={onIndex} />
          ) : (
            <Cell tag={tag} of={c} />
          )}
        </div>
      ))}
    </div>
  );
}

function Cell({ tag, of }: { readonly tag: Tag; readonly of: MapColumn }) {
  const project = useProject();
  switch (of.key) {
    case 'name':
      return tag.isGone ? (
        <span title="Its list no longer has this tag; it stays because something uses it.">
          {tag.name} <span className="is-look">gone from its list</span>
        </span>
      ) : (
        <span className="font-medium" title={tag.name}>
          {tag.name}
        </span>
      );
    case 'value':
      return <Value tagId={tag.id} />;
    case 'state':
      return <State tagId={tag.id} />;
    case 'proof':
      return <ProofMark state={project.proofOf(tag.id).state} />;
    case 'order': {
      const effective = project.effective(tag.id);
      const order = pointIn(tag)?.order ?? '';
      const shown =
        order ||
        (effective.ok && effective.value.driver?.bytes && effective.value.def.bit === null && effective.value.def.type.kind !== 'boolean'
          ? effective.value.def.order
          : '–');
      return (
        <span className={order ? '' : 'quiet'} title={order ? 'set for this tag' : 'as the device has it'}>
          {shown}
        </span>
      );
    }
    case 'address':
      return tag.source.kind === 'point' ? (
        <span title={`${typeAndPlace(project, tag.id)}\n${addressOf(tag)}${indexWords(project, tag)}`}>
          {shortAddress(project, tag)}
          <span className="quiet">{indexWords(project, tag)}</span>
        </span>
      ) : (
        <span className="quiet" title={expressionText(project, tag) || tag.source.kind}>
          {tag.source.kind === 'calculated' ? `= ${expressionText(project, tag)}` : tag.source.kind}
        </span>
      );
    case 'period':
      return <Period tag={tag} />;
    case 'device':
      return <span className="quiet">{project.deviceOf(tag)?.name ?? ''}</span>;
    case 'unavailable': {
      const own = tag.unavailable;
      const said = own ?? project.inheritedBy(tag.groupId).unavailable;
      return own === null ? (
        <em className="quiet" title={said === '' ? '' : 'as its group says'}>
          {said}
        </em>
      ) : (
        <span title={own}>{own}</span>
      );
    }
    case 'index':
    case 'range':
    case 'decimals':
      return <span className="quiet">{of.edit?.text(tag, project)}</span>;
    case 'access':
      return (
        <span className="quiet" title={accessText(tag, project)}>
          {accessText(tag, project)}
        </span>
      );
    case 'group':
      return (
        <span className="quiet" title={project.pathOf(tag)}>
          {project.groupTextOf(tag.groupId)}
        </span>
      );
    case 'type': {
      const disagreement = disagreementOf(tag);
      return disagreement ? (
        <span className="is-look" title={disagreement.message}>
          <TriangleAlert size={12} aria-label="Its list says another type." className="mr-1 mb-0.5 inline" />
          {tag.type}
        </span>
      ) : (
        <span title={tag.type}>{tag.type}</span>
      );
    }
    case 'scale': {
      const isShared = (project.scale(tag.id)?.sharedId ?? null) !== null;
      const text = of.edit?.text(tag, project) ?? '';
      return (
        <span className={isShared ? '' : 'quiet'} title={isShared ? `${text}, shared` : text}>
          {text}
        </span>
      );
    }
    case 'unit':
    case 'comment':
      return (
        <span className="quiet" title={tag[of.key]}>
          {tag[of.key]}
        </span>
      );
  }
}

/** `[stand * 10]`: what moves its address. */
function indexWords(project: ProjectView, tag: Tag): string {
  return pointIn(tag)?.index === undefined ? '' : ` [${expressionText(project, tag)}]`;
}

/** As it was written, where that fits; else as the driver puts it. */
function shortAddress(project: ProjectView, tag: Tag): string {
  const address = addressOf(tag);
  const effective = project.effective(tag.id);
  if (address.length <= LONG_ADDRESS || !effective.ok) return address;
  const { driver, canonical, def } = effective.value;
  return driver?.notation.format(canonical, def.type, project.deviceOf(tag)?.dialect ?? {}) ?? address;
}

/** A period of its own, or that of its group, which is slanted. */
function Period({ tag }: { readonly tag: Tag }) {
  const project = useProject();
  const inherited = project.inheritedBy(tag.groupId);
  if (tag.source.kind !== 'point') return <span className="quiet">–</span>;
  if (tag.source.periodMs !== null) return <span className="quiet">{periodText(tag.source.periodMs)}</span>;
  const by = inherited.saidBy.periodMs;
  return (
    <em className="quiet" title={by === null ? 'the usual period' : `as the group ${project.groupTextOf(by)} says`}>
      {periodText(inherited.periodMs)}
    </em>
  );
}

function Value({ tagId }: { readonly tagId: string }) {
  const view = useTagView(tagId);
  return (
    <span data-value title={view?.text}>
      {view?.text}
    </span>
  );
}

function State({ tagId }: { readonly tagId: string }) {
  const view = useTagView(tagId);
  return view ? <StateOf view={view} /> : null;
}

function Editor({
  tag,
  of,
  first,
  onKeep,
  onLeave,
  onIndex,
}: {
  readonly tag: Tag;
  readonly of: MapColumn;
  readonly first: string | null;
  readonly onKeep: RowProps['onKeep'];
  readonly onLeave: () => void;
  readonly onIndex: () => void;
}) {
  const listId = useId();
  const project = useProject();
  const input = useRef<HTMLInputElement>(null);
  const left = useRef(false);
  const [typed, setTyped] = useState(first ?? of.edit?.text(tag, project) ?? '');
  const device = of.key === 'address' && tag.source.kind === 'point' ? project.deviceOf(tag) : null;
  const choices = useMemo(
    () => (device ? freePlaces(project, device, tag.type) : (of.edit?.choices?.(tag, project) ?? [])),
    [project, device, tag, of],
  );
  useEffect(() => {
    input.current?.focus();
    if (first === null) input.current?.select();
  }, [first]);
  const finish = (then: 'stay' | 'down' | 'right' | 'all'): void => {
    if (left.current) return;
    left.current = true;
    onKeep(of, input.current?.value ?? '', then);
  };
  return (
    <>
      <input
        ref={input}
        aria-label={`${of.title} of ${tag.name}`}
        list={choices.length > 0 ? listId : undefined}
        className="border-primary bg-base-100 h-[27px] w-full border px-1"
        defaultValue={first ?? of.edit?.text(tag, project) ?? ''}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => finish('stay')}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') finish(e.ctrlKey ? 'all' : 'down');
          else if (e.key === 'Tab') {
            e.preventDefault();
            finish('right');
          } else if (e.key === 'Escape') {
            left.current = true;
            onLeave();
          }
        }}
      />
      {device ? (
        <div className="card-flat absolute z-20 mt-0.5 w-80 px-3 font-sans py-1.5 text-left leading-5 font-normal">
          <AddressHelp
            device={device}
            type={tag.type}
            text={typed}
            prefix={prefixOf(project, tag)}
            tagId={tag.id}
            onTake={(address) => {
              if (input.current) input.current.value = address;
              setTyped(address);
            }}
            onIndex={() => {
              left.current = true;
              onIndex();
            }}
          />
        </div>
      ) : null}
      {choices.length > 0 ? (
        <datalist id={listId}>
          {choices.map((choice) => (
            <option key={choice} value={choice} />
          ))}
        </datalist>
      ) : null}
    </>
  );
}
