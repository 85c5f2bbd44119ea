'use client';
/** Makes one tag by hand. */
import { yupResolver } from '@hookform/resolvers/yup';
import { useForm, useWatch, type FieldValues, type Resolver } from 'react-hook-form';
import { v7 as uuid } from 'uuid';
import { ENTITY_SCHEMAS, labelOf } from '@/core/project/entities.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { DATA_TYPE_NAMES } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';

/** What is asked for when a tag is made by hand; the grid has the rest. */
interface TagTexts {
  readonly name: string;
  /** Empty for a tag that lives in Mill Latch. */
  readonly deviceId: string;
  readonly address: string;
  readonly initial: string;
  readonly type: string;
  readonly access: 'read' | 'readWrite';
}

const REST = { unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '' };

export function NewTag({ onClose }: { readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const form = useForm<TagTexts, unknown, FieldValues>({
    defaultValues: { name: '', deviceId: project.devices[0]?.id ?? '', address: '', initial: '', type: 'INT', access: 'read' },
    resolver: yupResolver(ENTITY_SCHEMAS.tag.pick(['name', 'type', 'access', 'initial']) as never) as unknown as Resolver<
      TagTexts,
      unknown,
      FieldValues
    >,
  });
  const deviceId = useWatch({ control: form.control, name: 'deviceId' });
  const isLocal = deviceId === '';
  const driver = describeDriver(project.link(project.device(deviceId)?.linkId ?? '')?.driver ?? '');
  const { errors } = form.formState;
  const make = form.handleSubmit(async () => {
    const id = uuid();
    const { name, type, access, address, initial } = form.getValues();
    const source = isLocal ? { kind: 'local' } : newPoint(deviceId, address.trim());
    const set = { ...REST, name, access, type: type.toUpperCase(), initial: isLocal ? initial : '', source };
    const done = await change(`tag ${name} made`, [{ kind: 'tag', id, set }], { quiet: true });
    if (!done.ok) {
      const place = (done.problem.place ?? '').replace(/source\.address$/, 'address').replace(/source\.deviceId$/, 'deviceId');
      showProblem(form, { ...done.problem, place }, ['name', 'address', 'type', 'deviceId']);
      return;
    }
    selectTag(id);
    form.reset({ ...form.getValues(), name: '', address: '', initial: '' });
    form.setFocus('name');
  });
  return (
    <form
      aria-label="New tag"
      className="card-flat grid grid-cols-[1.4fr_1fr_1.2fr_1fr_1fr_auto] items-start gap-3 p-3"
      noValidate
      onSubmit={(e) => void make(e)}
    >
      <Field label={labelOf('tag', 'name')} error={errorAt(errors, 'name')}>
        {(ids) => <input {...ids} autoFocus className="input input-sm w-full" maxLength={80} {...form.register('name')} />}
      </Field>
      <Field label={'Source'}>
        {(ids) => (
          <select {...ids} className="select select-sm w-full" {...form.register('deviceId')}>
            {project.devices.map((d) => (
              <option key={d.id} value={d.id}>
                {d.name}
              </option>
            ))}
            <option value="">local, in Mill Latch</option>
          </select>
        )}
      </Field>
      {isLocal ? (
        <Field
          label={labelOf('tag', 'initial')}
          help="What it holds until it is written. Empty: 0, off or no text."
          error={errorAt(errors, 'initial')}
        >
          {(ids) => <input {...ids} className="input input-sm num w-full" {...form.register('initial')} />}
        </Field>
      ) : (
        <Field label="Address" help={driver?.notation.forms} error={errorAt(errors, 'address')}>
          {(ids) => <input {...ids} className="input input-sm num w-full" {...form.register('address')} />}
        </Field>
      )}
      <Field label={labelOf('tag', 'type')} error={errorAt(errors, 'type')}>
        {(ids) => (
          <>
            <input {...ids} className="input input-sm num w-full" list="new-tag-types" {...form.register('type')} />
            <datalist id="new-tag-types">
              {DATA_TYPE_NAMES.map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          </>
        )}
      </Field>
      <Field label={labelOf('tag', 'access')}>
        {(ids) => (
          <select {...ids} className="select select-sm w-full" {...form.register('access')}>
            <option value="read">read only</option>
            <option value="readWrite">read and write</option>
          </select>
        )}
      </Field>
      <div className="flex gap-2 pt-6">
        <button type="submit" className="btn btn-sm btn-primary" disabled={form.formState.isSubmitting}>
          Make tag
        </button>
        <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
          Close
        </button>
      </div>
    </form>
  );
}
