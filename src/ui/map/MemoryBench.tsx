'use client';
/** The memory of one device as cells: what lies where, what overlaps, what is free; free cells become tags. */
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useMemo, useRef, useState } from 'react';
import { counted } from '@/core/counted.ts';
import { overlapsOf, type Span } from '@/core/address/memoryMap.ts';
import { MemoryRows, type Piece } from '@/core/address/memoryRows.ts';
import type { Device } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { DriverDescription, MemoryArea, MemoryPart } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
import { selectTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { MakeTags, type Chosen } from './MakeTags.tsx';

/** Ten cells a row: addresses are read in decimal. */
const CELLS = 10;
const LANE = 24;
const MOST_LANES = 3;

export function MemoryBench() {
  const project = useProject();
  const drawn = project.devices.flatMap((device) => {
    const driver = describeDriver(project.link(device.linkId)?.driver ?? '');
    return driver?.memory ? [{ device, driver, part: driver.memory }] : [];
  });
  const [deviceId, setDeviceId] = useState('');
  const [areaId, setAreaId] = useState('');
  const here = drawn.find(({ device }) => device.id === deviceId) ?? drawn[0];
  if (!here)
    return (
      <Empty title="No device with a memory to draw">
        <p>Devices whose values have names, and not places, are mapped by their lists.</p>
      </Empty>
    );
  const area = here.part.areas.find(({ id }) => id === areaId) ?? here.part.areas[0];
  if (!area) return null;
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="text-lg font-semibold">Memory</h1>
        <select aria-label="Device" className="select select-sm w-44" value={here.device.id} onChange={(e) => setDeviceId(e.target.value)}>
          {drawn.map(({ device }) => (
            <option key={device.id} value={device.id}>
              {device.name}
            </option>
          ))}
        </select>
        <select aria-label="Area" className="select select-sm w-48" value={area.id} onChange={(e) => setAreaId(e.target.value)}>
          {here.part.areas.map(({ id, words }) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
        <span className="flex-1" />
        <Link className="btn btn-sm btn-outline" href="/map">
          Back to the map
        </Link>
      </div>
      <AreaView key={`${here.device.id} ${area.id}`} device={here.device} driver={here.driver} part={here.part} area={area} />
    </div>
  );
}

function spansIn(project: ProjectView, device: Device, part: MemoryPart, area: string): readonly Span[] {
  const spans: Span[] = [];
  for (const tag of project.allTags()) {
    if (deviceIdOf(tag) !== device.id) continue;
    const signal = project.effective(tag.id);
    const span = signal.ok ? part.spanOf(signal.value.canonical, signal.value.def.type, device.dialect) : null;
    if (span?.area === area) spans.push({ key: tag.id, from: span.from, to: span.from + span.bits });
  }
  return spans;
}

interface AreaViewProps {
  readonly device: Device;
  readonly driver: DriverDescription;
  readonly part: MemoryPart;
  readonly area: MemoryArea;
}

function AreaView({ device, driver, part, area }: AreaViewProps) {
  const project = useProject();
  const spans = useMemo(() => spansIn(project, device, part, area.id), [project, device, part, area.id]);
  const rows = useMemo(() => new MemoryRows(spans, area.cellBits), [spans, area.cellBits]);
  const clashing = useMemo(
    () => new Set(overlapsOf(spans.filter(({ from, to }) => to - from >= area.cellBits)).flatMap(({ one, other }) => [one.key, other.key])),
    [spans, area.cellBits],
  );
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({
    count: Math.ceil(area.cells / CELLS),
    getScrollElement: () => scroller.current,
    estimateSize: () => LANE + 10,
    overscan: 6,
    initialOffset: Math.floor((rows.first ?? 0) / CELLS) * (LANE + 10),
  });
  const choose = (cell: number, extend: boolean): void => {
    if (!extend || !chosen) setChosen({ from: cell, to: cell + 1 });
    else setChosen({ from: Math.min(chosen.from, cell), to: Math.max(chosen.to, cell + 1) });
  };
  return (
    <>
      <MakeTags
        device={device}
        driver={driver}
        part={part}
        area={area}
        spans={spans}
        chosen={chosen}
        onChoose={(next) => {
          setChosen(next);
          virtual.scrollToIndex(Math.floor(next.from / CELLS), { align: 'center' });
        }}
      />
      <div ref={scroller} className="card-flat min-h-0 flex-1 overflow-auto" role="grid" aria-label={`${area.words} of ${device.name}`}>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => (
            <MemoryRow
              key={item.key}
              top={item.start}
              label={part.addressAt(area.id, item.index * CELLS, null, device.dialect)}
              first={item.index * CELLS}
              pieces={rows.row(item.index * CELLS, CELLS)}
              chosen={chosen}
              clashing={clashing}
              onChoose={choose}
            />
          ))}
        </div>
      </div>
    </>
  );
}

interface MemoryRowProps {
  readonly top: number;
  readonly label: string;
  readonly first: number;
  readonly pieces: readonly Piece[];
  readonly chosen: Chosen | null;
  readonly clashing: ReadonlySet<string>;
  readonly onChoose: (cell: number, extend: boolean) => void;
}

function MemoryRow({ top, label, first, pieces, chosen, clashing, onChoose }: MemoryRowProps) {
  const project = useProject();
  const lanes = Math.min(MOST_LANES, Math.max(1, ...pieces.map(({ lane }) => lane + 1)));
  return (
    <div
      role="row"
      className="border-base-300 absolute inset-x-0 flex border-b text-[12px]"
      style={{ height: LANE + 10, transform: `translateY(${top}px)` }}
    >
      <span role="rowheader" className="num quiet w-20 shrink-0 px-3 leading-[33px]">
        {label}
      </span>
      <div className="relative flex-1">
        <div className="absolute inset-0 grid grid-cols-10">
          {Array.from({ length: CELLS }, (_, i) => {
            const cell = first + i;
            const isChosen = chosen !== null && cell >= chosen.from && cell < chosen.to;
            return (
              <button
                key={i}
                type="button"
                role="gridcell"
                tabIndex={isChosen && cell === chosen.from ? 0 : -1}
                aria-label={`cell ${cell}`}
                aria-selected={isChosen}
                data-cell={cell}
                className={`border-base-300 border-l ${isChosen ? 'bg-[color-mix(in_oklab,var(--color-primary)_22%,var(--color-base-100))]' : 'hover:bg-base-200'}`}
                onClick={(e) => onChoose(cell, e.shiftKey)}
                onKeyDown={(e) => {
                  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: CELLS, ArrowUp: -CELLS }[e.key];
                  if (by === undefined || cell + by < 0) return;
                  e.preventDefault();
                  onChoose(cell + by, e.shiftKey);
                }}
              />
            );
          })}
        </div>
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
