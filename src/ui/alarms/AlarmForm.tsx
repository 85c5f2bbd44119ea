'use client';
/** Makes an alarm, or changes one. What does not fit is told before it is kept. */
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { CONDITION_KINDS, CONDITION_WORDS, type AlarmCondition, type ConditionKind } from '@/core/alarm/condition.ts';
import { isBound, textParts } from '@/core/panel/bound.ts';
import { LIMIT_KEYS, LIMIT_WORDS, type LimitKey } from '@/core/ranges/limits.ts';
import { PRIORITIES, type Priority } from '@/core/project/kinds/priorities.ts';
import { ENTITY_DEFAULTS, type Alarm, type Tag } from '@/core/project/entities.ts';
import { alarmMade } from '@/mapping/alarms/alarmMade.ts';
import { sceneTagOf } from '@/mapping/panels/sceneOf.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
import { BoundField } from '../panels/editor/BoundField.tsx';
import { NumberField } from '../panels/editor/NumberField.tsx';
import { TemplateField } from '../panels/editor/TemplateField.tsx';
import { TagPicker } from '../parts/TagPicker.tsx';

/** As one begins: raised by its tag. */
export function newAlarm(tag: Tag | null, project: ProjectView): Alarm {
  const defaults = ENTITY_DEFAULTS.alarm as Omit<Alarm, 'id' | 'tagId' | 'settings'>;
  return { ...defaults, id: uuid(), tagId: tag?.id ?? null, settings: { template: '', condition: firstCondition(tag, project), suppressed: null } };
}

function firstCondition(tag: Tag | null, project: ProjectView): AlarmCondition {
  const signal = tag ? project.effective(tag.id) : null;
  const isState = !signal?.ok || signal.value.def.type.kind === 'boolean';
  return isState ? { kind: 'bit', isOn: true } : { kind: 'limit', side: 'above', limit: 0, hysteresis: 0 };
}

const FIRST: Readonly<Record<ConditionKind, AlarmCondition>> = {
  bit: { kind: 'bit', isOn: true },
  limit: { kind: 'limit', side: 'above', limit: 0, hysteresis: 0 },
  ofTag: { kind: 'ofTag', key: 'high' },
  noValue: { kind: 'noValue' },
  formula: { kind: 'formula', holds: { by: '' } },
};

