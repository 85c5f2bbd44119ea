'use client';
/** Makes one tag by hand. */
import { yupResolver } from '@hookform/resolvers/yup';
import dynamic from 'next/dynamic';
import { useMemo, useState } from 'react';
import { useForm, useWatch, type FieldValues, type Resolver } from 'react-hook-form';
import { v7 as uuid } from 'uuid';
import { ENTITY_SCHEMAS, labelOf } from '@/core/project/entities.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { DATA_TYPE_NAMES, formatDataType, LAID_OUT_NAMES, parseDataType } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { FunctionHelp } from '../expression/FunctionHelp.tsx';
import { Preview } from '../expression/Preview.tsx';
import { storedExpression } from '../expression/reading.ts';
import { AddressHelp } from './AddressHelp.tsx';
import { freePlaces } from './addressHelp.ts';
import { Field } from '../parts/Field.tsx';
import { errorAt, showProblem } from '../parts/formErrors.ts';

// The editor is large, and few tags are calculated.
const ExpressionEditor = dynamic(async () => (await import('../expression/ExpressionEditor.tsx')).ExpressionEditor, { ssr: false });

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

/** Stands for a device in the choice of sources. */
const CALCULATED = 'calculated';
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
  const [address, type] = useWatch({ control: form.control, name: ['address', 'type'] });
  const typed = { address, type };
  const device = project.device(deviceId);
  const places = useMemo(() => (device ? freePlaces(project, device, type) : []), [project, device, type]);
  const isLocal = deviceId === '';
  const isCalculated = deviceId === CALCULATED;
  const driver = describeDriver(project.link(project.device(deviceId)?.linkId ?? '')?.driver ?? '');
  const [expression, setExpression] = useState('');
  const [made, setMade] = useState(0);
  const [refused, setRefused] = useState('');
  const { errors } = form.formState;
  /** A calculation gives a number with decimals, unless somebody says otherwise. */
  const suitType = (chosen: string): void => {
    if (!form.formState.dirtyFields.type) form.setValue('type', chosen === CALCULATED ? 'LREAL' : 'INT');
  };
  const make = form.handleSubmit(async () => {
    const id = uuid();
    const { name, type, access, address, initial } = form.getValues();
    const source = isCalculated
      ? { kind: 'calculated' as const, expression: storedExpression(project, expression) ?? expression.trim() }
      : isLocal
        ? { kind: 'local' as const }
        : newPoint(deviceId, address.trim());
    const set = {
      ...REST,
      name,
      access: isCalculated ? ('read' as const) : access,
      type: canonicalType(type),
      initial: isLocal ? initial : '',
      source,
    };
    const done = await change(`tag ${name} made`, [{ kind: 'tag', id, set }], { quiet: true });
    if (!done.ok) {
      if (done.problem.place?.endsWith('source.expression')) {
        setRefused(`${done.problem.message} ${done.problem.remedy ?? ''}`);
        return;
      }
      const place = (done.problem.place ?? '').replace(/source\.address$/, 'address').replace(/source\.deviceId$/, 'deviceId');
      showProblem(form, { ...done.problem, place }, ['name', 'address', 'type', 'deviceId']);
      return;
    }
    setExpression('');
    setMade((n) => n + 1);
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
          <select
            {...ids}
            className="select select-sm w-full"
            {...form.register('deviceId', { onChange: (e: { target: { value: string } }) => suitType(e.target.value) })}
          >
            {project.devices.map((d) => (
              <option key={d.id} value={d.id}>
                {d.name}
              </option>
            ))}
            <option value="">local, in Mill Latch</option>
            <option value={CALCULATED}>calculated from other tags</option>
          </select>
        )}
      </Field>
      {isCalculated ? (
        <p className="quiet pt-7 text-xs">Its expression stands below.</p>
      ) : isLocal ? (
        <Field
          label={labelOf('tag', 'initial')}
          help="What it holds until it is written. Empty: 0, off or no text."
          error={errorAt(errors, 'initial')}
        >
          {(ids) => <input {...ids} className="input input-sm num w-full" {...form.register('initial')} />}
        </Field>
      ) : (
        <Field label="Address" help={driver?.notation.forms} error={errorAt(errors, 'address')}>
          {(ids) => (
            <>
              <input {...ids} className="input input-sm num w-full" list="new-tag-places" {...form.register('address')} />
              <datalist id="new-tag-places">
                {places.map((place) => (
                  <option key={place} value={place} />
                ))}
              </datalist>
              <AddressHelp
                device={project.device(deviceId)}
                type={typed.type}
                text={typed.address}
                prefix=""
                tagId=""
                onTake={(address) => form.setValue('address', address, { shouldDirty: true })}
              />
            </>
          )}
        </Field>
      )}
      <Field label={labelOf('tag', 'type')} error={errorAt(errors, 'type')}>
        {(ids) => (
          <>
            <input {...ids} className="input input-sm num w-full" list="new-tag-types" {...form.register('type')} />
            <datalist id="new-tag-types">
              {[...DATA_TYPE_NAMES, ...LAID_OUT_NAMES].map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          </>
        )}
      </Field>
      <Field label={labelOf('tag', 'access')}>
        {(ids) => (
          <select {...ids} className="select select-sm w-full" disabled={isCalculated} {...form.register('access')}>
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
      {isCalculated ? (
        <div className="col-span-6" key={made}>
          <ExpressionEditor
            label="Expression"
            text=""
            onText={(text) => {
              setExpression(text);
              setRefused('');
            }}
            onDone={() => void make()}
          />
          <div className="mt-1">
            <Preview text={expression} />
            {refused === '' ? null : (
              <p className="is-bad text-xs" role="alert">
                {refused}
              </p>
            )}
          </div>
          <FunctionHelp />
        </div>
      ) : null}
    </form>
  );
}

/** As it is kept; what is none stays as it was typed, and is refused with its reason. */
function canonicalType(text: string): string {
  const type = parseDataType(text);
  return type.ok ? formatDataType(type.value) : text;
}
