'use client';
/** The grid: only the rows on the screen are drawn and subscribed to. Arrows move, Enter edits, Escape leaves. */
import dynamic from 'next/dynamic';
import { useVirtualizer, type VirtualItem, type Virtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import { cellsOf, MOST_PASTED_ROWS, textOfCells } from '@/core/grid/pasted.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject, useStep, wasIn } from '../live/LiveContext.tsx';
import { useLive } from '../live/liveHooks.ts';
import { selectTag, useSelectedTag } from '../live/selection.ts';
import type { TagView } from '../live/liveClient.ts';
import { BlockBar, type BlockActions } from './BlockBar.tsx';
import { blockOf, type Corner } from './block.ts';
import { DuplicateDialog, ReplaceDialog, UnfitDialog } from './BlockDialogs.tsx';
import { isExpression, MapRow, ROW, type Editing } from './MapRow.tsx';
import { GridHeader } from './GridHeader.tsx';
import { NARROWEST, type SetWidth, type Sort } from './mapView.ts';
import { countOnDown, fillDown, paste, setAll } from './gridActions.ts';
import { changesOf, scaleChanges, type PlannedEdits } from './gridEdits.ts';
import { gridTemplate, type ColumnKey, type MapColumn } from './columns.ts';

const ExpressionDialog = dynamic(async () => (await import('../expression/ExpressionDialog.tsx')).ExpressionDialog, { ssr: false });

export function MapGrid({ tags, columns: shownColumns, sort, onSort, onWidth }: MapGridProps) {
  const id = useId();
  const selected = useSelectedTag();
  const project = useProject();
  const live = useLive();
  const change = useChange();
  const step = useStep();
  const [column, setColumn] = useState(0);
  /** The other corner of a block of cells; null for the selected cell alone. */
  const [corner, setCorner] = useState<Corner | null>(null);
  const [dialog, setDialog] = useState<OpenDialog | null>(null);
  const [editing, setEditing] = useState<Editing | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual: Virtualizer<HTMLDivElement, Element> = useVirtualizer<HTMLDivElement, Element>({
    count: tags.length,
    getScrollElement: () => grid.current,
    estimateSize: () => ROW,
    rangeExtractor: ({ startIndex }) => rowsFrom(startIndex, rowsIn(virtual.scrollRect?.height ?? 0), tags.length),
  });
  const drawn = rowsIn(virtual.scrollRect?.height ?? 0);
  const row = useMemo(() => tags.findIndex((t) => t.id === selected), [tags, selected]);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- it stands for what the functions of the rows go by
  const moment = useMemo(() => ({}), [tags, row, column, corner, editing, project, shownColumns]);
  const template = useMemo(() => gridTemplate(tags, shownColumns), [tags, shownColumns]);

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
  const block = blockOf(row, column, corner, tags.length);
  const inBlock = tags.slice(block.row, block.row + block.rows);
  const columns = shownColumns.slice(block.column, block.column + block.columns);
  const remove = async (): Promise<void> => {
    const what = inBlock.length === 1 ? `tag ${inBlock[0]?.name ?? ''}` : counted(inBlock.length, 'tag');
    const done = await change(
      `${what} removed`,
      inBlock.map(({ id: tagId }) => ({ kind: 'tag', id: tagId, set: null })),
    );
    if (!done.ok) return;
    setCorner(null);
    toast(`${what} removed`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  /** Kept as one command where all of it fits; else it is asked first, and nothing is changed. */
  const apply = async (label: string, planned: PlannedEdits): Promise<void> => {
    if (planned.rows.some(({ problem }) => problem !== null)) {
      setDialog({ kind: 'unfit', label, planned });
      return;
    }
    const changes = changesOf(planned);
    if (changes.length === 0) return;
    const done = await change(label, changes);
    if (done.ok) toast(`${label} · ${counted(planned.rows.length, 'tag')}`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  const act: BlockActions = {
    fill: () => void apply(`${titlesOf(columns)} filled down`, fillDown(project, inBlock, columns)),
    countOn: (by) => void apply(`${titlesOf(columns)} counted on`, countOnDown(project, inBlock, columns, by)),
    replace: () => setDialog({ kind: 'replace', tags: inBlock }),
    duplicate: () => setDialog({ kind: 'duplicate', tags: inBlock }),
    remove: () => void remove(),
  };
  const onCopy = (event: ClipboardEvent): void => {
    if (editing || dialog || inBlock.length === 0) return;
    const cells = inBlock.map((tag) => columns.map((c) => c.edit?.text(tag, project) ?? shownText(live.view(tag.id), c)));
    event.clipboardData.setData('text/plain', textOfCells(cells));
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent): void => {
    if (editing || dialog || row < 0) return;
    event.preventDefault();
    const cells = cellsOf(event.clipboardData.getData('text/plain'));
    if (cells.length > MOST_PASTED_ROWS) toast.error(`At most ${MOST_PASTED_ROWS} rows are pasted at once; import a list instead.`);
    else void apply('cells pasted', paste(project, tags, shownColumns, block, cells));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (editing || dialog) return;
    if (event.ctrlKey || event.metaKey) {
      const chords: Readonly<Record<string, () => void>> = {
        a: () => {
          select(tags.length - 1);
          setCorner({ row: 0, column: 0 });
          setColumn(shownColumns.length - 1);
        },
        d: act.fill,
        D: () => act.countOn(null),
        h: act.replace,
      };
      const chord = chords[event.key];
      if (!chord || row < 0) return;
      chord();
      event.preventDefault();
      return;
    }
    if (event.altKey && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
      const chosen = shownColumns[column];
      const header = grid.current?.querySelectorAll('[role="columnheader"]')[column];
      const by = event.key === 'ArrowRight' ? STEP : -STEP;
      if (chosen && header) onWidth(chosen.key, Math.max(NARROWEST, Math.round(header.getBoundingClientRect().width + by)));
      event.preventDefault();
      return;
    }
    if (event.altKey) return;
    const page = Math.max(1, Math.floor((grid.current?.clientHeight ?? ROW) / ROW) - 1);
    const moves: Readonly<Record<string, () => void>> = {
      ArrowDown: () => select(row + 1),
      ArrowUp: () => select(row - 1),
      PageDown: () => select(row + page),
      PageUp: () => select(row - page),
      Home: () => select(0),
      End: () => select(tags.length - 1),
      ArrowRight: () => setColumn(Math.min(column + 1, shownColumns.length - 1)),
      ArrowLeft: () => setColumn(Math.max(column - 1, 0)),
      Enter: () => edit(null),
      F2: () => edit(null),
      Delete: () => {
        if (row >= 0) void remove();
      },
    };
    const move = moves[event.key];
    if (move && MOVES.has(event.key)) {
      if (!event.shiftKey) setCorner(null);
      else if (!corner && row >= 0) setCorner({ row, column });
    }
    if (event.key === 'Escape' && corner) setCorner(null);
    else if (move) move();
    else if (event.key.length === 1 && row >= 0 && shownColumns[column]?.edit) edit(event.key);
    else return;
    event.preventDefault();
  };
  const edit = (first: string | null): void => {
    const tag = tags[row];
    if (tag) setEditing({ first, tag });
  };
  const keep = async (of: MapColumn, text: string, then: 'stay' | 'down' | 'right' | 'all'): Promise<void> => {
    if (!editing) return;
    const { tag } = editing;
    setEditing(null);
    grid.current?.focus();
    if (then === 'all') {
      await apply(`${of.title.toLowerCase()} changed`, setAll(project, inBlock, of, text));
      return;
    }
    if (then === 'down') select(row + 1);
    if (then === 'right') setColumn(Math.min(column + 1, shownColumns.length - 1));
    if (!of.edit || text === of.edit.text(tag, project)) return;
    const edit = of.edit.set(text, tag, project);
    if (edit.ok) {
      const { set, scale, first = [] } = edit.value;
      const changes = Object.keys(set).length > 0 ? [{ kind: 'tag' as const, id: tag.id, set, was: wasIn(tag, set) }] : [];
      await change(`${of.title.toLowerCase()} of ${tag.name} changed`, [...first, ...changes, ...scaleChanges(tag.id, scale)]);
    } else toast.error(edit.problem.message, { description: edit.problem.remedy });
  };

  const closeDialog = (): void => {
    setDialog(null);
    grid.current?.focus();
  };

  return (
    <div className="card-flat flex min-h-32 flex-1 flex-col overflow-hidden text-[13px]">
      {block.rows > 1 ? <BlockBar rows={block.rows} columns={titlesOf(columns)} act={act} onLeave={() => setCorner(null)} /> : null}
      <div
        ref={grid}
        role="grid"
        aria-label="Tags"
        aria-rowcount={tags.length + 1}
        aria-colcount={shownColumns.length}
        aria-activedescendant={row >= 0 ? `${id}-${row}-${column}` : undefined}
        tabIndex={0}
        className="bg-base-100 min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
        onKeyDown={onKeyDown}
        onCopy={onCopy}
        onPaste={onPaste}
      >
        <GridHeader columns={shownColumns} template={template} sort={sort} onSort={onSort} onWidth={onWidth} />
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {inPlace(virtual.getVirtualItems(), drawn).map((item) => {
            const tag = tags[item.index];
            if (!tag) return null;
            const isSelected = tag.id === selected;
            return (
              <MapRow
                key={item.index % drawn}
                tag={tag}
                idPrefix={`${id}-${item.index}`}
                index={item.index}
                top={item.start}
                template={template}
                columns={shownColumns}
                column={isSelected ? column : null}
                block={corner && item.index >= block.row && item.index < block.row + block.rows ? block : null}
                editing={isSelected ? editing : null}
                moment={moment}
                onSelect={(at, extends_) => {
                  if (!extends_) setCorner(null);
                  else if (!corner && row >= 0) setCorner({ row, column });
                  selectTag(tag.id);
                  setColumn(at);
                }}
                onEdit={() => setEditing({ first: null, tag })}
                onKeep={(of, text, then) => void keep(of, text, then)}
                onLeave={() => {
                  setEditing(null);
                  grid.current?.focus();
                }}
                onIndex={() => setEditing({ first: null, tag, isIndex: true })}
              />
            );
          })}
        </div>
        {editing && (editing.isIndex || isExpression(shownColumns[column], editing.tag)) ? (
          <ExpressionDialog
            tag={editing.tag}
            onClose={() => {
              setEditing(null);
              grid.current?.focus();
            }}
          />
        ) : null}
        {dialog?.kind === 'unfit' ? <UnfitDialog planned={dialog.planned} label={dialog.label} onClose={closeDialog} /> : null}
        {dialog?.kind === 'replace' ? <ReplaceDialog tags={dialog.tags} onClose={closeDialog} /> : null}
        {dialog?.kind === 'duplicate' ? <DuplicateDialog tags={dialog.tags} onClose={closeDialog} /> : null}
        {tags.length === 0 ? <p className="quiet p-6 text-center">No tag matches. Press Escape in the search field to see all.</p> : null}
      </div>
    </div>
  );
}

interface MapGridProps {
  readonly tags: readonly Tag[];
  readonly columns: readonly MapColumn[];
  readonly sort: Sort | null;
  readonly onSort: (key: ColumnKey) => void;
  readonly onWidth: SetWidth;
}

type OpenDialog =
  | { readonly kind: 'unfit'; readonly label: string; readonly planned: PlannedEdits }
  | { readonly kind: 'replace' | 'duplicate'; readonly tags: readonly Tag[] };

/** By which a key makes a column wider, in pixels. */
const STEP = 16;

/** Rows that are drawn before and after those in sight. */
const BEYOND = 4;
const DRAWN_AT_FIRST = 40;

/** How many rows are drawn: always as many, so that one that leaves at one end is used again at the other. */
function rowsIn(height: number): number {
  return height === 0 ? DRAWN_AT_FIRST : Math.ceil(height / ROW) + 1 + 2 * BEYOND;
}

/** In the order in which they lie in the document, which is never changed: what is moved there is laid out anew. */
function inPlace(items: readonly VirtualItem[], drawn: number): readonly VirtualItem[] {
  return [...items].sort((a, b) => (a.index % drawn) - (b.index % drawn));
}

function rowsFrom(first: number, drawn: number, count: number): number[] {
  const from = Math.max(0, Math.min(first - BEYOND, count - drawn));
  return Array.from({ length: Math.min(drawn, count) }, (_, i) => from + i);
}
const MOVES: ReadonlySet<string> = new Set(['ArrowDown', 'ArrowUp', 'ArrowLeft', 'ArrowRight', 'PageDown', 'PageUp', 'Home', 'End']);

function titlesOf(columns: readonly MapColumn[]): string {
  const editable = columns.filter(({ edit }) => edit);
  return editable.length > 3 ? `${editable.length} columns` : editable.map(({ title }) => title.toLowerCase()).join(', ');
}

/** What a column that cannot be edited shows. */
function shownText(view: TagView | null, column: MapColumn): string {
  return column.key === 'value' ? (view?.text ?? '') : column.key === 'state' ? (view?.level ?? '') : '';
}
