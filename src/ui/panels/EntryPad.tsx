'use client';
/** Takes a value for a tag: says before it is sent what the controller will really hold. */
import { useState } from 'react';
import { heldInstead } from '@/core/nearestHeld.ts';
import type { Tag } from '@/core/project/entities.ts';
import { parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { useWrite } from './useWrite.ts';

interface EntryPadProps {
  readonly tag: Tag;
  /** The tag as it is shown here: what is entered is in its unit. */
  readonly def: SignalDefinition;
  readonly label: string;
  readonly onClose: () => void;
}

export function EntryPad({ tag, def, label, onClose }: EntryPadProps) {
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const { write, busy } = useWrite();
  const parsed = text.trim() !== '' ? parseFor(def, text) : null;
  const plan = parsed?.ok ? planWrite(def, parsed.value) : null;
  const instead = parsed?.ok && plan?.ok ? heldInstead(def, parsed.value, plan.value) : null;
  const wrong = problem ?? (parsed && !parsed.ok ? parsed.problem.message : plan && !plan.ok ? plan.problem.message : undefined);
  const enter = (entered: string): void => {
    setText(entered);
    setProblem(null);
  };
  const send = async (): Promise<void> => {
    const done = await write(tag, text, def.unit === tag.unit ? undefined : def.unit);
    if (done.ok) onClose();
    else setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
  };
  const range = def.range ? `${def.range.low} to ${def.range.high} ${def.unit}` : undefined;
  const unit = def.unit ? ` ${def.unit}` : '';
  return (
    <Dialog title={label} onClose={onClose}>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (plan?.ok && !instead && !busy) void send();
        }}
      >
        <Field label="New value" unit={def.unit || undefined} help={range} error={wrong}>
          {(ids) => (
            <input
              {...ids}
              autoFocus
              className="input num w-full text-lg"
              inputMode={def.type.kind === 'text' ? 'text' : 'decimal'}
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
