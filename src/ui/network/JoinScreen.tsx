'use client';
/** Where a phone or panel joins, with the code that the engineer's screen shows. */
import { useForm } from 'react-hook-form';
import { call } from '../live/api.ts';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';

export function JoinScreen() {
  const form = useForm({ defaultValues: { code: '', name: '' } });
  const { errors, isSubmitting } = form.formState;
  const join = form.handleSubmit(async ({ code, name }) => {
    const done = await call('POST', '/join', { code: code.replace(/\s/g, ''), name: name.trim() });
    if (done.ok) location.assign('/panel');
    else showProblem(form, done.problem, ['code', 'name']);
  });
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <form className="card-flat flex w-full max-w-sm flex-col gap-2 p-6" noValidate onSubmit={(e) => void join(e)}>
        <h1 className="text-lg font-semibold">Join Mill Latch</h1>
        <p className="quiet mb-2">The engineer&apos;s screen shows a code of eight digits: Ctrl K, then “Phones and panels”.</p>
        <Field label="Code" error={errorAt(errors, 'code')}>
          {(ids) => (
            <input
              {...ids}
              className="input num w-full text-lg tracking-widest"
              inputMode="numeric"
              autoComplete="one-time-code"
              autoFocus
              {...form.register('code')}
            />
          )}
        </Field>
        <Field
          label="Name of the phone or panel"
          help="As it is called in the list: phone of R. Vale, panel at the kiln."
          error={errorAt(errors, 'name')}
        >
          {(ids) => <input {...ids} className="input w-full" maxLength={40} {...form.register('name')} />}
        </Field>
        <button type="submit" className="btn btn-primary" disabled={isSubmitting}>
          Join
        </button>
      </form>
    </main>
  );
}
