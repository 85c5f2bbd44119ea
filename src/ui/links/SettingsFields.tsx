'use client';
/** Draws the fields of a driver's settings from its schema: labels, help, units and choices come with it. */
import { useEffect, useState } from 'react';
import type { FieldValues, UseFormReturn } from 'react-hook-form';
import type { AnyObjectSchema } from 'yup';
import type { FieldMeta } from '@/drivers/contract.ts';
import type { LocalPorts } from '@/core/live/localPorts.ts';
import { call } from '../live/api.ts';
import { Field } from '../parts/Field.tsx';
import { errorAt } from '../parts/formErrors.ts';

interface Drawn {
  readonly name: string;
  readonly meta: FieldMeta;
  readonly isNumber: boolean;
}

/** The fields of a schema that a form draws. */
export function labelledFields(schema: AnyObjectSchema): readonly Drawn[] {
  return Object.entries(schema.describe().fields).flatMap(([name, field]) =>
    'meta' in field && field.meta ? [{ name, meta: field.meta as unknown as FieldMeta, isNumber: field.type === 'number' }] : [],
  );
}

/** What a form shows for stored settings: texts, the defaults filled in. */
export function textsOf(schema: AnyObjectSchema, settings: Readonly<Record<string, unknown>>): Record<string, string> {
  const filled = { ...(schema.getDefault() as Record<string, unknown>), ...settings };
  return Object.fromEntries(
    labelledFields(schema).map(({ name }) => {
      const value = filled[name];
      return [name, typeof value === 'string' || typeof value === 'number' ? String(value) : ''];
    }),
  );
}

/**
 * @param at where in the form the settings are: `settings` or `dialect`
 * @param only fields to draw, all where it is not given
 */
export function SettingsFields<T extends FieldValues>({
  schema,
  at,
  form,
  only,
}: {
  readonly only?: readonly string[];
  readonly schema: AnyObjectSchema;
  readonly at: string;
  readonly form: UseFormReturn<T, unknown, FieldValues>;
}) {
  const { register } = form as unknown as UseFormReturn<FieldValues>;
  const fields = labelledFields(schema).filter((f) => !only || only.includes(f.name));
  return (
    <>
      {fields.map(({ name, meta, isNumber }) => {
        const path = `${at}.${name}`;
        const error = errorAt(form.formState.errors, path);
        return (
          <Field key={name} label={meta.label} help={meta.help} unit={meta.unit} error={error}>
            {(ids) =>
              meta.choices ? (
                <select {...ids} className="select select-sm w-full" {...register(path)}>
                  {Object.entries(meta.choices).map(([value, words]) => (
                    <option key={value} value={value}>
                      {words}
                    </option>
                  ))}
                </select>
              ) : (
                <>
                  <input
                    {...ids}
                    className={`input input-sm w-full ${isNumber ? 'num' : ''} ${error ? 'input-error' : ''}`}
                    inputMode={isNumber ? 'numeric' : 'text'}
                    list={meta.suggestions ? `${ids.id}-list` : undefined}
                    {...register(path)}
                  />
                  {meta.suggestions ? <Suggestions id={`${ids.id}-list`} kind={meta.suggestions} /> : null}
                </>
              )
            }
          </Field>
        );
      })}
    </>
  );
}

/** What this machine has: serial ports or network adapters. */
function Suggestions({ id, kind }: { readonly id: string; readonly kind: 'serialPorts' | 'adapters' }) {
  const [ports, setPorts] = useState<LocalPorts | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    void call<LocalPorts>('GET', '/local-ports', undefined, stop.signal).then((done) => {
      if (done.ok && !stop.signal.aborted) setPorts(done.value);
    });
    return () => stop.abort();
  }, []);
  return (
    <datalist id={id}>
      {(ports?.[kind] ?? []).map(({ value, label }) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </datalist>
  );
}
