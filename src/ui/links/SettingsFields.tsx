'use client';
/** Draws the fields of a driver's settings from its schema: labels, help, units and choices come with it. */
import { useEffect, useState } from 'react';
import { useWatch, type FieldValues, type UseFormReturn } from 'react-hook-form';
import { isAsked, type Setting, type SettingsSchema } from '@/core/manifest/settingsSchema.ts';
import { filledIn } from '@/core/manifest/yupOf.ts';
import type { LocalPorts } from '@/core/live/localPorts.ts';
import { call } from '../live/api.ts';
import { Field } from '../parts/Field.tsx';
import { errorAt } from '../parts/formErrors.ts';
import { SecretField } from './SecretField.tsx';

/** What a form shows for stored settings: texts, the defaults filled in; a list has a line for each. */
export function textsOf(schema: SettingsSchema, settings: Readonly<Record<string, unknown>>): Record<string, string> {
  const filled = filledIn(schema, settings);
  return Object.fromEntries(Object.keys(schema.properties).map((name) => [name, textOf(filled[name])]));
}

function textOf(value: unknown): string {
  if (Array.isArray(value)) return value.join('\n');
  return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : '';
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
  readonly schema: SettingsSchema;
  readonly at: string;
  readonly form: UseFormReturn<T, unknown, FieldValues>;
}) {
  const plain = form as unknown as UseFormReturn<FieldValues>;
  const texts = (useWatch({ control: plain.control, name: at }) ?? {}) as Readonly<Record<string, unknown>>;
  return (
    <>
      {Object.entries(schema.properties).map(([name, setting]) => {
        if ((only && !only.includes(name)) || !isAsked(setting, texts)) return null;
        const path = `${at}.${name}`;
        return (
          <Field
            key={name}
            label={setting.title}
            help={setting.description}
            unit={'x-unit' in setting ? setting['x-unit'] : undefined}
            error={errorAt(form.formState.errors, path)}
          >
            {(ids) => <Control ids={ids} setting={setting} path={path} form={plain} />}
          </Field>
        );
      })}
    </>
  );
}

interface ControlProps {
  readonly ids: { readonly id: string; readonly 'aria-invalid': boolean; readonly 'aria-describedby': string };
  readonly setting: Setting;
  readonly path: string;
  readonly form: UseFormReturn<FieldValues>;
}

function Control({ ids, setting, path, form }: ControlProps) {
  const own = form.register(path);
  if ('oneOf' in setting && setting.oneOf)
    return (
      <select {...ids} className="select select-sm w-full" {...own}>
        {setting.oneOf.map((choice) => (
          <option key={choice.const} value={choice.const}>
            {choice.title}
          </option>
        ))}
      </select>
    );
  if (setting.type === 'boolean')
    return (
      <select {...ids} className="select select-sm w-full" {...own}>
        <option value="true">yes</option>
        <option value="false">no</option>
      </select>
    );
  if (setting.type === 'array' || (setting.type === 'string' && (setting.format === 'lines' || setting.format === 'file')))
    return <textarea {...ids} className="textarea textarea-sm num min-h-16 w-full" {...own} />;
  if (setting.type === 'string' && setting.writeOnly) return <SecretField ids={ids} path={path} form={form} isFile={setting.format === 'file'} />;
  const isNumber = setting.type !== 'string';
  const suggestions = setting.type === 'string' ? setting['x-suggestions'] : undefined;
  return (
    <>
      <input
        {...ids}
        className={`input input-sm w-full ${isNumber ? 'num' : ''} ${ids['aria-invalid'] ? 'input-error' : ''}`}
        inputMode={isNumber ? 'numeric' : 'text'}
        list={suggestions ? `${ids.id}-list` : undefined}
        {...own}
      />
      {suggestions === 'serialPorts' || suggestions === 'adapters' ? <Suggestions id={`${ids.id}-list`} kind={suggestions} /> : null}
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
