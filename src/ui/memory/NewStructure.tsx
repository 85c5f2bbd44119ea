'use client';
/** A structure made by hand: its members one a line, each with the place that it will have in every block. */
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import type { Device, Structure } from '@/core/project/entities.ts';
import { placedLeaves, structurePlaces } from '@/core/project/structurePlaces.ts';
import type { DriverDescription } from '@/drivers/contract.ts';
import { layoutOn } from '@/mapping/blockAddresses.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { membersIn, structuresNamedIn } from '../map/making.ts';

const SHOWN = 40;
const EXAMPLE = 'gap_sp\tUINT\tmm\ngap_act\tUINT\tmm\ncurrent\tREAL\tA\nrunning\tBOOL';

export function NewStructure({
  device,
  driver,
  onClose,
}: {
  readonly device: Device;
  readonly driver: DriverDescription;
  /** @param made its name, null where none was made */
  readonly onClose: (made: string | null) => void;
}) {
  const project = useProject();
  const change = useChange();
  const [name, setName] = useState('');
  const [text, setText] = useState('');
  const [refused, setRefused] = useState('');
  const structures = project.structures.filter(({ deviceId }) => deviceId === device.id);
  const members = membersIn(text, structures);
  const draft: Structure = { id: '', name: name.trim() || 'New', deviceId: device.id, members: members.ok ? members.value : [] };
  const named = structuresNamedIn([...structures, draft]);
  const layout = layoutOn(driver, device.dialect);
  const leaves = placedLeaves(draft, named, layout);
  const { bits } = structurePlaces(draft, named, layout);
  const make = async (): Promise<void> => {
    const done = await change(
      `structure ${draft.name} made`,
      [{ kind: 'structure', id: uuid(), set: { name: draft.name, deviceId: device.id, members: draft.members } }],
      { quiet: true },
    );
    if (done.ok) onClose(draft.name);
    else setRefused(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  return (
    <Dialog title={`New structure of ${device.name}`} onClose={() => onClose(null)} wide>
      <div className="grid grid-cols-[1.2fr_1fr] gap-4">
        <div className="flex flex-col gap-2">
          <Field label="Name">
            {(ids) => (
              <input
                {...ids}
                autoFocus
                className="input input-sm w-full"
                maxLength={80}
                placeholder="Stand"
                value={name}
                onChange={(e) => setName(e.target.value)}
              />
            )}
          </Field>
          <Field
            label="Members"
            help="One a line: name, type, unit. An array is name[4]; a type may be another structure. Cells of a spreadsheet can be pasted."
          >
            {(ids) => (
              <textarea
                {...ids}
                className="textarea num h-56 w-full text-[13px]"
                placeholder={EXAMPLE}
                value={text}
                onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
                onChange={(e) => {
                  setText(e.target.value);
                  setRefused('');
                }}
              />
            )}
          </Field>
        </div>
        <div>
          <p className="text-[13px] font-semibold">In every block</p>
          {text.trim() !== '' && !members.ok ? (
            <p className="is-bad text-[13px]" role="alert">
              {members.problem.message} {members.problem.remedy}
            </p>
          ) : null}
          <div role="table" aria-label="Places of members" className="max-h-64 overflow-auto text-[13px]">
            {leaves.slice(0, SHOWN).map(({ path, member, atBit }) => (
              <div role="row" key={path} className="border-base-300 grid min-h-7 grid-cols-[5rem_1fr_6rem] items-center border-b">
                <span role="cell" className="num quiet">
                  {atBit === null ? '–' : placeText(atBit, member.type === 'BOOL')}
                </span>
                <span role="cell" className="truncate">
                  {path}
                </span>
                <span role="cell" className="num truncate">
                  {member.type}
                </span>
              </div>
            ))}
            {leaves.length > SHOWN ? <p className="quiet">and {leaves.length - SHOWN} more</p> : null}
          </div>
          {bits === null || leaves.length === 0 ? null : <p className="quiet mt-1 text-[13px]">{Math.ceil(bits / 16)} words each.</p>}
        </div>
      </div>
      <div className="mt-4 flex items-center justify-end gap-2">
        <p className="is-bad flex-1 text-[13px]" role="alert">
          {refused}
        </p>
        <button type="button" className="btn btn-sm btn-ghost" onClick={() => onClose(null)}>
          Cancel
        </button>
        <button type="button" className="btn btn-sm btn-primary" disabled={name.trim() === '' || !members.ok} onClick={() => void make()}>
          Make structure
        </button>
      </div>
    </Dialog>
  );
}

function placeText(atBit: number, isBit: boolean): string {
  const [word, bit] = [Math.floor(atBit / 16), atBit % 16];
  return `word ${word}${isBit && bit > 0 ? `.${bit}` : bit === 8 ? ', 2nd byte' : ''}`;
}
