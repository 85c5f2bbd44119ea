'use client';
/** The grid: only the rows on the screen are drawn and subscribed to. Arrows move, Enter edits, Escape leaves. */
import type { ProjectView } from '../live/project.ts';
import dynamic from 'next/dynamic';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { toast } from 'sonner';
import type { Tag } from '@/core/project/entities.ts';
import { addressOf, pointIn } from '@/core/project/tagSource.ts';
import { useChange, useProject, useStep, useTagView, wasIn } from '../live/LiveContext.tsx';
import { selectTag, useSelectedTag } from '../live/selection.ts';
import { ProofMark, QualityMark } from '../parts/StateMark.tsx';
import { typeAndPlace } from '../signalPath/signalPath.ts';
import { expressionText } from '../expression/reading.ts';
import { accessText, gridTemplate, MAP_COLUMNS, periodText, type MapColumn } from './columns.ts';

const ExpressionDialog = dynamic(async () => (await import('../expression/ExpressionDialog.tsx')).ExpressionDialog, { ssr: false });

const ROW = 31;

/** Characters that an address may have to be shown whole. */
const LONG_ADDRESS = 16;

interface Editing {
  /** The key that began it, which replaces what was there; null begins with what was there. */
  readonly first: string | null;
  /** The tag as it was when editing began. */
  readonly tag: Tag;
}

export function MapGrid({ tags }: { readonly tags: readonly Tag[] }) {
  const id = useId();
  const selected = useSelectedTag();
  const project = useProject();
  const change = useChange();
  const step = useStep();
  const [column, setColumn] = useState(0);
  const [editing, setEditing] = useState<Editing | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: tags.length, getScrollElement: () => grid.current, estimateSize: () => ROW, overscan: 8 });
  const row = tags.findIndex((t) => t.id === selected);
  const template = useMemo(() => gridTemplate(tags), [tags]);

  // The selection of another step is in sight here too.
  useEffect(() => {
    if (row >= 0) virtual.scrollToIndex(row);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only at first sight
  }, []);

  const select = (at: number): void => {
    const tag = tags[Math.max(0, Math.min(at, tags.length - 1))];
    if (!tag) return;
    selectTag(tag.id);
    virtual.scrollToIndex(Math.max(0, Math.min(at, tags.length - 1)));
  };
  const remove = async (tag: Tag): Promise<void> => {
    const done = await change(`tag ${tag.name} removed`, [{ kind: 'tag', id: tag.id, set: null }]);
    if (done.ok) toast(`${tag.name} removed`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (editing || event.ctrlKey || event.metaKey || event.altKey) return;
    const page = Math.max(1, Math.floor((grid.current?.clientHeight ?? ROW) / ROW) - 1);
    const moves: Readonly<Record<string, () => void>> = {
      ArrowDown: () => select(row + 1),
      ArrowUp: () => select(row - 1),
      PageDown: () => select(row + page),
      PageUp: () => select(row - page),
      Home: () => select(0),
      End: () => select(tags.length - 1),
      ArrowRight: () => setColumn(Math.min(column + 1, MAP_COLUMNS.length - 1)),
      ArrowLeft: () => setColumn(Math.max(column - 1, 0)),
      Enter: () => edit(null),
      F2: () => edit(null),
      Delete: () => {
        const tag = tags[row];
        if (tag) void remove(tag);
      },
    };
    const move = moves[event.key];
    if (move) move();
    else if (event.key.length === 1 && row >= 0 && MAP_COLUMNS[column]?.edit) edit(event.key);
    else return;
    event.preventDefault();
  };
  const edit = (first: string | null): void => {
    const tag = tags[row];
    if (tag) setEditing({ first, tag });
  };
  const keep = async (of: MapColumn, text: string, then: 'stay' | 'down' | 'right'): Promise<void> => {
    if (!editing) return;
    const { tag } = editing;
    setEditing(null);
    grid.current?.focus();
    if (then === 'down') select(row + 1);
    if (then === 'right') setColumn(Math.min(column + 1, MAP_COLUMNS.length - 1));
    if (!of.edit || text === of.edit.text(tag, project)) return;
    const edit = of.edit.set(text, tag, project);
    if (edit.ok) {
      const { set, first = [] } = edit.value;
      await change(`${of.title.toLowerCase()} of ${tag.name} changed`, [...first, { kind: 'tag', id: tag.id, set, was: wasIn(tag, set) }]);
    } else toast.error(edit.problem.message, { description: edit.problem.remedy });
  };

  return (
    <div className="card-flat flex min-h-32 flex-1 flex-col overflow-hidden text-[13px]">
      <div
        ref={grid}
        role="grid"
        aria-label="Tags"
        aria-rowcount={tags.length + 1}
        aria-colcount={MAP_COLUMNS.length}
        aria-activedescendant={row >= 0 ? `${id}-${row}-${column}` : undefined}
        tabIndex={0}
        className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
        onKeyDown={onKeyDown}
      >
        <div
          role="row"
          aria-rowindex={1}
          className="bg-base-200 border-base-300 sticky top-0 z-10 grid h-8 items-center border-b px-3 font-semibold"
          style={{ gridTemplateColumns: template }}
        >
          {MAP_COLUMNS.map((c) => (
            <span key={c.key} role="columnheader" className={`truncate pr-3 ${c.right ? 'text-right' : ''}`}>
              {c.title}
            </span>
          ))}
        </div>
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const tag = tags[item.index];
            if (!tag) return null;
            const isSelected = tag.id === selected;
            return (
              <Row
                key={tag.id}
                tag={tag}
                idPrefix={`${id}-${item.index}`}
                index={item.index}
                top={item.start}
                template={template}
                column={isSelected ? column : null}
                editing={isSelected ? editing : null}
                onSelect={(at) => {
                  selectTag(tag.id);
                  setColumn(at);
                }}
                onEdit={() => setEditing({ first: null, tag })}
                onKeep={(of, text, then) => void keep(of, text, then)}
                onLeave={() => {
                  setEditing(null);
                  grid.current?.focus();
                }}
              />
            );
          })}
        </div>
        {editing && isExpression(MAP_COLUMNS[column], editing.tag) ? (
          <ExpressionDialog
            tag={editing.tag}
            onClose={() => {
              setEditing(null);
              grid.current?.focus();
            }}
          />
        ) : null}
        {tags.length === 0 ? <p className="quiet p-6 text-center">No tag matches. Press Escape in the search field to see all.</p> : null}
      </div>
    </div>
  );
}

