'use client';
/** Sets a watched tag once, or holds it: written again and again until it is released. It is no force: the program may write between. */
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { LONGEST_HOLD_MS, SHORTEST_HOLD_MS, USUAL_HOLD_MS } from '@/core/check/driving/drivenValue.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Problem } from '@/core/result.ts';
import { call } from '../../live/api.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { useStatus, useTagView } from '../../live/liveHooks.ts';
import { rememberedName, rememberName } from '../../live/selection.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { Field } from '../../parts/Field.tsx';
import { openUnlockFor } from '../../shell/openDialogs.ts';

export function SetDialog({ tag, onClose }: { readonly tag: Tag; readonly onClose: () => void }) {
  const project = useProject();
  const view = useTagView(tag.id);
  const device = project.deviceOf(tag);
  const isOpen = useStatus()?.unlocked.some(({ deviceId, writers }) => deviceId === device?.id && writers.includes('engineer')) ?? false;
  const [value, setValue] = useState('');
  const [who, setWho] = useState(rememberedName);
  const [isHeld, setIsHeld] = useState(false);
  const [seconds, setSeconds] = useState(String(USUAL_HOLD_MS / 1000));
  const [problem, setProblem] = useState<Problem | null>(null);
  const [isBusy, setIsBusy] = useState(false);
  const submit = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    if (value.trim() === '' || who.trim() === '') {
      const place = value.trim() === '' ? 'value' : 'who';
      setProblem({ code: 'missing', message: place === 'value' ? 'Say to which value.' : 'Say who sets it.', place });
      return;
    }
    rememberName(who.trim());
    setIsBusy(true);
    const write = { id: uuid(), tagId: tag.id, value: value.trim() };
    const done = isHeld
      ? await call<WriteOutcome>('POST', '/driven/held', { ...write, who: who.trim(), everyMs: Math.round(Number(seconds) * 1000) || 0 })
      : await call<WriteOutcome>('POST', `/tags/${tag.id}/write`, { id: write.id, value: write.value, origin: 'engineer' });
    setIsBusy(false);
    if (!done.ok) setProblem(done.problem);
    else if (done.value.state === 'done') {
      toast(`${tag.name}: ${done.value.sentence}`);
      onClose();
    } else setProblem({ code: done.value.state, message: done.value.sentence });
  };
  const at = (place: string): string | undefined => (problem?.place === place ? `${problem.message} ${problem.remedy ?? ''}` : undefined);
  const isElsewhere = problem !== null && !['value', 'who', 'everyMs'].includes(problem.place ?? '');
  return (
    <Dialog title={`Set ${tag.name}`} onClose={onClose}>
      <form className="flex flex-col gap-3" noValidate onSubmit={(event) => void submit(event)}>
        <p className="quiet">
          It shows <span className="num">{view?.text}</span> {tag.unit} now.
        </p>
        {device && !isOpen ? (
          <p className="flex items-center gap-2">
            <span className="flex-1">◌ Writing to {device.name} is locked for the bench.</span>
            <button
              type="button"
              className="btn btn-sm"
              onClick={() => {
                onClose();
                openUnlockFor(device.id, 'engineer');
              }}
            >
              Unlock …
            </button>
          </p>
        ) : null}
        <div className="grid grid-cols-2 gap-3">
          <Field label="New value" unit={tag.unit || undefined} error={at('value')}>
            {(ids) => (
              <input
                {...ids}
                autoFocus
                className="input input-sm num w-full"
                value={value}
                onChange={(e) => setValue(e.target.value)}
                autoComplete="off"
              />
            )}
          </Field>
          <Field label="Your name" error={at('who')}>
            {(ids) => <input {...ids} className="input input-sm w-full" maxLength={60} value={who} onChange={(e) => setWho(e.target.value)} />}
          </Field>
        </div>
        <fieldset className="flex flex-col gap-1">
          <legend className="sr-only">How</legend>
          <label className="flex items-center gap-2">
            <input type="radio" name="how" className="radio radio-xs" checked={!isHeld} onChange={() => setIsHeld(false)} /> Set it once
          </label>
          <label className="flex items-center gap-2">
            <input type="radio" name="how" className="radio radio-xs" checked={isHeld} onChange={() => setIsHeld(true)} /> Hold it, written again
            every
            <input
              aria-label="Period in seconds"
              aria-invalid={at('everyMs') !== undefined}
              className="input input-xs num w-16"
              disabled={!isHeld}
              value={seconds}
              onChange={(e) => setSeconds(e.target.value)}
            />
            s
          </label>
          {at('everyMs') ? (
            <p role="alert" className="is-bad text-xs font-semibold">
              {at('everyMs')}
            </p>
          ) : null}
        </fieldset>
        {isHeld ? (
          <p className="quiet text-[13px]">
            Every {SHORTEST_HOLD_MS / 1000} to {LONGEST_HOLD_MS / 1000} s. Between two writes the controller&rsquo;s program may write something else.
            What is there now is kept, and goes back when the value is released, where ours is still held.
          </p>
        ) : null}
        {isElsewhere ? (
          <p role="alert">
            <strong className="is-bad">{problem.message}</strong> {problem.remedy}
          </p>
        ) : null}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={isBusy || (device !== undefined && device !== null && !isOpen)}>
            {isHeld ? 'Hold' : 'Set'}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
