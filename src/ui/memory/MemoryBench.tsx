'use client';
/** The memory of one device as cells: what lies where, what overlaps, what is free, who reads it; free cells become tags. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { Activity } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { MappedArea } from '@/mapping/areaMap.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { MakeTags, type Chosen } from './MakeTags.tsx';
import { CELLS, MemoryRow, rowHeight } from './MemoryRow.tsx';
import { useAreaMap, type DrawnArea } from './useAreaMap.ts';
import { useCells } from './useCells.ts';

export function MemoryBench() {
  const project = useProject();
  const drawn = project.devices.flatMap((device) => {
    const link = project.link(device.linkId);
    const driver = describeDriver(link?.driver ?? '');
    return link && driver?.memory ? [{ device, link, driver, part: driver.memory }] : [];
  });
  const [deviceId, setDeviceId] = useState('');
  const [areaId, setAreaId] = useState('');
  const [isLive, setLive] = useState(false);
  const [wanted, setWanted] = useState('');
  /** What was jumped to, with a number of its own, since one may jump to the same place twice. */
  const [jump, setJump] = useState<{ readonly cell: number; readonly n: number } | null>(null);
  const here = drawn.find(({ device }) => device.id === deviceId) ?? drawn[0];
  if (!here)
    return (
      <Empty title="No device with a memory to draw">
        <p>Devices whose values have names, and not places, are mapped by their lists.</p>
      </Empty>
    );
  const area = here.part.areas.find(({ id }) => id === areaId) ?? here.part.areas[0];
  if (!area) return null;
  const jumpTo = (text: string): void => {
    const type = parseDataType(area.cellBits === 1 ? 'BOOL' : 'WORD');
    const { device, driver, part } = here;
    const address = type.ok ? driver.notation.parse(text.replace(/\.\d+$/, ''), type.value, device.dialect) : type;
    const span = address.ok && type.ok ? part.spanOf(address.value.canonical, type.value, device.dialect) : null;
    const to = span && part.areas.find(({ id }) => id === span.area);
    if (!address.ok || !span || !to) return void toast.error(address.ok ? 'That is no place in its memory.' : address.problem.message);
    setAreaId(to.id);
    setJump({ cell: Math.floor(span.from / to.cellBits), n: (jump?.n ?? 0) + 1 });
  };
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
        <form
          onSubmit={(e) => {
            e.preventDefault();
            jumpTo(wanted.trim());
          }}
        >
          <input
            aria-label="Go to address"
            className="input input-sm num w-36"
            placeholder="go to address"
            value={wanted}
            onChange={(e) => setWanted(e.target.value)}
          />
        </form>
        <label className="btn btn-sm btn-ghost">
          <input type="checkbox" className="checkbox checkbox-xs" checked={isLive} onChange={(e) => setLive(e.target.checked)} />
          <Activity size={14} aria-hidden /> Live cells
        </label>
        <span className="flex-1" />
        <Link className="btn btn-sm btn-outline" href="/map">
          Back to the map
        </Link>
      </div>
      <AreaView key={`${here.device.id} ${area.id}`} mapped={{ ...here, area }} isLive={isLive} jump={jump} />
    </div>
  );
}

interface AreaViewProps {
  readonly mapped: MappedArea;
  readonly isLive: boolean;
  readonly jump: { readonly cell: number; readonly n: number } | null;
}

function AreaView({ mapped, isLive, jump }: AreaViewProps) {
  const map = useAreaMap(mapped);
  // Drawn when it is known where the first tag lies, so that it begins there.
  return map ? (
    <Cells mapped={mapped} map={map} isLive={isLive} jump={jump} />
  ) : (
    <p className="quiet p-4" role="status">
      Drawing {mapped.area.words} …
    </p>
  );
}

function Cells({ mapped, map, isLive, jump }: AreaViewProps & { readonly map: DrawnArea }) {
  const { device, part, area } = mapped;
  const { spans, rows, clashing, requests } = map;
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [followed, setFollowed] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const height = rowHeight(isLive);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({
    count: Math.ceil(area.cells / CELLS),
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 6,
    initialOffset: Math.floor((jump?.cell ?? rows.first ?? 0) / CELLS) * height,
  });
  useEffect(() => virtual.measure(), [virtual, height]);
  const items = virtual.getVirtualItems();
  const [firstRow, lastRow] = [items[0]?.index ?? 0, items.at(-1)?.index ?? -1];
  const live = useCells(device.id, area.id, firstRow * CELLS, (lastRow - firstRow + 1) * CELLS, isLive);
  const goTo = (cells: Chosen): void => {
    setChosen(cells);
    virtual.scrollToIndex(Math.floor(cells.from / CELLS), { align: 'center' });
  };
  if (jump && jump.n !== followed) {
    setFollowed(jump.n);
    setChosen({ from: jump.cell, to: jump.cell + 1 });
    queueMicrotask(() => virtual.scrollToIndex(Math.floor(jump.cell / CELLS), { align: 'center' }));
  }
  const choose = (cell: number, extend: boolean): void => {
    if (!extend || !chosen) setChosen({ from: cell, to: cell + 1 });
    else setChosen({ from: Math.min(chosen.from, cell), to: Math.max(chosen.to, cell + 1) });
  };
  return (
    <>
      <MakeTags device={device} driver={mapped.driver} part={part} area={area} spans={spans} chosen={chosen} onChoose={goTo} />
      <div ref={scroller} className="card-flat min-h-0 flex-1 overflow-auto" role="grid" aria-label={`${area.words} of ${device.name}`}>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const first = item.index * CELLS;
            return (
              <MemoryRow
                key={item.key}
                top={item.index * height}
                label={part.addressAt(area.id, first, null, device.dialect)}
                first={first}
                pieces={rows.row(first, CELLS)}
                requests={requests.filter(({ from, to }) => from < first + CELLS && to > first)}
                chosen={chosen}
                clashing={clashing}
                live={isLive ? live : null}
                onChoose={choose}
              />
            );
          })}
        </div>
      </div>
      <p className="quiet flex gap-4 text-xs">
        <span>
          {counted(spans.length, 'tag')}, read in {counted(requests.length, 'request')}
          {requests.length > 0 ? ' (the lines under the cells)' : ''}
        </span>
        {clashing.size > 0 ? <span className="is-bad">{counted(clashing.size, 'tag')} overlap</span> : null}
        {live.problem ? <span className="is-bad">{live.problem}</span> : null}
      </p>
    </>
  );
}
