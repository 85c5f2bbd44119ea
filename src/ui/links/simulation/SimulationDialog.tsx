'use client';
/** Desk work: a device is simulated while the machine is not there, and what its tags do meanwhile. */
import { Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { Device, Simulation, Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { useTagView } from '../../live/liveHooks.ts';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { BehaviourForm } from './BehaviourForm.tsx';
import { behaviourInWords } from './behaviourInWords.ts';

export function SimulationDialog({ device, onClose }: { readonly device: Device; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [chosen, setChosen] = useState<Tag | null>(null);
  const isOwn = (tag: Tag): boolean => deviceIdOf(tag) === device.id || tag.source.kind === 'local';
  const told = project.simulations.flatMap((simulation) => {
    const tag = project.tag(simulation.id);
    return tag && isOwn(tag) ? [{ simulation, tag }] : [];
  });
  const turn = (): Promise<unknown> =>
    change(device.isSimulated ? `${device.name} is the machine's again` : `${device.name} is simulated`, [
      { kind: 'device', id: device.id, set: { isSimulated: !device.isSimulated } },
    ]);
  return (
    <Dialog title={`${device.name} without the machine`} onClose={onClose} wide>
      <div className="mb-3 flex items-center gap-3">
        <span className={device.isSimulated ? 'is-look' : ''} data-simulated={device.isSimulated || undefined}>
          {device.isSimulated ? '◆ It is simulated: nothing goes to the machine.' : '○ It is the machine’s.'}
        </span>
        <span className="flex-1" />
        <button type="button" className="btn btn-sm btn-primary" onClick={() => void turn()}>
          {device.isSimulated ? 'Back to the machine' : 'Simulate it'}
        </button>
      </div>
      <p className="quiet mb-3">
        Simulated, what is only read moves over its range, and what can be written holds what is written. A tag may have a behaviour of its own, which
        a bit may start and pause; a local tag follows its own in any case.
      </p>
      <div className="mb-3 flex items-end gap-3">
        <div className="flex-1">
          <p className="mb-1 text-[13px] font-semibold">Give a tag a behaviour</p>
          <TagPicker label="Give a tag a behaviour" value={chosen?.id ?? null} only={isOwn} onPick={setChosen} />
        </div>
      </div>
      {chosen ? <BehaviourForm key={chosen.id} tag={chosen} simulation={project.simulation(chosen.id)} onDone={() => setChosen(null)} /> : null}
      {told.length === 0 ? (
        <p className="quiet">No tag of it has a behaviour of its own yet.</p>
      ) : (
        <table className="w-full table-fixed text-[13px]">
          <thead>
            <tr className="quiet text-left">
              <th className="w-44 font-semibold">Tag</th>
              <th className="font-semibold">What it does</th>
              <th className="w-36 font-semibold">Runs while</th>
              <th className="w-28 text-right font-semibold">Now</th>
              <th className="w-20" />
            </tr>
          </thead>
          <tbody>
            {told.map(({ simulation, tag }) => (
              <Row key={tag.id} simulation={simulation} tag={tag} onEdit={() => setChosen(tag)} />
            ))}
          </tbody>
        </table>
      )}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

function Row({ simulation, tag, onEdit }: { readonly simulation: Simulation; readonly tag: Tag; readonly onEdit: () => void }) {
  const project = useProject();
  const change = useChange();
  const view = useTagView(tag.id);
  const runs = simulation.runTagId === null ? null : project.tag(simulation.runTagId);
  return (
    <tr className="border-base-300 h-9 border-t" data-behaviour={tag.name}>
      <td className="truncate font-medium" title={project.pathOf(tag)}>
        {tag.name}
      </td>
      <td className="truncate" title={behaviourInWords(project, simulation.behaviour)}>
        {behaviourInWords(project, simulation.behaviour)}
      </td>
      <td className="truncate">{simulation.runTagId === null ? 'always' : (runs?.name ?? 'a tag that is gone')}</td>
      <td className="num truncate text-right">{view && view.level !== 'bad' ? (view.sample?.text ?? '–') : '–'}</td>
      <td className="text-right whitespace-nowrap">
        <button type="button" className="btn btn-xs btn-ghost" aria-label={`Change what ${tag.name} does`} onClick={onEdit}>
          <Pencil size={14} aria-hidden />
        </button>
        <button
          type="button"
          className="btn btn-xs btn-ghost"
          aria-label={`Remove what ${tag.name} does`}
          onClick={() => void change(`${tag.name} does as others`, [{ kind: 'simulation', id: tag.id, set: null }])}
        >
          <Trash2 size={14} aria-hidden />
        </button>
      </td>
    </tr>
  );
}
