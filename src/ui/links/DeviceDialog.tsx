'use client';
/** Makes or changes a device: what it is called, how it is addressed, and how it reads the standard. */
import { yupResolver } from '@hookform/resolvers/yup';
import { useForm, useWatch, type FieldValues, type Resolver, type UseFormReturn } from 'react-hook-form';
import { v7 as uuid } from 'uuid';
import { string } from 'yup';
import { ENTITY_SCHEMAS, labelOf, type Device, type Link, type Tag } from '@/core/project/entities.ts';
import { accessOf } from '@/core/project/inherited.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { yupOf } from '@/core/manifest/yupOf.ts';
import type { DriverDescription } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { call } from '../live/api.ts';
import { useChange, useProject, wasIn } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { Fold } from '../parts/Fold.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';
import { DialectSection, DialectTrialBar } from './DialectSection.tsx';
import { SettingsFields, textsOf } from './SettingsFields.tsx';

export interface DeviceTexts {
  readonly name: string;
  readonly witnessUrl: string;
  readonly identityTagId: string;
  readonly identity: string;
  readonly lifeTagId: string;
  readonly lifeSeconds: string;
  readonly ownLifeTagId: string;
  readonly reads: string;
  readonly settings: Record<string, string>;
  readonly dialect: Record<string, string>;
}

interface DeviceDialogProps {
  readonly device: Device | null;
  readonly link: Link;
  /** The protocol option that somebody came for. */
  readonly setting?: string | undefined;
  readonly onClose: () => void;
}

export function DeviceDialog({ device, link, setting, onClose }: DeviceDialogProps) {
  const driver = describeDriver(link.driver);
  return driver ? <DeviceForm device={device} link={link} driver={driver} setting={setting} onClose={onClose} /> : null;
}

function DeviceForm({ device, link, driver, setting, onClose }: DeviceDialogProps & { readonly driver: DriverDescription }) {
  const change = useChange();
  const form = useForm<DeviceTexts, unknown, FieldValues>({
    defaultValues: {
      name: device?.name ?? '',
      witnessUrl: device?.witnessUrl ?? '',
      identityTagId: device?.identityTagId ?? '',
      identity: device?.identity ?? '',
      lifeTagId: device?.lifeTagId ?? '',
      lifeSeconds: String(device?.lifeSeconds ?? 5),
      ownLifeTagId: device?.ownLifeTagId ?? '',
      reads: device?.reads ?? 'always',
      settings: textsOf(driver.device, device?.settings ?? {}),
      dialect: textsOf(driver.dialect, device?.dialect ?? {}),
    },
    resolver: yupResolver(
      ENTITY_SCHEMAS.device.pick(['name', 'witnessUrl', 'identity', 'lifeSeconds', 'reads']).shape({
        settings: yupOf(driver.device),
        dialect: yupOf(driver.dialect),
        identityTagId: maybeTag(),
        lifeTagId: maybeTag(),
        ownLifeTagId: maybeTag(),
      }) as never,
    ) as unknown as Resolver<DeviceTexts, unknown, FieldValues>,
  });
  const { errors } = form.formState;
  const keep = form.handleSubmit(async (set) => {
    const name = String(set.name);
    const done = await change(
      device ? `device ${name} changed` : `device ${name} made`,
      [{ kind: 'device', id: device?.id ?? uuid(), set: { linkId: link.id, ...set }, was: wasIn(device, set) }],
      { quiet: true },
    );
    if (done.ok) onClose();
    else
      showProblem(form, done.problem, [
        'name',
        'witnessUrl',
        'identityTagId',
        'identity',
        'lifeTagId',
        'lifeSeconds',
        'ownLifeTagId',
        'reads',
        ...Object.keys(driver.device.properties).map((f) => `settings.${f}` as const),
        ...Object.keys(driver.dialect.properties).map((f) => `dialect.${f}` as const),
      ]);
  });

  return (
    <Dialog title={device ? `Device ${device.name}` : `New device on ${link.name}`} onClose={onClose} wide>
      <form className="grid grid-cols-4 gap-x-4 gap-y-1" noValidate onSubmit={(e) => void keep(e)}>
        <Field label={labelOf('device', 'name')} help="As it is marked on the machine." error={errorAt(errors, 'name')}>
          {(ids) => <input {...ids} className="input input-sm w-full" maxLength={80} placeholder="KILN" {...form.register('name')} />}
        </Field>
        <SettingsFields schema={driver.device} at="settings" form={form} />
        <Field
          label={labelOf('device', 'witnessUrl')}
          help="Of a simulated device: tells values without our mapping, as a witness. Leave it empty for a real one."
          error={errorAt(errors, 'witnessUrl')}
        >
          {(ids) => <input {...ids} className="input input-sm num w-full" placeholder="http://127.0.0.1:8502" {...form.register('witnessUrl')} />}
        </Field>
        <Field
          label={labelOf('device', 'reads')}
          help="While shown: only what an open page, a rule or an expression goes by is read. A group may say otherwise for its tags."
          error={errorAt(errors, 'reads')}
        >
          {(ids) => (
            <select {...ids} className="select select-sm w-full" {...form.register('reads')}>
              <option value="always">always</option>
              <option value="shown">while shown</option>
            </select>
          )}
        </Field>
        {device ? (
          <Fold
            title="Identity and heartbeat"
            summary={guardsInWords(device)}
            isOpen={['identityTagId', 'identity', 'lifeTagId', 'lifeSeconds', 'ownLifeTagId'].some((f) => f in errors)}
          >
            <Guards device={device} form={form} />
          </Fold>
        ) : null}
        <DialectSection driver={driver} form={form} setting={setting} />
        <div className="bg-base-100 sticky -bottom-6 col-span-4 mt-1 py-2">
          {device ? <DialectTrialBar device={device} driver={driver} form={form} /> : null}
          <div className="flex justify-end gap-2">
            <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
              Cancel
            </button>
            <button type="submit" className="btn btn-sm btn-primary" disabled={form.formState.isSubmitting}>
              {device ? 'Save' : 'Create device'}
            </button>
          </div>
        </div>
      </form>
    </Dialog>
  );
}