/** An expression takes more room than a cell. */
function isExpression(column: MapColumn | undefined, { source }: Tag): boolean {
  return column?.key === 'address' && source.kind === 'calculated';
}

interface RowProps {
  readonly tag: Tag;
  readonly idPrefix: string;
  readonly index: number;
  readonly top: number;
  readonly column: number | null;
  readonly template: string;
  readonly editing: Editing | null;
  readonly onSelect: (column: number) => void;
  readonly onEdit: () => void;
  readonly onKeep: (of: MapColumn, text: string, then: 'stay' | 'down' | 'right') => void;
  readonly onLeave: () => void;
}

function Row({ tag, idPrefix, index, top, column, template, editing, onSelect, onEdit, onKeep, onLeave }: RowProps) {
  const isSelected = column !== null;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={isSelected}
      data-tag={tag.name}
      className={`absolute inset-x-0 grid items-center border-b px-3 ${isSelected ? 'bg-base-200 border-primary' : 'border-base-300'}`}
      style={{ height: ROW, gridTemplateColumns: template, transform: `translateY(${top}px)` }}
    >
      {MAP_COLUMNS.map((c, at) => (
        <div
          key={c.key}
          id={`${idPrefix}-${at}`}
          role="gridcell"
          data-column={c.key}
          aria-selected={column === at}
          className={`-ml-1.5 h-full min-w-0 truncate pr-2 pl-1.5 leading-[30px] ${c.mono ? 'num' : ''} ${c.right ? 'text-right' : ''} ${column === at ? 'outline-primary outline-1 -outline-offset-1' : ''}`}
          onMouseDown={() => onSelect(at)}
          onDoubleClick={onEdit}
        >
          {editing && column === at && c.edit && !isExpression(c, tag) ? (
            <Editor tag={editing.tag} of={c} first={editing.first} onKeep={onKeep} onLeave={onLeave} />
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
        <>{tag.name}</>
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
        <span title={`${typeAndPlace(project, tag.id)}\n${addressOf(tag)}`}>{shortAddress(project, tag)}</span>
      ) : (
        <span className="quiet" title={expressionText(project, tag) || tag.source.kind}>
          {tag.source.kind === 'calculated' ? `= ${expressionText(project, tag)}` : tag.source.kind}
        </span>
      );
    case 'period':
      return <Period tag={tag} />;
    case 'access':
      return (
        <span className="quiet" title={accessText(tag, project)}>
          {accessText(tag, project)}
        </span>
      );
    case 'name':
      return (
        <span className="font-medium" title={tag.name}>
          {tag.name}
        </span>
      );
    case 'group':
      return (
        <span className="quiet" title={project.pathOf(tag)}>
          {project.groupTextOf(tag.groupId)}
        </span>
      );
    case 'type':
    case 'unit':
    case 'comment':
      return (
        <span className={of.key === 'type' ? '' : 'quiet'} title={tag[of.key]}>
          {tag[of.key]}
        </span>
      );
  }
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
  return view ? <QualityMark level={view.level} reason={view.reason} why={view.why} quietWhenGood /> : null;
}

function Editor({
  tag,
  of,
  first,
  onKeep,
  onLeave,
}: {
  readonly tag: Tag;
  readonly of: MapColumn;
  readonly first: string | null;
  readonly onKeep: RowProps['onKeep'];
  readonly onLeave: () => void;
}) {
  const listId = useId();
  const project = useProject();
  const input = useRef<HTMLInputElement>(null);
  const left = useRef(false);
  const choices = of.edit?.choices?.(tag, project) ?? [];
  useEffect(() => {
    input.current?.focus();
    if (first === null) input.current?.select();
  }, [first]);
  const finish = (then: 'stay' | 'down' | 'right'): void => {
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
        onBlur={() => finish('stay')}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') finish('down');
          else if (e.key === 'Tab') {
            e.preventDefault();
            finish('right');
          } else if (e.key === 'Escape') {
            left.current = true;
            onLeave();
          }
        }}
      />
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
