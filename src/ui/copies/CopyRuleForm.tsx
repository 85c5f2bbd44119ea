'use client';
/** Makes a copy rule, or changes one. What stands against it is told before it is kept. */
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { COPY_TIMES, type CopyTime } from '@/core/project/kinds/copyRule.ts';
import type { Block, CopyRule } from '@/core/project/entities.ts';
import { copyProblem } from '@/mapping/copies/copyPairs.ts';
import { loopProblem } from '@/mapping/copies/copyLoop.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Field } from '../parts/Field.tsx';
import { TagPicker } from '../parts/TagPicker.tsx';
import { everyText, PAUSES_MS } from './pauses.ts';

const WHEN_WORDS: Readonly<Record<CopyTime, string>> = {
  change: 'at each change',
  rising: 'when a tag turns on',
  armed: 'once, when it is armed',
  every: 'every so often',
};
const NEW: Omit<CopyRule, 'id'> = {
  name: '',
  fromTagId: null,
  toTagId: null,
  fromBlockId: null,
  toBlockId: null,
  when: 'change',
  triggerTagId: null,
  pauseMs: 1000,
  isOn: true,
};

export function CopyRuleForm({ rule, onClose }: { readonly rule: CopyRule | null; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [draft, setDraft] = useState<CopyRule>(() => rule ?? { ...NEW, id: uuid() });
  const [isBlock, setBlock] = useState(draft.fromBlockId !== null);
  const [refused, setRefused] = useState('');
  const set = (next: Partial<CopyRule>): void => {
    setDraft({ ...draft, ...next });
    setRefused('');
  };
  const blocks = project.blocks;
  const isChosen = isBlock ? draft.fromBlockId !== null && draft.toBlockId !== null : draft.fromTagId !== null && draft.toTagId !== null;
  const isComplete = isChosen && (draft.when !== 'rising' || draft.triggerTagId !== null);
  const problem = isComplete ? (copyProblem(draft, project.copies) ?? loopProblem(draft, project.copies)) : null;
  const keep = async (): Promise<void> => {
    const { id, ...fields } = draft;
    const name = draft.name.trim() === '' ? suggested() : draft.name.trim();
    const done = await change(`copy rule ${name} ${rule ? 'changed' : 'made'}`, [{ kind: 'copyRule', id, set: { ...fields, name } }], {
      quiet: true,
    });
    if (done.ok) onClose();
    else setRefused(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  /** Named by where it goes. */
  function suggested(): string {
    const to = isBlock ? project.entity('block', draft.toBlockId ?? '')?.name : project.tag(draft.toTagId ?? '')?.name;
    const taken = new Set(project.copyRules.map(({ name }) => name.toLowerCase()));
    const base = `to ${to ?? ''}`.slice(0, 76);
    for (let n = 1; ; n++) {
      const name = n === 1 ? base : `${base} ${n}`;
      if (!taken.has(name.toLowerCase())) return name;
    }
  }
  return (
    <form
      aria-label={rule ? 'Change the copy rule' : 'New copy rule'}
      className="card-flat grid grid-cols-[8rem_1fr_1fr_12rem_9rem] items-start gap-3 p-3"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        if (isComplete && problem === null) void keep();
      }}
    >
      <Field label="Copies">
        {(ids) => (
          <select
            {...ids}
            className="select select-sm w-full"
            value={isBlock ? 'block' : 'tag'}
            onChange={(e) => {
              setBlock(e.target.value === 'block');
              set({ fromTagId: null, toTagId: null, fromBlockId: null, toBlockId: null });
            }}
          >
            <option value="tag">a tag</option>
            <option value="block" disabled={blocks.length === 0}>
              a block
            </option>
          </select>
        )}
      </Field>
      {isBlock ? (
        <>
          <BlockChoice label="From" blocks={blocks} value={draft.fromBlockId} onPick={(fromBlockId) => set({ fromBlockId })} />
          <BlockChoice label="To" blocks={blocks} value={draft.toBlockId} onPick={(toBlockId) => set({ toBlockId })} />
        </>
      ) : (
        <>
          <div>
            <p className="mb-1 text-[13px] font-semibold">From</p>
            <TagPicker label="From tag" value={draft.fromTagId} onPick={({ id }) => set({ fromTagId: id })} />
          </div>
          <div>
            <p className="mb-1 text-[13px] font-semibold">To</p>
            <TagPicker label="To tag" value={draft.toTagId} onPick={({ id }) => set({ toTagId: id })} only={isWritable} />
            <p className="quiet mt-1 text-xs">Tags that may be written.</p>
          </div>
        </>
      )}
      <div className="flex flex-col gap-2">
        <Field label="When">
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              value={draft.when}
              onChange={(e) => set({ when: e.target.value as CopyTime, triggerTagId: null })}
            >
              {COPY_TIMES.map((when) => (
                <option key={when} value={when}>
                  {WHEN_WORDS[when]}
                </option>
              ))}
            </select>
          )}
        </Field>
        {draft.when === 'rising' ? (
          <TagPicker
            label="Tag that turns on"
            value={draft.triggerTagId}
            onPick={({ id }) => set({ triggerTagId: id })}
            only={({ type }) => type === 'BOOL'}
          />
        ) : null}
      </div>
      <Field label={draft.when === 'every' ? 'Every' : 'At most every'}>
        {(ids) => (
          <select {...ids} className="select select-sm w-full" value={draft.pauseMs} onChange={(e) => set({ pauseMs: Number(e.target.value) })}>
            {[...new Set([...PAUSES_MS, draft.pauseMs])].map((ms) => (
              <option key={ms} value={ms}>
                {everyText(ms)}
              </option>
            ))}
          </select>
        )}
      </Field>
      <div className="col-span-5 flex items-center gap-3">
        <label className="input input-sm w-64">
          <span className="quiet">Name</span>
          <input
            aria-label="Name of the rule"
            maxLength={80}
            placeholder={isChosen ? suggested() : ''}
            value={draft.name}
            onChange={(e) => set({ name: e.target.value })}
          />
        </label>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-xs" checked={draft.isOn} onChange={(e) => set({ isOn: e.target.checked })} />
          in use
        </label>
        <p className="is-bad flex-1 text-xs" role="alert">
          {refused || (problem ? `${problem.message} ${problem.remedy ?? ''}` : '')}
        </p>
        <button type="submit" className="btn btn-sm btn-primary" disabled={!isComplete || problem !== null}>
          {rule ? 'Keep' : 'Make rule'}
        </button>
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Cancel
        </button>
      </div>
    </form>
  );
  function isWritable({ id }: { readonly id: string }): boolean {
    const signal = project.effective(id);
    return signal.ok && signal.value.writable;
  }
}

function BlockChoice({
  label,
  blocks,
  value,
  onPick,
}: {
  readonly label: string;
  readonly blocks: readonly Block[];
  readonly value: string | null;
  readonly onPick: (id: string | null) => void;
}) {
  const project = useProject();
  return (
    <Field label={label}>
      {(ids) => (
        <select
          {...ids}
          className="select select-sm w-full"
          value={value ?? ''}
          onChange={(e) => onPick(e.target.value === '' ? null : e.target.value)}
        >
          <option value="">choose a block</option>
          {blocks.map(({ id, name, deviceId }) => (
            <option key={id} value={id}>
              {project.device(deviceId)?.name} · {name}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}
