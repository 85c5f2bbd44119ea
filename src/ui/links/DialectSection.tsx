'use client';
/** How a device reads the standard: settings by the question they answer, named dialects, and a trial on a live tag. */
import { useEffect, useState } from 'react';
import { useWatch, type FieldValues, type UseFormReturn } from 'react-hook-form';
import type { DialectTrial } from '@/core/live/dialectTrial.ts';
import type { Device } from '@/core/project/entities.ts';
import type { DriverDescription, Settings } from '@/drivers/contract.ts';
import { call } from '../live/api.ts';
import { useChange, useProject, wasIn } from '../live/LiveContext.tsx';
import { Field } from '../parts/Field.tsx';
import { Fold } from '../parts/Fold.tsx';
import { wireInWords } from '@/core/live/wireJson.ts';
import { addressOf, deviceIdOf } from '@/core/project/tagSource.ts';
import { choiceWords } from '@/core/manifest/settingsSchema.ts';
import { yupOf } from '@/core/manifest/yupOf.ts';
import type { DeviceTexts } from './DeviceDialog.tsx';
import { SettingsFields, textsOf } from './SettingsFields.tsx';

type Form = UseFormReturn<DeviceTexts, unknown, FieldValues>;

interface DialectSectionProps {
  readonly driver: DriverDescription;
  readonly form: Form;
}

export function DialectSection({ driver, form, setting }: DialectSectionProps & { readonly setting?: string | undefined }) {
  const texts = useWatch({ control: form.control, name: 'dialect' });
  const settings = settingsOf(driver, texts);
  const differs = differencesOf(driver, texts);
  const summary = differs.length === 0 ? 'as in the standard' : `differ from the standard: ${differs.join(', ')}`;
  useEffect(() => {
    if (setting !== undefined) form.setFocus(`dialect.${setting}`);
  }, [form, setting]);
  return (
    <Fold title="Protocol options" summary={summary} isOpen={setting !== undefined || form.formState.errors.dialect !== undefined}>
      <NamedDialects driver={driver} form={form} settings={settings} />
      {driver.dialectGroups.map(({ title, fields }) => (
        <fieldset key={title} className="col-span-4 grid grid-cols-4 gap-x-4 gap-y-1">
          <legend className="quiet col-span-4 mt-1 text-[13px] font-semibold">{title}</legend>
          <SettingsFields schema={driver.dialect} at="dialect" form={form} only={fields} />
        </fieldset>
      ))}
    </Fold>
  );
}

/** The options that are not as the standard has them, in words. */
function differencesOf(driver: DriverDescription, texts: Readonly<Record<string, string>>): readonly string[] {
  const standard = textsOf(driver.dialect, {});
  return Object.entries(driver.dialect.properties).flatMap(([name, setting]) => {
    const text = texts[name] ?? '';
    return text === standard[name] ? [] : [`${setting.title} ${choiceWords(setting, text) ?? (text || 'empty')}`];
  });
}

/** The dialect that the texts of a form mean; null while one of them cannot be meant. */
function settingsOf(driver: DriverDescription, texts: Readonly<Record<string, string>>): Settings | null {
  try {
    return yupOf(driver.dialect).validateSync(texts) as Settings;
  } catch {
    return null;
  }
}

