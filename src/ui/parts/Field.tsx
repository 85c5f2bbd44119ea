/** One labelled field with its help and its error, the same everywhere. */
import { useId, type ReactNode } from 'react';

export interface FieldProps {
  readonly label: string;
  readonly help?: string | undefined;
  readonly unit?: string | undefined;
  readonly error?: string | undefined;
  readonly children: (ids: { readonly id: string; readonly 'aria-invalid': boolean; readonly 'aria-describedby': string }) => ReactNode;
}

export function Field({ label, help, unit, error, children }: FieldProps) {
  const id = useId();
  return (
    <div className="flex min-w-0 flex-col gap-1">
      <label htmlFor={id} className="text-[13px] font-semibold">
        {label}
        {unit ? <span className="quiet font-normal"> in {unit}</span> : null}
      </label>
      {children({ id, 'aria-invalid': Boolean(error), 'aria-describedby': `${id}-help` })}
      <p id={`${id}-help`} className={`text-xs ${error ? 'is-bad font-semibold' : 'quiet'}`} role={error ? 'alert' : undefined}>
        {error ?? help}
      </p>
    </div>
  );
}

/** For an empty bench: what it is for, and what to do next. */
export function Empty({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <div className="card-flat mx-auto mt-10 max-w-xl p-8 text-center">
      <h2 className="mb-2 text-lg font-semibold">{title}</h2>
      <div className="quiet flex flex-col items-center gap-4">{children}</div>
    </div>
  );
}
