'use client';
/** Structures and enumerations of controllers' programs: what is said of a type holds for all tags of it. */
import { useState } from 'react';
import { useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { EnumerationNames } from './EnumerationNames.tsx';
import { StructureMembers } from './StructureMembers.tsx';

export function TypesDialog({ onClose }: { readonly onClose: () => void }) {
  const project = useProject();
  const [chosen, setChosen] = useState<string | null>(null);
  const { structures, enumerations } = project;
  const enumeration = enumerations.find(({ id }) => id === chosen) ?? (structures.length === 0 ? enumerations[0] : undefined);
  const structure = enumeration ? undefined : (structures.find(({ id }) => id === chosen) ?? structures[0]);
  const options = (types: readonly { readonly id: string; readonly name: string; readonly deviceId: string }[]) =>
    types.map(({ id, name, deviceId }) => (
      <option key={id} value={id}>
        {name} of {project.device(deviceId)?.name}
      </option>
    ));
  return (
    <Dialog title="Structures and enumerations" onClose={onClose} wide>
      <p className="quiet mb-3">
        What is said of a type holds for every tag of it, unless a tag says something else itself. Lists bring types along.
      </p>
      {structure || enumeration ? (
        <select
          aria-label="Type"
          className="select select-sm mb-2 w-80"
          value={(structure ?? enumeration)?.id}
          onChange={(e) => setChosen(e.target.value)}
        >
          {structures.length > 0 ? <optgroup label="Structures">{options(structures)}</optgroup> : null}
          {enumerations.length > 0 ? <optgroup label="Enumerations">{options(enumerations)}</optgroup> : null}
        </select>
      ) : (
        <p className="quiet py-6 text-center">
          No types yet. Ask a controller for its tags, or import a list of its program: its structures and enumerations come with them.
        </p>
      )}
      {structure ? <StructureMembers key={structure.id} structure={structure} /> : null}
      {enumeration ? <EnumerationNames key={enumeration.id} enumeration={enumeration} /> : null}
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
