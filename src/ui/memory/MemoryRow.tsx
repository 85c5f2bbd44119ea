'use client';
/** One row of cells with what lies in them, the requests that read them, and what they hold now. */
import { counted } from '@/core/counted.ts';
import type { Piece } from '@/core/address/memoryRows.ts';
import type { AreaRequest } from '@/mapping/areaMap.ts';
import { useProject } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { periodText } from '../map/columns.ts';
import type { Chosen } from './MakeTags.tsx';
import type { LiveCells } from './useCells.ts';

/** Ten cells a row: addresses are read in decimal. */
export const CELLS = 10;
const LANE = 24;
const MOST_LANES = 3;
const HEX = 16;

/** Its height, with or without what the cells hold. */
export function rowHeight(isLive: boolean): number {
  return LANE + 10 + (isLive ? HEX : 0);
}

interface MemoryRowProps {
  readonly top: number;
  readonly label: string;
  readonly first: number;
  readonly pieces: readonly Piece[];
  readonly requests: readonly AreaRequest[];
  readonly chosen: Chosen | null;
  readonly clashing: ReadonlySet<string>;
  /** Null where they are not looked at. */
  readonly live: LiveCells | null;
  readonly onChoose: (cell: number, extend: boolean) => void;
}

export function MemoryRow({ top, label, first, pieces, requests, chosen, clashing, live, onChoose }: MemoryRowProps) {
  const project = useProject();
  const lanes = Math.min(MOST_LANES, Math.max(1, ...pieces.map(({ lane }) => lane + 1)));
  return (
    <div
      role="row"
      className="border-base-300 absolute inset-x-0 flex border-b text-[12px]"
      style={{ height: rowHeight(live !== null), transform: `translateY(${top}px)` }}
    >
      <span role="rowheader" className="num quiet w-20 shrink-0 px-3 leading-[33px]">
        {label}
      </span>
      <div className="relative flex-1">
        <div className="absolute inset-0 grid grid-cols-10">
          {Array.from({ length: CELLS }, (_, i) => {
            const cell = first + i;
            const isChosen = chosen !== null && cell >= chosen.from && cell < chosen.to;
            const hex = live?.hex.get(cell);
            return (
              <button
                key={i}
                type="button"
                role="gridcell"
                tabIndex={isChosen && cell === chosen.from ? 0 : -1}
                aria-label={`cell ${cell}`}
                aria-selected={isChosen}
                data-cell={cell}
                className={`border-base-300 flex items-end justify-center border-l pb-1 ${isChosen ? 'bg-[color-mix(in_oklab,var(--color-primary)_22%,var(--color-base-100))]' : 'hover:bg-base-200'} ${hex === null ? 'unreadable' : ''}`}
                onClick={(e) => onChoose(cell, e.shiftKey)}
                onKeyDown={(e) => {
                  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: CELLS, ArrowUp: -CELLS }[e.key];
                  if (by === undefined || cell + by < 0) return;
                  e.preventDefault();
                  onChoose(cell + by, e.shiftKey);
                }}
              >
                {live ? (
                  <span
                    data-hex={hex ?? undefined}
                    className={`num rounded px-1 text-[11px] leading-[14px] ${live.changed.has(cell) ? 'glowing' : 'quiet'}`}
                    title={hex === null ? 'The device refuses to read it.' : undefined}
                  >
                    {hex === undefined ? '' : (hex ?? 'refused')}
                  </span>
                ) : null}
              </button>
            );
          })}
        </div>
        {requests.map(({ from, to, periodMs, tags }) => {
          const [left, right] = [Math.max(from - first, 0), Math.min(to - first, CELLS)];
          return (
            <span
              key={`${from} ${to} ${periodMs}`}
              data-request={`${from}-${to - 1}`}
              title={`One request every ${periodText(periodMs)}: cells ${from} to ${to - 1}, ${counted(tags, 'tag')}`}
              className="bg-primary absolute bottom-0 h-[3px] opacity-60"
              style={{
                left: `calc(${left * 10}% + ${from >= first ? 3 : 0}px)`,
                width: `calc(${(right - left) * 10}% - ${(from >= first ? 3 : 0) + (to <= first + CELLS ? 3 : 0)}px)`,
              }}
            />
          );
        })}
        {pieces
          .filter(({ lane }) => lane < MOST_LANES)
          .map(({ keys, from, to, lane, isCut, isBits }) => {
            const tag = project.tag(keys[0] ?? '');
            const isClash = keys.some((key) => clashing.has(key));
            const names = keys.map((key) => project.tag(key)?.name ?? '').join(', ');
            return (
              <button
                key={`${keys.join()} ${from}`}
                type="button"
                tabIndex={-1}
                data-piece={tag?.name}
                data-clash={isClash || undefined}
                title={`${names}${isClash ? ': overlaps another tag' : ''}`}
                className={`absolute truncate rounded-sm border px-1 text-left ${isClash ? 'border-error is-bad bg-base-100 border-dashed' : 'border-primary bg-base-200'} ${isCut ? 'border-x-0' : ''}`}
                style={{
                  left: `calc(${from * 10}% + 2px)`,
                  width: `calc(${(to - from) * 10}% - 4px)`,
                  top: 4 + (lane * LANE) / lanes,
                  height: LANE / lanes,
                  lineHeight: `${Math.max(8, LANE / lanes - 2)}px`,
                  fontSize: lanes > 1 ? 9 : 12,
                }}
                onClick={() => tag && selectTag(tag.id)}
              >
                {isBits ? counted(keys.length, 'bit') : tag?.name}
              </button>
            );
          })}
      </div>
    </div>
  );
}
