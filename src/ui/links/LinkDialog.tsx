'use client';
/** Makes or changes a link. */
import { yupResolver } from '@hookform/resolvers/yup';
import { useState } from 'react';
import { useForm, type FieldValues, type Resolver } from 'react-hook-form';
import { v7 as uuid } from 'uuid';
import { ENTITY_SCHEMAS, labelOf, type Link } from '@/core/project/entities.ts';
import { yupOf } from '@/core/manifest/yupOf.ts';
import type { DriverDescription } from '@/drivers/contract.ts';
import { describeDriver, driverDescriptions } from '@/drivers/descriptions.ts';
import { useChange, wasIn } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';
import { Discovery } from './Discovery.tsx';
import { SettingsFields, textsOf } from './SettingsFields.tsx';

interface LinkTexts {
  readonly name: string;
  readonly settings: Record<string, string>;
}

export function LinkDialog({ link, onClose }: { readonly link: Link | null; readonly onClose: () => void }) {
  const [chosen, setChosen] = useState<Chosen>({ driverId: link?.driver ?? driverDescriptions()[0]?.id ?? '', typed: NOTHING_TYPED });
  const driver = describeDriver(chosen.driverId);
  return (
    <Dialog title={link ? `Link ${link.name}` : 'New link'} onClose={onClose}>
      {driver ? <LinkForm key={driver.id} link={link} driver={driver} typed={chosen.typed} onChosen={setChosen} onClose={onClose} /> : null}
    </Dialog>
  );
}

/** A protocol, and what was typed before it was chosen. */
interface Chosen {
  readonly driverId: string;
  readonly typed: LinkTexts;
}
const NOTHING_TYPED: LinkTexts = { name: '', settings: {} };

/** What was typed and is no default of the protocol before: the host of one is the host of another. */
function typedBy({ name, settings }: LinkTexts, { link }: DriverDescription): LinkTexts {
  const before = textsOf(link, {});
  return { name, settings: Object.fromEntries(Object.entries(settings).filter(([key, text]) => text !== before[key])) };
}

interface LinkFormProps {
  readonly link: Link | null;
  readonly driver: DriverDescription;
  readonly typed: LinkTexts;
  readonly onChosen: (chosen: Chosen) => void;
  readonly onClose: () => void;
}

function LinkForm({ link, driver, typed, onChosen, onClose }: LinkFormProps) {
  const change = useChange();
  const form = useForm<LinkTexts, unknown, FieldValues>({
    defaultValues: { name: link?.name ?? typed.name, settings: textsOf(driver.link, link?.settings ?? typed.settings) },
    resolver: yupResolver(ENTITY_SCHEMAS.link.pick(['name']).shape({ settings: yupOf(driver.link) }) as never) as unknown as Resolver<
      LinkTexts,
      unknown,
      FieldValues
    >,
  });
  const keep = form.handleSubmit(async ({ name, settings }) => {
    const done = await change(
      link ? `link ${name} changed` : `link ${name} made`,
      [{ kind: 'link', id: link?.id ?? uuid(), set: { name, driver: driver.id, settings }, was: wasIn(link, { name, settings }) }],
      { quiet: true },
    );
    if (done.ok) onClose();
    else showProblem(form, done.problem, ['name', ...Object.keys(driver.link.properties).map((f) => `settings.${f}` as const)]);
  });
  return (
    <form className="grid grid-cols-2 gap-3" noValidate onSubmit={(e) => void keep(e)}>
      <Field label={labelOf('link', 'name')} help="What people on site call it." error={errorAt(form.formState.errors, 'name')}>
        {(ids) => <input {...ids} className="input input-sm w-full" maxLength={80} placeholder="Kiln cabinet" {...form.register('name')} />}
      </Field>
      <Field label={labelOf('link', 'driver')} help={driver.summary}>
        {(ids) => (
          <select
            {...ids}
            className="select select-sm w-full"
            value={driver.id}
            disabled={link !== null}
            onChange={(e) => onChosen({ driverId: e.target.value, typed: typedBy(form.getValues(), driver) })}
          >
            {driverDescriptions().map((d) => (
              <option key={d.id} value={d.id}>
                {d.label}
              </option>
            ))}
          </select>
        )}
      </Field>
      <SettingsFields schema={driver.link} at="settings" form={form} />
      {driver.discovers ? (
        <Discovery
          driverId={driver.id}
          settings={() => yupOf(driver.link).cast(form.getValues().settings, { assert: false }) as Record<string, unknown>}
          onTake={({ settings }) => {
            for (const [key, value] of Object.entries(settings))
              form.setValue(`settings.${key}`, String(value), { shouldDirty: true, shouldValidate: true });
          }}
        />
      ) : null}
      <div className="col-span-2 mt-2 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Cancel
        </button>
        <button type="submit" className="btn btn-sm btn-primary" disabled={form.formState.isSubmitting}>
          {link ? 'Save' : 'Create link'}
        </button>
      </div>
    </form>
  );
}
