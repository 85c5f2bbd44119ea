'use client';
/** Finds base, function and order of a device from a value that somebody has seen, and settles it by a second one. */
import { useState } from 'react';
import { settle, type Candidate } from '@/core/find/knownValue.ts';
import type { Device } from '@/core/project/entities.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { call } from '../live/api.ts';
import { useChange, useProject, wasIn } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';

export function FindValue({ device, onClose }: { readonly device: Device; readonly onClose: () => void }) {
  const change = useChange();
  const driver = describeDriver(useProject().link(device.linkId)?.driver ?? '');
  const [reference, setReference] = useState('');
  const [value, setValue] = useState('');
  const [first, setFirst] = useState<readonly Candidate[] | null>(null);
  const [found, setFound] = useState<readonly Candidate[] | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [isReading, setReading] = useState(false);
  const [used, setUsed] = useState('');

  const look = async (isSecond: boolean): Promise<void> => {
    setReading(true);
    setProblem(null);
    setUsed('');
    const done = await call<readonly Candidate[]>('POST', `/devices/${device.id}/find`, { reference: reference.trim(), value: value.trim() });
    setReading(false);
    if (!done.ok) {
      setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`);
      return;
    }
    const left = isSecond && found ? settle(found, done.value) : done.value;
    if (!isSecond) setFirst(done.value);
    setFound(left);
    setValue('');
  };
  const use = async (candidate: Candidate): Promise<void> => {
    const type = parseDataType(candidate.type);
    const field = type.ok ? driver?.bytes?.orderSetting?.(type.value) : null;
    const set = { dialect: { ...device.dialect, ...candidate.settings, ...(field ? { [field]: candidate.order } : {}) } };
    const done = await change(`protocol options of ${device.name} found by a value`, [
      { kind: 'device', id: device.id, set, was: wasIn(device, set) },
    ]);
    if (done.ok) setUsed(candidate.key);
  };
  const isSecond = found !== null;
  return (
    <Dialog title={`Find how ${device.name} is read, from a value`} onClose={onClose} wide>
      <p className="quiet mb-3">
        Look at the device: which place, as its manual numbers it, shows which value? It is looked for in every way to count and to ask, in every type
        and order. Only reads.
      </p>
      <form
        className="grid grid-cols-[1fr_1fr_auto] items-start gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void look(isSecond);
        }}
      >
        <Field label="Place" help="As the manual numbers it, or only the number.">
          {(ids) => (
            <input
              {...ids}
              className="input input-sm num w-full"
              value={reference}
              disabled={isSecond}
              placeholder={driver?.notation.example}
              onChange={(e) => setReference(e.target.value)}
            />
          )}
        </Field>
        <Field
          label={isSecond ? 'It shows now' : 'It shows'}
          help={isSecond ? 'Wait until it shows another value: that settles it.' : 'As the display has it, with a decimal point.'}
        >
          {(ids) => (
            <input {...ids} className="input input-sm num w-full" value={value} placeholder="23.5" onChange={(e) => setValue(e.target.value)} />
          )}
        </Field>
        <button type="submit" className="btn btn-sm btn-primary mt-5" disabled={isReading || reference.trim() === '' || value.trim() === ''}>
          {isReading ? 'Reading …' : isSecond ? 'Settle' : 'Look'}
        </button>
      </form>
      {problem ? (
        <p role="alert" className="is-bad">
          {problem}
        </p>
      ) : null}
      {found ? (
        <section aria-live="polite" className="mt-2">
          <h3 className="font-semibold">
            {found.length === 0
              ? 'Nothing there shows that value'
              : found.length === 1
                ? '● One reading shows it'
                : `${found.length} readings show it${first && found !== first ? ' still' : ''}: a second value tells which`}
          </h3>
          {found.length === 0 ? <p className="quiet">The value may have moved; look again, or begin anew with another place.</p> : null}
          <ul className="max-h-64 overflow-auto">
            {found.map((candidate) => (
              <li key={candidate.key} data-candidate={candidate.key} className="border-base-300 flex min-h-9 items-center gap-3 border-b">
                <span className="num w-24 text-right">{candidate.text}</span>
                <span className="flex-1">
                  {candidate.words} <span className="num quiet">{candidate.canonical}</span>
                </span>
                {used === candidate.key ? (
                  <span className="is-good">● set</span>
                ) : (
                  <button type="button" className="btn btn-xs btn-outline" onClick={() => void use(candidate)}>
                    Read the device so
                  </button>
                )}
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      <div className="mt-4 flex justify-end gap-2">
        {isSecond ? (
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => {
              setFound(null);
              setFirst(null);
              setProblem(null);
            }}
          >
            Begin anew
          </button>
        ) : null}
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
