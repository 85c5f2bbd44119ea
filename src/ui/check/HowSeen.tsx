'use client';
/** How the value came to be that is looked at, and how far off it may be: said once, and kept for the tags that follow. */
import { HOWS, type How } from '@/core/check/proof.ts';

/** As it is entered. */
export interface HowSeenTexts {
  readonly how: How;
  /** What it was set to where it was not as it was. */
  readonly tried: string;
  readonly tolerance: string;
}

export const AS_IT_WAS: HowSeenTexts = { how: 'observed', tried: '', tolerance: '' };

/** What of it goes into a witness. Null: the tolerance is no number of zero or more. */
export function toldHow({ how, tried, tolerance }: HowSeenTexts): object | null {
  const allowed = tolerance.trim() === '' ? 0 : Number(tolerance);
  if (!Number.isFinite(allowed) || allowed < 0) return null;
  return { how, ...(how === 'observed' || tried.trim() === '' ? {} : { tried: tried.trim() }), ...(allowed > 0 ? { tolerance: allowed } : {}) };
}

interface HowSeenProps {
  readonly texts: HowSeenTexts;
  readonly unit: string;
  readonly onChange: (texts: HowSeenTexts) => void;
}

export function HowSeen({ texts, unit, onChange }: HowSeenProps) {
  const isRight = toldHow(texts) !== null;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2 text-[13px]">
      <label className="flex items-center gap-2">
        <span className="quiet">The value is</span>
        <select
          aria-label="How the value came to be"
          className="select select-xs w-44"
          value={texts.how}
          onChange={(e) => onChange({ ...texts, how: e.target.value as How })}
        >
          {Object.entries(HOWS).map(([how, words]) => (
            <option key={how} value={how}>
              {words}
            </option>
          ))}
        </select>
      </label>
      {texts.how === 'observed' ? null : (
        <label className="flex items-center gap-2">
          <span className="quiet">to</span>
          <input
            aria-label="What it was set to"
            className="input input-xs num w-20"
            value={texts.tried}
            onChange={(e) => onChange({ ...texts, tried: e.target.value })}
          />
        </label>
      )}
      <label className="flex items-center gap-2">
        <span className="quiet">off by ±</span>
        <input
          aria-label="Tolerance"
          aria-invalid={!isRight}
          className="input input-xs num w-16"
          placeholder="0"
          title="Beside the decimals that are shown: what a gauge or calibrator may be off by"
          value={texts.tolerance}
          onChange={(e) => onChange({ ...texts, tolerance: e.target.value })}
        />
        <span className="quiet">{unit}</span>
      </label>
      {isRight ? null : (
        <span role="alert" className="is-bad">
          A number of zero or more.
        </span>
      )}
    </div>
  );
}
