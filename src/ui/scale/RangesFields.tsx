'use client';
/** Ranges and limits of a tag: each in engineering units and as the raw value that it is, whichever is typed. */
import { useState } from 'react';
import { LIMIT_KEYS, LIMIT_WORDS } from '@/core/ranges/limits.ts';
import { rawOfShown, shownOfRaw } from '@/core/conversion.ts';
import { unjudged, type SignalDefinition } from '@/core/signal.ts';
import { LIMIT_FIELDS, type RangeField, type RangesForm } from './scaleForm.ts';

interface RangesFieldsProps {
  readonly form: RangesForm;
  /** The tag with the scale as it is typed; null while that does not fit. */
  readonly def: SignalDefinition | null;
  readonly unit: string;
  /** What becomes of them; empty for nothing. */
  readonly note: string;
  readonly errorAt: (place: string) => string | undefined;
  readonly onForm: (part: Partial<RangesForm>) => void;
}

interface RangeRow {
  readonly label: string;
  readonly keys: readonly RangeField[];
  readonly help: string;
}

const RANGES: readonly RangeRow[] = [
  { label: 'Expected', keys: ['low', 'high'], help: 'Outside, the value is marked as uncertain, and a write is refused.' },
  { label: 'Display', keys: ['displayLow', 'displayHigh'], help: 'The ends of bars and curves. Empty: the expected ones.' },
];
const LIMITS: readonly RangeRow[] = [...LIMIT_KEYS]
  .reverse()
  .map((key) => ({ label: LIMIT_WORDS[key], keys: [LIMIT_FIELDS[key]], help: 'At it and beyond, the value is marked.' }));

export function RangesFields({ form, def, unit, note, errorAt, onForm }: RangesFieldsProps) {
  const bare = def && { ...unjudged(def), names: undefined };
  const text = (key: RangeField, label: string) => (
    <input
      className={`input input-xs num w-full ${errorAt(key) ? 'input-error' : ''}`}
      aria-label={label}
      aria-invalid={errorAt(key) !== undefined}
      value={form[key]}
      onChange={(e) => onForm({ [key]: e.target.value })}
    />
  );
  const rows = (all: readonly RangeRow[]) =>
    all.flatMap(({ label, keys, help }) =>
      keys.map((key, i) => {
        const name = keys.length === 1 ? label : `${label} ${i === 0 ? 'from' : 'to'}`;
        return (
          <tr key={key} title={help} data-range={key}>
            <th scope="row" className="pr-2 text-left text-[13px] font-semibold whitespace-nowrap first-letter:uppercase">
              {name}
            </th>
            <td>{text(key, name)}</td>
            <td>{bare ? <RawInput def={bare} label={`${name}, raw`} eng={form[key]} onEng={(eng) => onForm({ [key]: eng })} /> : null}</td>
          </tr>
        );
      }),
    );
  const wrong = [...RANGES, ...LIMITS].flatMap(({ keys }) => keys.flatMap((key) => errorAt(key) ?? []));
  const more = (['rawLow', 'rawHigh', 'hysteresis', 'delay'] as const).flatMap((key) => errorAt(key) ?? []);
  return (
    <section aria-label="Ranges and limits" className="card-flat p-4">
      <h2 className="mb-1 font-semibold">Ranges and limits</h2>
      {note === '' ? null : <p className="is-look text-xs">{note}</p>}
      <table className="w-full border-separate border-spacing-y-1">
        <thead>
          <tr className="text-left text-xs">
            <th />
            <th scope="col" className="font-normal">
              {unit || 'value'}
            </th>
            <th scope="col" className="font-normal">
              raw
            </th>
          </tr>
        </thead>
        <tbody>
          {rows(RANGES)}
          {(['rawLow', 'rawHigh'] as const).map((key) => (
            <tr
              key={key}
              title="What the controller delivers when all is well: outside, the value is marked, and a write is refused."
              data-range={key}
            >
              <th scope="row" className="pr-2 text-left text-[13px] font-semibold">
                Raw {key === 'rawLow' ? 'from' : 'to'}
              </th>
              <td className="num quiet px-2">{bare && form[key].trim() !== '' ? shownText(bare, form[key]) : ''}</td>
              <td>{text(key, `Raw ${key === 'rawLow' ? 'from' : 'to'}`)}</td>
            </tr>
          ))}
          {rows(LIMITS)}
          <tr title="How far inside a limit a value has to come back." data-range="hysteresis">
            <th scope="row" className="pr-2 text-left text-[13px] font-semibold">
              Hysteresis
            </th>
            <td>{text('hysteresis', 'Hysteresis')}</td>
            <td />
          </tr>
          <tr title="How long a value has to be beyond a limit before it is marked." data-range="delay">
            <th scope="row" className="pr-2 text-left text-[13px] font-semibold">
              Delay
            </th>
            <td>{text('delay', 'Delay in seconds')}</td>
            <td className="quiet pl-2 text-xs">seconds</td>
          </tr>
        </tbody>
      </table>
      {[...wrong, ...more].map((message) => (
        <p key={message} role="alert" className="is-bad text-xs font-semibold">
          {message}
        </p>
      ))}
    </section>
  );
}

function shownText(def: SignalDefinition, raw: string): string {
  const shown = shownOfRaw(def, raw);
  return shown.ok ? shown.value.text : '–';
}

interface RawInputProps {
  readonly def: SignalDefinition;
  readonly label: string;
  readonly eng: string;
  readonly onEng: (eng: string) => void;
}

/** The raw value of an engineering one; what is typed here becomes the engineering value that it is. */
function RawInput({ def, label, eng, onEng }: RawInputProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const held = eng.trim() === '' ? null : rawOfShown(def, eng);
  const shown = typed === null ? null : shownOfRaw(def, typed);
  const problem =
    typed === null ? (held && !held.ok ? held.problem.message : null) : shown && !shown.ok && typed.trim() !== '' ? shown.problem.message : null;
  const take = (text: string): void => {
    setTyped(text);
    if (text.trim() === '') onEng('');
    const found = shownOfRaw(def, text);
    if (found.ok && Number.isFinite(Number(found.value.whole))) onEng(found.value.whole);
  };
  return (
    <input
      className={`input input-xs num w-full ${problem ? 'input-error' : ''}`}
      aria-label={label}
      title={problem ?? undefined}
      placeholder={problem ? 'none' : ''}
      value={typed ?? (held?.ok ? held.value.raw : '')}
      onChange={(e) => take(e.target.value)}
      onBlur={() => setTyped(null)}
    />
  );
}