function NamedDialects({ driver, form, settings }: { readonly driver: DriverDescription; readonly form: Form; readonly settings: Settings | null }) {
  const { project } = useProject();
  const change = useChange();
  const [name, setName] = useState('');
  const [saved, setSaved] = useState('');
  const own = project.dialects;
  const known = [...driver.namedDialects.map((d) => ({ ...d, isOwn: false })), ...own.map((d) => ({ ...d, isOwn: true }))];
  const take = (index: string): void => {
    const chosen = known[Number(index)];
    if (index === '' || !chosen) return;
    for (const [field, text] of Object.entries(textsOf(driver.dialect, chosen.settings)))
      form.setValue(`dialect.${field}`, text, { shouldDirty: true, shouldValidate: true });
  };
  const save = async (): Promise<void> => {
    const wanted = name.trim();
    if (wanted === '' || !settings) return;
    const dialects = [...own.filter((d) => d.name.toLowerCase() !== wanted.toLowerCase()), { name: wanted, settings }];
    const set = { dialects };
    const done = await change(`protocol options “${wanted}” saved`, [{ kind: 'project', id: project.id, set, was: wasIn(project, set) }]);
    if (done.ok) {
      setSaved(`Saved as “${wanted}”.`);
      setName('');
    }
  };
  return (
    <div className="col-span-4 grid grid-cols-2 gap-x-4">
      <Field label="Begin with saved options" help="Fills the fields below; each can still be changed.">
        {(ids) => (
          <select {...ids} className="select select-sm w-full" value="" onChange={(e) => take(e.target.value)}>
            <option value="">choose …</option>
            {known.map((dialect, i) => (
              <option key={`${dialect.isOwn} ${dialect.name}`} value={i}>
                {dialect.name}
                {dialect.isOwn ? ' (saved here)' : ''}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field label="Save these options as" help={saved || 'For other devices of this project; the same name replaces it.'}>
        {(ids) => (
          <span className="flex gap-2">
            <input {...ids} className="input input-sm w-full" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
            <button type="button" className="btn btn-sm" disabled={name.trim() === '' || !settings} onClick={() => void save()}>
              Save
            </button>
          </span>
        )}
      </Field>
    </div>
  );
}

const TRY_AFTER_MS = 400;

/** One tag read as the device is kept, and read as the form has it. Only reads; nothing is kept by it. */
export function DialectTrialBar({ device, driver, form }: DialectSectionProps & { readonly device: Device }) {
  const project = useProject();
  const settings = settingsOf(driver, useWatch({ control: form.control, name: 'dialect' }));
  const tags = project.tags.filter((t) => deviceIdOf(t) === device.id);
  const [tagId, setTagId] = useState(tags.find((t) => t.type === 'REAL' || t.type === 'DINT')?.id ?? tags[0]?.id ?? '');
  const [kept, tried] = [useTrial(device.id, tagId, device.dialect), useTrial(device.id, tagId, settings)];
  if (tags.length === 0) return null;
  return (
    <section
      className="bg-base-200 mb-2 grid grid-cols-[13rem_minmax(0,1fr)_minmax(0,1fr)] gap-4 rounded p-2"
      aria-label="Tried on a tag"
      title="Only reads; nothing is kept until you say so."
    >
      <div>
        <label htmlFor="trial-tag" className="text-[13px] font-semibold">
          How it reads one tag
        </label>
        <select id="trial-tag" className="select select-sm mt-1 w-full" value={tagId} onChange={(e) => setTagId(e.target.value)}>
          {tags.map((tag) => (
            <option key={tag.id} value={tag.id}>
              {tag.name} · {tag.type} at {addressOf(tag)}
            </option>
          ))}
        </select>
      </div>
      <TrialSide title="As saved" trial={kept} />
      <TrialSide title="With the settings above" trial={settings ? tried : 'These settings cannot be used yet.'} />
    </section>
  );
}

function TrialSide({ title, trial }: { readonly title: string; readonly trial: DialectTrial | string | null }) {
  return (
    <div data-trial={title}>
      <h4 className="quiet text-xs font-semibold">{title}</h4>
      {trial === null ? (
        <p className="quiet" role="status">
          Reading …
        </p>
      ) : typeof trial === 'string' ? (
        <p className="is-bad">{trial}</p>
      ) : (
        <>
          <p className="num">
            <span className="text-base font-semibold">{trial.text}</span>{' '}
            <span className="quiet text-xs">{trial.wire === null ? '' : wireInWords(trial.wire)}</span>
          </p>
          <p className="quiet truncate text-xs" title={trial.place}>
            {trial.place}
          </p>
          <p className={`truncate text-xs ${trial.problem ? 'is-look' : 'quiet'}`} title={trial.problem ?? undefined}>
            {trial.problem ? `◆ ${trial.problem}` : `${trial.asked}, ${trial.roundTripMs.toFixed(1)} ms`}
          </p>
        </>
      )}
    </div>
  );
}

/** Reads again whenever the settings change, a moment after the last of them. */
function useTrial(deviceId: string, tagId: string, settings: Settings | null): DialectTrial | string | null {
  const [trial, setTrial] = useState<DialectTrial | string | null>(null);
  const wanted = settings === null ? null : JSON.stringify(settings);
  useEffect(() => {
    if (wanted === null || tagId === '') return;
    const stop = new AbortController();
    const timer = setTimeout(() => {
      void call<DialectTrial>('POST', `/devices/${deviceId}/try`, { tagId, dialect: JSON.parse(wanted) as Settings }, stop.signal).then((done) => {
        if (!stop.signal.aborted) setTrial(done.ok ? done.value : done.problem.message);
      });
    }, TRY_AFTER_MS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [deviceId, tagId, wanted]);
  return trial;
}
