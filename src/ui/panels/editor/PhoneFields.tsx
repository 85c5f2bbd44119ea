'use client';
/** How an element stands on a phone: an arrangement of its own of the same elements. */
import { ELEMENTS } from '@/core/panel/kinds.ts';
import type { OnPhone } from '@/core/project/kinds/element.ts';
import type { Element } from '@/core/project/entities.ts';
import { NumberField } from './NumberField.tsx';
import type { Edit } from './useEdit.ts';

const WIDTHS: Readonly<Record<OnPhone['width'], string>> = { auto: 'as usual', half: 'half the width', full: 'the whole width', hidden: 'left out' };

export function PhoneFields({ element, edit }: { readonly element: Element; readonly edit: Edit }) {
  const { phone, kind } = element;
  const set = (part: Partial<OnPhone>): void => edit.set('element on phones changed', { phone: { ...phone, ...part } }, [element]);
  return (
    <div className="grid grid-cols-2 gap-2">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        Width there
        <select className="select select-sm" value={phone.width} onChange={(e) => set({ width: e.target.value as OnPhone['width'] })}>
          {(Object.keys(WIDTHS) as OnPhone['width'][]).map((width) => (
            <option key={width} value={width}>
              {width === 'auto' ? `as usual: ${WIDTHS[ELEMENTS[kind].phone]}` : WIDTHS[width]}
            </option>
          ))}
        </select>
      </label>
      <NumberField
        label="Place there"
        help="Empty: where it stands on the page, read line by line"
        value={phone.place}
        min={0}
        max={10_000}
        onKeep={(place) => set({ place: place ?? null })}
      />
    </div>
  );
}
