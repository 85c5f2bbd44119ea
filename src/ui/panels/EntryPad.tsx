'use client';
/** Takes a value for a tag: says before it is sent what the controller will really hold. */
import { useState } from 'react';
import { heldInstead } from '@/core/nearestHeld.ts';
import type { Tag } from '@/core/project/entities.ts';
import { parseFor, planWrite } from '@/core/signal.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { useWrite } from './useWrite.ts';

export function EntryPad({ tag, label, onClose }: { readonly tag: Tag; readonly label: string; readonly onClose: () => void }) {
  const project = useProject();
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const { write, busy } = useWrite();
  const effective = project.effective(tag.id);
  const parsed = effective.ok && text.trim() !== '' ? parseFor(effective.value.def, text) : null;
  const plan = effective.ok && parsed?.ok ? planWrite(effective.value.def, parsed.value) : null;
  const instead = effective.ok && parsed?.ok && plan?.ok ? heldInstead(effective.value.def, parsed.value, plan.value) : null;
  const wrong = problem ?? (parsed && !parsed.ok ? parsed.problem.message : plan && !plan.ok ? plan.problem.message : undefined);
  const enter = (entered: string): void => {
    setText(entered);
    setProblem(null);
  };
  const send = async (): Promise<void> => {
    const done = await write(tag, text);
    if (done.ok) onClose();
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  const range = tag.rangeLow !== null && tag.rangeHigh !== null ? `${tag.rangeLow} to ${tag.rangeHigh} ${tag.unit}` : undefined;
  const unit = tag.unit ? ` ${tag.unit}` : '';
  return (
    <Dialog title={label} onClose={onClose}>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (plan?.ok && !instead && !busy) void send();
        }}
      >
        <Field label="New value" unit={tag.unit || undefined} help={range} error={wrong}>
          {(ids) => (
            <input
              {...ids}
              autoFocus
              className="input num w-full text-lg"
              inputMode={effective.ok && effective.value.def.type.kind === 'text' ? 'text' : 'decimal'}
              value={text}
              onChange={(e) => enter(e.target.value)}
            />
          )}
        </Field>
        <div className="quiet min-h-8" data-will-hold aria-live="polite">
          {instead ? (
            <span className="is-look flex flex-wrap items-center gap-2">
              The controller cannot hold exactly that. Take
              {instead.map((each) => (
                <button key={each} type="button" className="btn btn-sm btn-outline num" onClick={() => enter(each)}>
                  {each}
                  {unit}
                </button>
              ))}
            </span>
          ) : plan?.ok ? (
            `The controller will hold ${plan.value.text}${unit}.`
          ) : (
            ''
          )}
        </div>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary" disabled={!plan?.ok || instead !== null || busy}>
            {busy ? 'Writing …' : 'Write'}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
