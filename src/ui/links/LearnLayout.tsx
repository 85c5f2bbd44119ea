'use client';
/** Learns how a device lays out memory from a block of known values that its program fills, and shows what tells it. */
import { Check, CircleDashed, Copy, Download } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { SignatureReading } from '@/core/live/signatureReading.ts';
import type { Device } from '@/core/project/entities.ts';
import { choiceWords } from '@/core/manifest/settingsSchema.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { signatureText } from '@/core/signature/text.ts';
import type { DriverDescription, SignaturePart } from '@/drivers/contract.ts';
import { call } from '../live/api.ts';
import { useChange, wasIn } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';

interface LearnLayoutProps {
  readonly device: Device;
  readonly driver: DriverDescription;
  readonly signature: SignaturePart;
  readonly onClose: () => void;
}

export function LearnLayout({ device, driver, signature, onClose }: LearnLayoutProps) {
  const change = useChange();
  const [word, setWord] = useState('100');
  const [reference, setReference] = useState('');
  const [reading, setReading] = useState<SignatureReading | null>(null);
  const [problem, setProblem] = useState<{ readonly text: string; readonly place: string } | null>(null);
  const [isReading, setIsReading] = useState(false);
  const [isSet, setIsSet] = useState(false);
  const isPlace = /^\d{1,5}$/.test(word.trim()) && Number(word) <= 65_535;
  const text = isPlace ? signatureText(signature.declared(Number(word))) : '';

  const read = async (): Promise<void> => {
    setIsReading(true);
    setProblem(null);
    setReading(null);
    setIsSet(false);
    const done = await call<SignatureReading>('POST', `/devices/${device.id}/signature`, { word: Number(word), reference: reference.trim() });
    setIsReading(false);
    if (done.ok) setReading(done.value);
    else setProblem({ text: `${done.problem.message} ${done.problem.remedy ?? ''}`, place: done.problem.place ?? '' });
  };
  const take = async (): Promise<void> => {
    const set = { dialect: { ...device.dialect, ...reading?.settings } };
    const done = await change(`protocol options of ${device.name} learnt from a block of known values`, [
      { kind: 'device', id: device.id, set, was: wasIn(device, set) },
    ]);
    if (done.ok) setIsSet(true);
  };
  const changed = Object.entries(reading?.settings ?? {}).filter(([name, value]) => {
    const now = device.dialect[name] ?? driver.dialect.properties[name]?.default;
    return !sameJson(now, value);
  });
  return (
    <Dialog title={`Learn how ${device.name} lays out memory`} onClose={onClose} wide>
      <p className="quiet mb-3">
        Its program fills a block with known values; how they come over the wire shows how it counts, orders bytes and bits, and lays out texts and
        structures. Put the program into the controller, let it run once, and read the block. Here it is only read.
      </p>
      <form
        className="grid grid-cols-[1fr_1fr_auto_auto_auto] items-start gap-3"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void read();
        }}
      >
        <Field label={signature.placeTitle} help={signature.placeHelp} error={problem?.place === 'word' ? problem.text : undefined}>
          {(ids) => (
            <input {...ids} className="input input-sm num w-full" inputMode="numeric" value={word} onChange={(e) => setWord(e.target.value)} />
          )}
        </Field>
        <Field label="Its number in the manual" help={signature.referenceHelp} error={problem?.place === 'reference' ? problem.text : undefined}>
          {(ids) => <input {...ids} className="input input-sm num w-full" value={reference} onChange={(e) => setReference(e.target.value)} />}
        </Field>
        <button
          type="button"
          className="btn btn-sm btn-outline mt-6"
          disabled={!isPlace}
          onClick={() => {
            void navigator.clipboard.writeText(text).then(
              () => toast('The program is on the clipboard.'),
              () => toast.error('The browser does not allow it: download the program.'),
            );
          }}
        >
          <Copy size={14} aria-hidden /> Copy program
        </button>
        <a
          className={`btn btn-sm btn-outline mt-6 ${isPlace ? '' : 'btn-disabled'}`}
          download="signature.st"
          href={`data:text/plain;charset=utf-8,${encodeURIComponent(text)}`}
        >
          <Download size={14} aria-hidden /> Download
        </a>
        <button type="submit" className="btn btn-sm btn-primary mt-6" disabled={!isPlace || isReading}>
          {isReading ? 'Reading …' : 'Read the block'}
        </button>
      </form>
      {problem && problem.place !== 'word' && problem.place !== 'reference' ? (
        <p role="alert" className="is-bad">
          {problem.text}
        </p>
      ) : null}
      {reading ? (
        <section aria-live="polite" aria-label="What the block shows" className="mt-2">
          <h3 className="mb-1 font-semibold">
            Found at <span className="num">{reading.place}</span>
          </h3>
          <div role="table" className="max-h-64 overflow-auto text-[13px]">
            {reading.evidence.map(({ title, found, seen }) => (
              <div
                role="row"
                key={title}
                data-evidence={title}
                className="border-base-300 grid min-h-8 grid-cols-[1rem_13rem_minmax(0,1.2fr)_minmax(0,1fr)] items-center gap-2 border-b"
              >
                {found === null ? (
                  <CircleDashed size={14} className="quiet" aria-label="not shown" />
                ) : (
                  <Check size={14} className="is-good" aria-label="shown" />
                )}
                <span role="cell">{title}</span>
                <span role="cell" className={found === null ? 'quiet' : 'font-medium'}>
                  {found ?? 'the block does not show it'}
                </span>
                <span role="cell" className="num quiet truncate" title={seen}>
                  {seen}
                </span>
              </div>
            ))}
          </div>
          <p className="mt-2">
            {changed.length === 0
              ? 'The protocol options say all this already.'
              : `Other than in the protocol options: ${changed
                  .map(([name, value]) => {
                    const setting = driver.dialect.properties[name];
                    return `${setting?.title ?? name} ${(setting && choiceWords(setting, String(value))) ?? String(value)}`;
                  })
                  .join('; ')}.`}
          </p>
        </section>
      ) : (
        <details className="mt-2">
          <summary className="cursor-pointer font-semibold">The program</summary>
          <pre className="num bg-base-200 mt-1 max-h-64 overflow-auto p-2 text-xs">{text}</pre>
        </details>
      )}
      <div className="mt-4 flex items-center justify-end gap-2">
        {isSet ? <span className="is-good mr-auto">● The protocol options are set. Undo brings the old ones back.</span> : null}
        {reading && changed.length > 0 ? (
          <button type="button" className="btn btn-sm btn-primary" onClick={() => void take()}>
            Set these protocol options
          </button>
        ) : null}
        <button type="button" className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
