'use client';
/** Place and size in pixels of the panel. */
import { FARTHEST_PX } from '@/core/panel/sizes.ts';
import type { Element } from '@/core/project/entities.ts';
import { NumberField } from './NumberField.tsx';
import type { Edit } from './useEdit.ts';

const FIELDS = { x: 'From the left', y: 'From the top', w: 'Width', h: 'Height' } as const;

export function PlaceFields({ element, edit }: { readonly element: Element; readonly edit: Edit }) {
  return (
    <div className="grid grid-cols-2 gap-2">
      {(['x', 'y', 'w', 'h'] as const).map((key) => (
        <NumberField
          key={key}
          label={FIELDS[key]}
          value={element[key]}
          min={key === 'w' || key === 'h' ? 1 : -FARTHEST_PX}
          max={FARTHEST_PX}
          onKeep={(value) => value !== undefined && edit.set('element placed', { [key]: value }, [element])}
        />
      ))}
      <label className="col-span-2 flex items-center gap-2 text-xs font-semibold">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={element.isLocked}
          onChange={(e) => edit.set(e.target.checked ? 'element locked' : 'element unlocked', { isLocked: e.target.checked }, [element])}
        />
        Locked where it is
      </label>
    </div>
  );
}