/** What a device is known by, and whether its program is watched. */
function guardsInWords(device: Device): string {
  const identity = device.identityTagId === null ? 'any machine is accepted' : `expects “${device.identity}”`;
  return `${identity} · ${device.lifeTagId === null ? 'no heartbeat' : 'heartbeat watched'}`;
}

/** A choice of a tag: nothing chosen is null. */
function maybeTag() {
  return string()
    .nullable()
    .transform((value: unknown) => (value === '' ? null : value));
}

/** Which machine it must be before it is opened for writing, and what shows that its program runs. */
function Guards({ device, form }: { readonly device: Device; readonly form: UseFormReturn<DeviceTexts, unknown, FieldValues> }) {
  const project = useProject();
  const tags = project.tags.filter((t) => deviceIdOf(t) === device.id);
  const identityTagId = useWatch({ control: form.control, name: 'identityTagId' });
  const lifeTagId = useWatch({ control: form.control, name: 'lifeTagId' });
  const { errors } = form.formState;
  const takeOver = async (): Promise<void> => {
    const said = await call<{ readonly text: string }>('GET', `/tags/${identityTagId}/identity`);
    if (said.ok) form.setValue('identity', said.value.text, { shouldDirty: true });
    else form.setError('identity', { message: said.problem.message });
  };
  const tagChoice = (name: 'identityTagId' | 'lifeTagId' | 'ownLifeTagId', none: string, fits: (tag: Tag) => boolean) => (ids: object) => (
    <select {...ids} className="select select-sm w-full" {...form.register(name)}>
      <option value="">{none}</option>
      {tags.filter(fits).map((tag) => (
        <option key={tag.id} value={tag.id}>
          {tag.name}
        </option>
      ))}
    </select>
  );
  return (
    <>
      <Field
        label={labelOf('device', 'identityTagId')}
        help="A tag with a serial number or a name; asked before writing is unlocked."
        error={errorAt(errors, 'identityTagId')}
      >
        {tagChoice('identityTagId', 'nothing: any machine', (t) => t.type !== 'BOOL')}
      </Field>
      <Field label={labelOf('device', 'identity')} error={errorAt(errors, 'identity')}>
        {(ids) => (
          <span className="flex gap-2">
            <input {...ids} className="input input-sm num w-full" disabled={identityTagId === ''} {...form.register('identity')} />
            <button type="button" className="btn btn-sm" disabled={identityTagId === ''} onClick={() => void takeOver()}>
              Ask
            </button>
          </span>
        )}
      </Field>
      <Field
        label={labelOf('device', 'lifeTagId')}
        help="A tag that changes as long as the program runs; when it stands still all values are marked."
        error={errorAt(errors, 'lifeTagId')}
      >
        {tagChoice('lifeTagId', 'none', (t) => !t.type.startsWith('STRING'))}
      </Field>
      <Field label={labelOf('device', 'lifeSeconds')} unit="s" error={errorAt(errors, 'lifeSeconds')}>
        {(ids) => (
          <input {...ids} className="input input-sm num w-full" inputMode="numeric" disabled={lifeTagId === ''} {...form.register('lifeSeconds')} />
        )}
      </Field>
      <Field
        label={labelOf('device', 'ownLifeTagId')}
        help="Counted up every second for the controller to watch, while writing is open for automatic rules."
        error={errorAt(errors, 'ownLifeTagId')}
      >
        {tagChoice('ownLifeTagId', 'none', (t) => accessOf(t, project.inheritedBy(t.groupId)) === 'readWrite' && /INT$|WORD$/.test(t.type))}
      </Field>
    </>
  );
}
