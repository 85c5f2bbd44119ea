'use client';
/** Settings of what is chosen on the page: a field for each setting of its kind; each is kept when its field is left. */
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import type { Action } from '@/core/panel/actions.ts';
import type { Bound, Live } from '@/core/panel/bound.ts';
import { conditionsOf } from '@/core/panel/conditions.ts';
import { COMMON } from '@/core/panel/elementKind.ts';
import { ELEMENTS } from '@/core/panel/kinds.ts';
import type { Point, Setting } from '@/core/panel/setting.ts';
import type { State } from '@/core/panel/states.ts';
import { SYMBOLS } from '@/core/panel/symbols.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { unitsLike } from '@/core/units/unitsLike.ts';
import type { Change } from '@/core/project/command.ts';
import type { Element, Page } from '@/core/project/entities.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { selectTag } from '../../live/selection.ts';
import { Fold } from '../../parts/Fold.tsx';
import { keptField } from '../../parts/keptField.ts';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { ActionsField } from './ActionsField.tsx';
import { BoundField } from './BoundField.tsx';
import { suits } from './fitting.ts';
import { localTag } from './localTag.ts';
import { widthOf } from '../PageView.tsx';
import { firstSettings } from './firstSettings.ts';
import { NumberField } from './NumberField.tsx';
import { PictureField } from './PictureField.tsx';
import { PhoneFields } from './PhoneFields.tsx';
import { PlaceFields } from './PlaceFields.tsx';
import { PointsField } from './PointsField.tsx';
import { StateListField } from './StateListField.tsx';
import { StatesField } from './StatesField.tsx';
import { TagsField } from './TagsField.tsx';
import { TemplateField } from './TemplateField.tsx';
import type { Edit } from './useEdit.ts';

interface ElementFormProps {
  readonly element: Element;
  readonly pages: readonly Page[];
  readonly edit: Edit;
}

export function ElementForm({ element, pages, edit }: ElementFormProps) {
  const project = useProject();
  const { name: kindName, takes, settings } = ELEMENTS[element.kind];
  const tag = element.tagId === null ? null : project.tag(element.tagId);
  const name = element.label || tag?.name || kindName;
  const own = Object.entries(settings).filter(([key]) => !(key in COMMON));
  const keep = (key: string, label: string) => (value: unknown) =>
    edit.setting(`${label.toLowerCase()} of ${name} changed`, { [key]: value }, [element]);
  return (
    <div role="group" aria-label={`Settings of ${name}`} className="flex flex-col gap-2.5">
      <strong>{kindName}</strong>
      {takes === 'none' ? null : (
        <div className="flex items-end gap-1">
          <label className="flex flex-1 flex-col gap-0.5 text-xs font-semibold">
            Tag
            <TagField element={element} name={name} />
          </label>
        </div>
      )}
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        Label
        <input
          key={element.label}
          className="input input-sm"
          placeholder={tag?.name ?? ''}
          maxLength={400}
          {...keptField(element.label, (label) => edit.set(`label of ${name} changed`, { label }, [element]))}
        />
      </label>
      {own.map(([key, setting]) => (
        <SettingField key={key} name={key} setting={setting} element={element} pages={pages} onKeep={keep(key, setting.label)} />
      ))}
      <Fold
        title="Conditions"
        summary={
          conditionsOf(element)
            .map((condition) => condition.name)
            .join(', ') || 'none'
        }
      >
        <div className="flex flex-col gap-2">
          {Object.entries(COMMON).map(([key, setting]) => (
            <SettingField key={key} name={key} setting={setting} element={element} pages={pages} onKeep={keep(key, setting.label)} />
          ))}
        </div>
      </Fold>
      <Fold title="Place and size" summary={`${element.x}, ${element.y} · ${element.w} × ${element.h}`}>
        <PlaceFields element={element} edit={edit} />
      </Fold>
      <Fold title="On a phone" summary={widthOf(element)}>
        <PhoneFields element={element} edit={edit} />
      </Fold>
    </div>
  );
}

/** Type-ahead over tags; a name that is none makes a tag that lives here, to be given an address in Map. */
function TagField({ element, name }: { readonly element: Element; readonly name: string }) {
  const project = useProject();
  const change = useChange();
  const { takes } = ELEMENTS[element.kind];
  const put = (tagId: string, before: readonly Change[] = []): void => {
    const next = project.tag(tagId);
    // What a button does when it is put there goes by its tag, until somebody says what it does.
    const isUntouched = sameJson(element.settings, firstSettings(element.kind, project.tag(element.tagId ?? '')));
    const set = { tagId, ...(isUntouched && next ? { settings: firstSettings(element.kind, next) } : {}) };
    void change(`tag of ${name} changed`, [...before, { kind: 'element', id: element.id, set }]);
    selectTag(tagId);
  };
  return (
    <TagPicker
      value={element.tagId}
      label="Tag of the element"
      onPick={(tag) => (suits(element.kind, tag) ? put(tag.id) : toast.error(`${tag.name} is a ${tag.type}; this shows ${TAKES[takes]}.`))}
      onNew={(typed) => {
        const id = uuid();
        put(id, [{ kind: 'tag', id, set: localTag(typed, takes === 'state' ? 'BOOL' : 'REAL') }]);
      }}
    />
  );
}

