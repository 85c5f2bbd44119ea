'use client';
/** Turns chosen cells into values, arrays or structures that lie one after another; each next address is told before any is made. */
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { counted } from '@/core/counted.ts';
import { laidOut, nextFree, type Span } from '@/core/address/memoryMap.ts';
import type { Device } from '@/core/project/entities.ts';
import { DATA_TYPE_NAMES, LAID_OUT_NAMES } from '@/core/value/dataType.ts';
import type { DriverDescription, MemoryArea, MemoryPart } from '@/drivers/contract.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { makingChanges, namesFrom, whatIsMade, type MakingOn } from '../map/making.ts';
import { NewStructure } from './NewStructure.tsx';

/** Cells, from the first to the one after the last. */
export interface Chosen {
  readonly from: number;
  readonly to: number;
}

interface MakeTagsProps {
  readonly device: Device;
  readonly driver: DriverDescription;
  readonly part: MemoryPart;
  readonly area: MemoryArea;
  readonly spans: readonly Span[];
  readonly chosen: Chosen | null;
  readonly onChoose: (chosen: Chosen) => void;
}

const MOST = 1000;

export function MakeTags({ device, driver, part, area, spans, chosen, onChoose }: MakeTagsProps) {
  const project = useProject();
  const change = useChange();
  const [name, setName] = useState('');
  const [typeText, setTypeText] = useState(area.cellBits === 1 ? 'BOOL' : 'INT');
  const [count, setCount] = useState('1');
  const [stepText, setStepText] = useState('');
  const [problem, setProblem] = useState('');
  const [isNaming, setNaming] = useState(false);
  const structures = project.structures.filter(({ deviceId }) => deviceId === device.id);
  const on: MakingOn = { device, driver, area, structures };
  const made = whatIsMade(typeText, on);
  const cells = made.ok ? Math.max(1, Math.ceil(made.value.bits / area.cellBits)) : 1;
  const wanted = Math.min(MOST, Math.max(1, Math.trunc(Number(count)) || 1));
  const step = Math.max(cells, Math.trunc(Number(stepText)) || 0);
  const reach = step * (wanted - 1) + cells;
  const places = chosen ? laidOut(chosen.from, step, wanted) : [];
  const isBit = made.ok && made.value.kind === 'value' && made.value.type.kind === 'boolean' && area.cellBits > 1;
  const addressOf = (cell: number): string => part.addressAt(area.id, cell, isBit ? 0 : null, device.dialect);
  const taken = places.some((cell) => spans.some(({ from, to }) => from < (cell + cells) * area.cellBits && to > cell * area.cellBits));
  const noun = made.ok && made.value.kind === 'structure' ? (made.value.isNew ? 'array' : 'block') : 'tag';
  const findFree = (): void => {
    const start = chosen ? chosen.to * area.cellBits : 0;
    const bits = reach * area.cellBits;
    const free = nextFree(spans, bits, area.cellBits, start, area.cells * area.cellBits);
    if (free === null) toast.error('No place behind it is large enough.');
    else onChoose({ from: free / area.cellBits, to: (free + bits) / area.cellBits });
  };
  const make = (event: FormEvent): void => {
    event.preventDefault();
    if (!chosen || !made.ok || name.trim() === '') return;
    const changes = makingChanges(made.value, namesFrom(name.trim(), wanted), places.map(addressOf), on);
    if (!changes.ok) {
      setProblem(`${changes.problem.message} ${changes.problem.remedy ?? ''}`);
      return;
    }
    void change(`${counted(wanted, noun)} made at ${addressOf(chosen.from)}`, changes.value).then((done) => {
      if (!done.ok) return;
      setName('');
      onChoose({ from: chosen.from + reach, to: chosen.from + reach + 1 });
    });
  };
  const refused = made.ok ? problem : `${made.problem.message} ${made.problem.remedy ?? ''}`;
  return (
    <>
      <form className="card-flat flex items-center gap-2 px-3 py-2 text-[13px]" aria-label="Make tags" onSubmit={make}>
        {chosen ? (
          <strong className="num">
            {addressOf(chosen.from)}
            {chosen.to - chosen.from > 1 ? ` … ${addressOf(chosen.to - 1)}` : ''}
          </strong>
        ) : (
          <span className="quiet">Choose a cell; Shift reaches further.</span>
        )}
        <input aria-label="Name" className="input input-sm w-36" placeholder="name_1" value={name} onChange={(e) => setName(e.target.value)} />
        <input
          aria-label="Type"
          title="A type, an array such as INT[8], or a structure"
          className="input input-sm num w-36"
          list="memory-types"
          value={typeText}
          onChange={(e) => {
            setTypeText(e.target.value);
            setProblem('');
          }}
        />
        <datalist id="memory-types">
          {[...structures.map((structure) => structure.name), ...DATA_TYPE_NAMES, ...LAID_OUT_NAMES].map((known) => (
            <option key={known} value={known} />
          ))}
        </datalist>
        {area.cellBits > 1 ? (
          <button
            type="button"
            className="btn btn-sm btn-ghost"
            title="Members that lie together, said once for all blocks"
            onClick={() => setNaming(true)}
          >
            New structure
          </button>
        ) : null}
        <label className="flex items-center gap-1">
          <input
            aria-label="Count"
            type="number"
            min={1}
            max={MOST}
            className="input input-sm num w-16"
            value={count}
            onChange={(e) => setCount(e.target.value)}
          />{' '}
          of them
        </label>
        {wanted > 1 ? (
          <label className="flex items-center gap-1">
            every
            <input
              aria-label="Cells from one to the next"
              className="input input-sm num w-14"
              inputMode="numeric"
              placeholder={String(cells)}
              value={stepText}
              onChange={(e) => setStepText(e.target.value)}
            />
          </label>
        ) : null}
        <span className="num quiet min-w-0 flex-1 truncate" title={refused || places.map(addressOf).join(', ')}>
          {refused ? <span className="is-bad font-sans">{refused}</span> : places.slice(0, 12).map(addressOf).join(', ')}
        </span>
        {taken ? <span className="is-look">not free</span> : null}
        <button type="button" className="btn btn-sm btn-outline" disabled={!made.ok} onClick={findFree}>
          Next free place
        </button>
        <button type="submit" className="btn btn-sm btn-primary" disabled={!chosen || !made.ok || name.trim() === ''}>
          Make {counted(wanted, noun)}
        </button>
      </form>
      {isNaming ? (
        <NewStructure
          device={device}
          driver={driver}
          onClose={(madeName) => {
            setNaming(false);
            if (madeName !== null) setTypeText(madeName);
          }}
        />
      ) : null}
    </>
  );
}
