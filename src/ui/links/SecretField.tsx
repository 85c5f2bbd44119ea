'use client';
/** A secret: what is typed goes to the server at once and is kept there; the form only has the id under which it is. */
import { useState } from 'react';
import type { FieldValues, UseFormReturn } from 'react-hook-form';
import { useWatch } from 'react-hook-form';
import { call } from '../live/api.ts';

export function SecretField({
  ids,
  path,
  form,
  isFile = false,
}: {
  readonly ids: { readonly id: string; readonly 'aria-invalid': boolean; readonly 'aria-describedby': string };
  readonly path: string;
  readonly form: UseFormReturn<FieldValues>;
  /** It is the text of a file. */
  readonly isFile?: boolean;
}) {
  const kept: unknown = useWatch({ control: form.control, name: path });
  const [isTyping, setTyping] = useState(false);
  const isKept = typeof kept === 'string' && kept !== '';
  const keep = async (text: string): Promise<void> => {
    setTyping(false);
    if (text === '') return;
    const done = await call<{ readonly id: string }>('POST', '/secrets', { value: text });
    if (done.ok) form.setValue(path, done.value.id, { shouldDirty: true, shouldValidate: true });
    else form.setError(path, { message: done.problem.message });
  };
  if (isKept && !isTyping)
    return (
      <span className="flex h-8 items-center gap-2">
        <span className="quiet">kept, not shown</span>
        <button {...ids} type="button" className="btn btn-xs btn-outline" onClick={() => setTyping(true)}>
          Change
        </button>
        <button type="button" className="btn btn-xs btn-ghost" onClick={() => form.setValue(path, '', { shouldDirty: true })}>
          Remove
        </button>
      </span>
    );
  if (isFile)
    return <input {...ids} type="file" className="file-input file-input-sm w-full" onChange={(e) => void e.target.files?.[0]?.text().then(keep)} />;
  return (
    <input
      {...ids}
      type="password"
      autoComplete="new-password"
      autoFocus={isTyping}
      className="input input-sm w-full"
      maxLength={4000}
      onBlur={(e) => void keep(e.target.value)}
      onKeyDown={(e) => {
        if (e.key !== 'Enter') return;
        // Sending the form would come before it is kept.
        e.preventDefault();
        e.currentTarget.blur();
      }}
    />
  );
}
