'use client';
/** Settings of the element that is selected on the page; each is kept when its field is left. */
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { endsOf } from '@/core/panel/shownOn.ts';
import { unitsLike } from '@/core/units/unitLine.ts';
import { barEnds, BUTTON_ACTIONS, ELEMENT_WORDS, type ButtonAction, type ElementSettings } from '@/core/panel/element.ts';
import { PAGE_COLUMNS } from '@/core/project/kinds/element.ts';
import type { Element } from '@/core/project/entities.ts';
import { useChange, useProject, useStep } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { TagPicker } from '../parts/TagPicker.tsx';

const ACTION_WORDS: Readonly<Record<ButtonAction, string>> = {
  toggle: 'toggle',
  set: 'set to on',
  reset: 'set to off',
  write: 'write a value',
  hold: 'on while held',
};

export function ElementForm({ element }: { readonly element: Element }) {
  const change = useChange();
  const step = useStep();
  const project = useProject();
  const oldName = element.tagId === null ? '' : project.tag(element.tagId)?.name;
  const tag = element.tagId === null ? null : project.tag(element.tagId);
  const isState = tag === null || tag.type === 'BOOL';
  const units = tag && tag.unit !== '' ? [...new Set([tag.unit, ...unitsLike(tag.unit)])] : [];
  const effective = tag ? project.effective(tag.id) : null;
  const unit = tag?.unit ? `, ${tag.unit}` : '';
  const ends = barEnds({}, effective?.ok ? endsOf(effective.value.def) : null);
  const name = element.label || ELEMENT_WORDS[element.kind].name;
  const set = (what: string, fields: Partial<Element>): void =>
    void change(`${what} of ${name} changed`, [{ kind: 'element', id: element.id, set: { ...fields } }]);
  const setting = (what: string, part: ElementSettings): void => set(what, { settings: { ...element.settings, ...part } });
  const remove = async (): Promise<void> => {
    const done = await change(`${name} removed from its page`, [{ kind: 'element', id: element.id, set: null }]);
    if (done.ok) toast(`${name} removed`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  return (
    <div role="group" aria-label={`Settings of ${name}`} className="card-flat flex flex-wrap items-end gap-3 p-3">
      <strong className="self-center">{ELEMENT_WORDS[element.kind].name}</strong>
      <TagPicker
        value={element.tagId}
        label="Tag of the element"
        onPick={(tag) => {
          set('tag', { tagId: tag.id, ...(element.label === '' || element.label === oldName ? { label: tag.name } : {}) });
          selectTag(tag.id);
        }}
      />
      <TextSetting
        key={`label ${element.id} ${element.label}`}
        label="Label"
        value={element.label}
        wide
        onKeep={(label) => set('label', { label })}
      />
      {element.kind === 'bar' ? (
        <>
          <EndSetting
            key={`low ${element.id} ${element.settings.low}`}
            label={`From${unit}`}
            value={element.settings.low ?? null}
            ofTag={ends.low}
            onKeep={(low) => setting('low end', { low })}
          />
          <EndSetting
            key={`high ${element.id} ${element.settings.high}`}
            label={`To${unit}`}
            value={element.settings.high ?? null}
            ofTag={ends.high}
            onKeep={(high) => setting('high end', { high })}
          />
        </>
      ) : null}
      {units.length > 0 && element.kind !== 'lamp' && element.kind !== 'button' ? (
        <label className="flex flex-col gap-1 text-xs font-semibold">
          Shown in
          <select className="select select-sm w-40" value={element.settings.unit ?? ''} onChange={(e) => setting('unit', { unit: e.target.value })}>
            <option value="">as the panel has it</option>
            {units.map((unit) => (
              <option key={unit} value={unit}>
                {unit}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      {element.kind === 'lamp' || element.kind === 'button' ? (
        <>
          <TextSetting
            key={`on ${element.id}`}
            label="Text for on"
            value={element.settings.onText ?? ''}
            onKeep={(onText) => setting('text', { onText })}
          />
          <TextSetting
            key={`off ${element.id}`}
            label="Text for off"
            value={element.settings.offText ?? ''}
            onKeep={(offText) => setting('text', { offText })}
          />
        </>
      ) : null}
      {element.kind === 'button' ? (
        <label className="flex flex-col gap-1 text-xs font-semibold">
          Does
          <select
            className="select select-sm w-36"
            value={element.settings.action ?? 'toggle'}
            onChange={(e) => setting('action', { action: e.target.value as ButtonAction })}
          >
            {BUTTON_ACTIONS.filter((action) => isState || action === 'write').map((action) => (
              <option key={action} value={action}>
                {ACTION_WORDS[action]}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      {element.kind === 'button' && element.settings.action === 'write' ? (
        <TextSetting
          key={`value ${element.id}`}
          label={`Value to write${unit}`}
          value={element.settings.value ?? ''}
          onKeep={(value) => setting('value', { value })}
        />
      ) : null}
      {element.kind === 'button' && element.settings.action === 'hold' ? (
        <p className="quiet w-full text-xs">
          On only while it is held: the server lets go within half a second when the page, the browser or the network goes away. It is no safety
          function. Give the controller a watchdog of its own.
        </p>
      ) : null}
      {(['x', 'y', 'w', 'h'] as const).map((key) => (
        <NumberSetting
          key={`${key} ${element.id} ${element[key]}`}
          label={{ x: 'Column', y: 'Row', w: 'Wide', h: 'High' }[key]}
          value={element[key]}
          onKeep={(value) => {
            const next = { ...element, [key]: value };
            if (next.x + next.w > PAGE_COLUMNS) toast.error(`A page has ${PAGE_COLUMNS} columns.`);
            else set('place', { [key]: value });
          }}
        />
      ))}
      <button type="button" className="btn btn-sm btn-ghost ml-auto" onClick={() => void remove()}>
        <Trash2 size={14} aria-hidden /> Remove
      </button>
    </div>
  );
}

function TextSetting({
  label,
  value,
  onKeep,
  wide = false,
}: {
  readonly label: string;
  readonly value: string;
  readonly onKeep: (value: string) => void;
  readonly wide?: boolean;
}) {
  const [text, setText] = useState(value);
  return (
    <label className="flex flex-col gap-1 text-xs font-semibold">
      {label}
      <input
        className={`input input-sm ${wide ? 'w-44' : 'w-28'}`}
        value={text}
        maxLength={40}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text.trim() !== value && onKeep(text.trim())}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    </label>
  );
}

interface EndSettingProps {
  readonly label: string;
  /** Null where the tag says it. */
  readonly value: number | null;
  readonly ofTag: number;
  readonly onKeep: (value: number | null) => void;
}

/** An end of a bar; empty for that of the tag. */
function EndSetting({ label, value, ofTag, onKeep }: EndSettingProps) {
  const [text, setText] = useState(value === null ? '' : String(value));
  const number = text.trim() === '' ? null : Number(text);
  const isNumber = number === null || Number.isFinite(number);
  return (
    <label className="flex flex-col gap-1 text-xs font-semibold">
      {label}
      <input
        className={`input input-sm num w-20 ${isNumber ? '' : 'input-error'}`}
        inputMode="decimal"
        placeholder={String(ofTag)}
        title="Empty: as the tag says"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (!isNumber) setText(value === null ? '' : String(value));
          else if (number !== value) onKeep(number);
        }}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    </label>
  );
}

function NumberSetting({ label, value, onKeep }: { readonly label: string; readonly value: number; readonly onKeep: (value: number) => void }) {
  const [text, setText] = useState(String(value));
  const number = text.trim() === '' ? NaN : Number(text);
  return (
    <label className="flex flex-col gap-1 text-xs font-semibold">
      {label}
      <input
        className={`input input-sm num w-16 ${Number.isFinite(number) ? '' : 'input-error'}`}
        inputMode="decimal"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (Number.isFinite(number) && number !== value) onKeep(number);
          else setText(String(value));
        }}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    </label>
  );
}