const TAKES = { number: 'numbers', state: 'on and off', any: 'any value', none: 'no value' } as const;

interface SettingFieldProps {
  readonly name: string;
  readonly setting: Setting<unknown>;
  readonly element: Element;
  readonly pages: readonly Page[];
  /** Undefined is what nobody says. */
  readonly onKeep: (value: unknown) => void;
}

function SettingField({ name, setting, element, pages, onKeep }: SettingFieldProps) {
  const project = useProject();
  const { label, help, control, unsaid } = setting;
  const said = element.settings[name];
  const value = said ?? unsaid;
  const keep = (next: unknown): void => onKeep(next === unsaid || next === '' ? undefined : next);
  const box = (field: React.ReactNode) => (
    <label className="flex flex-col gap-0.5 text-xs font-semibold">
      {label}
      {field}
    </label>
  );
  switch (control.kind) {
    case 'text':
      return box(<input key={String(value)} className="input input-sm" title={help} maxLength={control.max} {...keptField(String(value), keep)} />);
    case 'template':
      return <TemplateField label={label} help={help} template={String(value)} onKeep={keep} />;
    case 'number':
      return <NumberField label={label} help={help} value={value as number | null} min={control.min} max={control.max} onKeep={keep} />;
    case 'live':
      return (
        <BoundField
          label={`${label}${unitOf(project.tag(element.tagId ?? '')?.unit)}`}
          help={help}
          value={value as Live<number> | null}
          takesNumber
          wanted="number"
          onKeep={(next) => onKeep(next ?? undefined)}
        />
      );
    case 'condition':
    case 'expression':
      return (
        <BoundField
          label={label}
          help={help}
          value={value as Bound | null}
          takesNumber={false}
          wanted={control.kind === 'condition' ? 'boolean' : null}
          onKeep={(next) => onKeep(next ?? undefined)}
        />
      );
    case 'choice':
      return box(
        <select className="select select-sm" value={String(value)} onChange={(e) => keep(e.target.value)}>
          {Object.entries(control.choices).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>,
      );
    case 'symbol':
      return box(
        <select className="select select-sm" value={String(value)} onChange={(e) => keep(e.target.value)}>
          {Object.entries(SYMBOLS).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>,
      );
    case 'flag':
      return (
        <label className="flex items-center gap-2 text-xs font-semibold">
          <input type="checkbox" className="checkbox checkbox-sm" checked={value === true} onChange={(e) => keep(e.target.checked)} />
          {label}
        </label>
      );
    case 'unit': {
      const own = project.tag(element.tagId ?? '')?.unit ?? '';
      if (own === '' && element.settings.of === undefined) return null;
      const units = own === '' ? [] : [...new Set([own, ...unitsLike(own)])];
      return box(
        own === '' ? (
          <input key={String(value)} className="input input-sm" maxLength={20} {...keptField(String(value), keep)} />
        ) : (
          <select className="select select-sm" value={String(value)} onChange={(e) => keep(e.target.value)}>
            <option value="">as the panel has it</option>
            {units.map((unit) => (
              <option key={unit} value={unit}>
                {unit}
              </option>
            ))}
          </select>
        ),
      );
    }
    case 'states':
      return typeof element.settings.stateListId === 'string' ? null : (
        <StatesField
          states={value as readonly State[]}
          shows={element.kind === 'symbol' || element.kind === 'picture' ? [element.kind] : []}
          onKeep={(next) => onKeep(next.length === 0 ? undefined : next)}
        />
      );
    case 'picture':
      return <PictureField label={label} value={value as string | null} onKeep={onKeep} />;
    case 'stateList':
      return <StateListField element={element} value={value as string | null} onKeep={onKeep} />;
    case 'actions':
      return <ActionsField element={element} actions={value as readonly Action[]} pages={pages} onKeep={onKeep} />;
    case 'points':
      return <PointsField label={label} help={help} points={value as readonly Point[]} onKeep={onKeep} />;
    case 'tags':
      return <TagsField label={label} ids={value as readonly string[]} onKeep={(next) => onKeep(next.length === 0 ? undefined : next)} />;
  }
}

const unitOf = (unit: string | undefined): string => (unit ? `, ${unit}` : '');