export function AlarmForm({ alarm, onClose }: { readonly alarm: Alarm | null; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [draft, setDraft] = useState<Alarm>(() => alarm ?? newAlarm(null, project));
  const [refused, setRefused] = useState('');
  const set = (next: Partial<Alarm>): void => {
    setDraft({ ...draft, ...next });
    setRefused('');
  };
  const { settings, tagId } = draft;
  const { condition, template } = settings;
  const setCondition = (next: AlarmCondition): void => set({ settings: { ...settings, condition: next } });
  const isFormula = condition.kind === 'formula';
  const unit = tagId === null ? '' : (project.tag(tagId)?.unit ?? '');
  const isComplete = template.trim() !== '' && (isFormula ? condition.holds.by !== '' : tagId !== null);
  const problem = isComplete ? alarmMade(draft, (id) => sceneTagOf(project, id)).problem : '';
  const groups = [...new Set(project.alarms.flatMap(({ group }) => group || []))].sort();
  const keep = async (): Promise<void> => {
    const { id, ...fields } = draft;
    const said = textParts(template)
      .map(({ text, by }) => (by === null ? text : '…'))
      .join('');
    const done = await change(`alarm “${said.slice(0, 60)}” ${alarm ? 'changed' : 'made'}`, [
      { kind: 'alarm', id, set: { ...fields, group: draft.group.trim(), tagId: isFormula ? null : tagId } },
    ]);
    if (done.ok) onClose();
    else setRefused(`${done.problem.message} ${done.problem.remedy ?? ''}`.trim());
  };
  return (
    <section aria-label={alarm ? 'Change the alarm' : 'New alarm'} className="card-flat flex flex-col gap-3 p-3">
      <div className="grid grid-cols-[1.4fr_1.2fr_1fr] items-start gap-4">
        <div className="flex flex-col gap-3">
          <TemplateField
            label="Text"
            help="Values stand in braces, as they were when it came: Bed at {bed_temp}"
            template={template}
            onKeep={(next) => set({ settings: { ...settings, template: next } })}
          />
          <Line label="What to do" value={draft.advice} max={400} onValue={(advice) => set({ advice })} />
        </div>
        <div className="flex flex-col gap-3">
          <Choice
            label="Raised by"
            value={condition.kind}
            choices={CONDITION_KINDS.map((kind) => [kind, CONDITION_WORDS[kind]])}
            onPick={(kind) => setCondition(FIRST[kind as ConditionKind])}
          />
          {isFormula ? null : (
            <div>
              <p className="mb-1 text-xs font-semibold">Tag</p>
              <TagPicker
                label="Tag of the alarm"
                value={tagId}
                onPick={(tag) =>
                  set({
                    tagId: tag.id,
                    settings: tagId === null && condition.kind === 'bit' ? { ...settings, condition: firstCondition(tag, project) } : settings,
                  })
                }
              />
            </div>
          )}
          <Condition condition={condition} unit={unit} onCondition={setCondition} />
          <div className="grid grid-cols-2 gap-2">
            <NumberField label="Comes after, ms" value={draft.onDelayMs} min={0} max={3_600_000} onKeep={(ms) => set({ onDelayMs: ms ?? 0 })} />
            <NumberField label="Goes after, ms" value={draft.offDelayMs} min={0} max={3_600_000} onKeep={(ms) => set({ offDelayMs: ms ?? 0 })} />
          </div>
          <BoundField
            label="Suppressed while"
            help="Empty: never. What is not known suppresses nothing."
            value={settings.suppressed}
            takesNumber={false}
            wanted="boolean"
            onKeep={(next) => set({ settings: { ...settings, suppressed: isBound(next) ? next : null } })}
          />
        </div>
        <div className="flex flex-col gap-3">
          <Choice
            label="Priority"
            value={draft.priority}
            choices={PRIORITIES.map((priority) => [priority, priority])}
            onPick={(priority) => set({ priority: priority as Priority })}
          />
          <Line label="Group" value={draft.group} max={60} list="alarm-groups" onValue={(group) => set({ group })} />
          <datalist id="alarm-groups">
            {groups.map((group) => (
              <option key={group} value={group} />
            ))}
          </datalist>
          <Flag label="Has to be acknowledged" isOn={draft.needsAck} onFlag={(needsAck) => set({ needsAck })} />
          <Flag label="Stays until it is reset" isOn={draft.isLatched} onFlag={(isLatched) => set({ isLatched })} />
          <Flag label="In service" isOn={draft.isOn} onFlag={(isOn) => set({ isOn })} />
          <div>
            <p className="mb-1 text-xs font-semibold">Controller&apos;s acknowledge bit</p>
            <TagPicker label="Controller's acknowledge bit" value={draft.ackTagId} onPick={({ id }) => set({ ackTagId: id })} only={isBit} />
            {draft.ackTagId === null ? (
              <p className="quiet mt-1 text-xs">Turned on when it is acknowledged here; acknowledges it when it turns on there.</p>
            ) : (
              <button type="button" className="btn btn-xs btn-ghost" onClick={() => set({ ackTagId: null })}>
                None
              </button>
            )}
          </div>
        </div>
      </div>
      <div className="flex items-center gap-2">
        {problem || refused ? (
          <p className="is-bad text-sm" role="alert">
            ✕ {refused || problem}
          </p>
        ) : null}
        <span className="flex-1" />
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Cancel
        </button>
        <button type="button" className="btn btn-sm btn-primary" disabled={!isComplete || problem !== ''} onClick={() => void keep()}>
          {alarm ? 'Keep' : 'Make the alarm'}
        </button>
      </div>
    </section>
  );
}

const isBit = ({ type, access }: Tag): boolean => type.toUpperCase() === 'BOOL' && access !== 'read';

interface ConditionProps {
  readonly condition: AlarmCondition;
  readonly unit: string;
  readonly onCondition: (condition: AlarmCondition) => void;
}

function Condition({ condition, unit, onCondition }: ConditionProps) {
  switch (condition.kind) {
    case 'bit':
      return (
        <Choice
          label="While it is"
          value={condition.isOn ? 'on' : 'off'}
          choices={[
            ['on', 'on'],
            ['off', 'off'],
          ]}
          onPick={(state) => onCondition({ kind: 'bit', isOn: state === 'on' })}
        />
      );
    case 'limit':
      return (
        <div className="grid grid-cols-[7rem_1fr_6rem] items-start gap-2">
          <Choice
            label="While it is"
            value={condition.side}
            choices={[
              ['above', 'at or above'],
              ['below', 'at or below'],
            ]}
            onPick={(side) => onCondition({ ...condition, side: side === 'above' ? 'above' : 'below' })}
          />
          <BoundField
            label={`Limit${unit === '' ? '' : `, ${unit}`}`}
            help="A number, or another tag to compare with"
            value={condition.limit}
            takesNumber
            wanted="number"
            onKeep={(limit) => limit !== null && onCondition({ ...condition, limit })}
          />
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            Hysteresis
            <input
              key={condition.hysteresis}
              className="input input-sm num w-full"
              inputMode="decimal"
              title="How far back it has to come to be over"
              defaultValue={condition.hysteresis}
              onBlur={(e) => {
                const hysteresis = Number(e.target.value);
                if (e.target.value.trim() !== '' && hysteresis >= 0 && Number.isFinite(hysteresis)) onCondition({ ...condition, hysteresis });
                else e.target.value = String(condition.hysteresis);
              }}
            />
          </label>
        </div>
      );
    case 'ofTag':
      return (
        <Choice
          label="While it is beyond"
          value={condition.key}
          choices={LIMIT_KEYS.map((key) => [key, LIMIT_WORDS[key]])}
          onPick={(key) => onCondition({ kind: 'ofTag', key: key as LimitKey })}
        />
      );
    case 'noValue':
      return <p className="quiet text-xs">While its value is bad: the device is silent, or what it sends makes no value.</p>;
    case 'formula':
      return (
        <BoundField
          label="While this holds"
          value={condition.holds.by === '' ? null : condition.holds}
          takesNumber={false}
          wanted="boolean"
          onKeep={(holds) => onCondition({ kind: 'formula', holds: isBound(holds) ? holds : { by: '' } })}
        />
      );
  }
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly choices: readonly (readonly [string, string])[];
  readonly onPick: (value: string) => void;
}

function Choice({ label, value, choices, onPick }: ChoiceProps) {
  return (
    <label className="flex flex-col gap-0.5 text-xs font-semibold">
      {label}
      <select className="select select-sm w-full" value={value} onChange={(e) => onPick(e.target.value)}>
        {choices.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

interface LineProps {
  readonly label: string;
  readonly value: string;
  readonly max: number;
  readonly list?: string;
  readonly onValue: (text: string) => void;
}

function Line({ label, value, max, list, onValue }: LineProps) {
  return (
    <label className="flex flex-col gap-0.5 text-xs font-semibold">
      {label}
      <input className="input input-sm w-full" list={list} maxLength={max} value={value} onChange={(e) => onValue(e.target.value)} />
    </label>
  );
}

function Flag({ label, isOn, onFlag }: { readonly label: string; readonly isOn: boolean; readonly onFlag: (isOn: boolean) => void }) {
  return (
    <label className="flex items-center gap-2 text-xs font-semibold">
      <input type="checkbox" className="checkbox checkbox-sm" checked={isOn} onChange={(e) => onFlag(e.target.checked)} />
      {label}
    </label>
  );
}
