'use client';
/** Whether a tag has a scale of its own or one that it shares, and the way from one to the other. */
import Link from 'next/link';
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Field } from '../parts/Field.tsx';
import { readForm, ruleForm, type ScaleForm } from './scaleForm.ts';

interface SharedChoiceProps {
  readonly tag: Tag;
  readonly form: ScaleForm;
  readonly isChanged: boolean;
  readonly onForm: (form: ScaleForm) => void;
}

export function SharedChoice({ tag, form, isChanged, onForm }: SharedChoiceProps) {
  const project = useProject();
  const { sharedScales } = project;
  const shared = form.sharedId === null ? null : project.entity('sharedScale', form.sharedId);
  const take = (id: string): void => {
    const chosen = id === '' ? null : project.entity('sharedScale', id);
    onForm(
      chosen
        ? { ...form, ...ruleForm(chosen.scale, { unit: chosen.unit, decimals: chosen.decimals ?? tag.decimals }), sharedId: chosen.id }
        : { ...form, sharedId: null },
    );
  };
  return (
    <>
      {sharedScales.length > 0 ? (
        <Field label="Shared scale">
          {(ids) => (
            <select {...ids} className="select select-sm w-full" value={form.sharedId ?? ''} onChange={(e) => take(e.target.value)}>
              <option value="">none: a scale of its own</option>
              {sharedScales.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
      ) : null}
      {shared ? (
        <p className="quiet mb-1 text-xs">
          It is shared by {counted(project.tagsScaledBy(shared.id).length, 'tag')}.{' '}
          <Link className="link" href={`/scale/shared?scale=${shared.id}`}>
            Change it for all of them
          </Link>{' '}
          or choose a scale of its own to change it here.
        </p>
      ) : form.steps.length > 0 ? (
        <ShareIt tag={tag} form={form} isChanged={isChanged} />
      ) : null}
    </>
  );
}

function ShareIt({ tag, form, isChanged }: Omit<SharedChoiceProps, 'onForm'>) {
  const change = useChange();
  const [name, setName] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const make = async (): Promise<void> => {
    const read = readForm(form);
    if (!read.ok || name === null || name.trim() === '') return;
    const { scale, unit, decimals } = read.value;
    const id = uuid();
    const done = await change(`scale of ${tag.name} shared as ${name.trim()}`, [
      { kind: 'sharedScale', id, set: { name: name.trim(), scale, unit, decimals } },
      { kind: 'scale', id: tag.id, set: { scale, sharedId: id } },
    ]);
    setProblem(done.ok ? null : done.problem.message);
    if (done.ok) setName(null);
  };
  if (name === null)
    return (
      <button
        type="button"
        className="btn btn-xs btn-ghost mb-1"
        disabled={isChanged}
        title={isChanged ? 'Apply the scale first.' : 'Give it a name, so that other tags can have it too.'}
        onClick={() => setName('')}
      >
        Share this scale …
      </button>
    );
  return (
    <div className="mb-1 flex flex-wrap items-center gap-2">
      <input
        autoFocus
        className="input input-sm flex-1"
        aria-label="Name of the shared scale"
        placeholder="Its name, such as Loop 0–10 bar"
        maxLength={80}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Escape') setName(null);
          if (e.key !== 'Enter') return;
          e.preventDefault();
          void make();
        }}
      />
      <button type="button" className="btn btn-sm btn-primary" disabled={name.trim() === ''} onClick={() => void make()}>
        Share it
      </button>
      <button type="button" className="btn btn-sm btn-ghost" onClick={() => setName(null)}>
        Cancel
      </button>
      {problem ? <p className="is-bad w-full text-xs">{problem}</p> : null}
    </div>
  );
}
