'use client';
/** The ends, bands and mark that a value is drawn with: what its element says, or its tag. */
import type { Live } from '@/core/panel/bound.ts';
import { drawnEnds, endsOn } from '@/core/panel/shownOn.ts';
import type { Range } from '@/core/ranges/range.ts';
import { rangeIn } from '@/core/units/shownIn.ts';
import { useNumber, type Drawn } from '../useValues.ts';

export interface Scaled {
  readonly ends: Range;
  /** Where the low and the high band end; null for none. */
  readonly lowBand: number | null;
  readonly highBand: number | null;
  /** Limits of the tag, with whether each is an outer one. */
  readonly marks: readonly { readonly at: number; readonly isOuter: boolean }[];
  readonly target: number | null;
}

interface Said {
  readonly low: Live<number> | null;
  readonly high: Live<number> | null;
  readonly bands?: 'tag' | 'own' | 'none';
  readonly bandLow?: Live<number> | null;
  readonly bandHigh?: Live<number> | null;
  readonly target?: Live<number> | null;
}

export function useScaled({ def, shownDef }: Drawn, said: Said): Scaled {
  const [low, high] = [useNumber(said.low), useNumber(said.high)];
  const [bandLow, bandHigh] = [useNumber(said.bandLow ?? null), useNumber(said.bandHigh ?? null)];
  const target = useNumber(said.target ?? null);
  const own = { ...(low === null ? {} : { low }), ...(high === null ? {} : { high }) };
  const ends = def && shownDef ? endsOn(def, shownDef, own) : drawnEnds(own, null);
  const shown = (value: number | null): number | null =>
    value === null || !def || !shownDef ? value : rangeIn(def, shownDef, { low: value, high: value }).low;
  const limits = said.bands === 'tag' ? (shownDef?.limits ?? null) : null;
  const marks = limits
    ? (['lowLow', 'low', 'high', 'highHigh'] as const).flatMap((key) => {
        const at = limits[key];
        return at === null ? [] : [{ at, isOuter: key === 'lowLow' || key === 'highHigh' }];
      })
    : [];
  return {
    ends,
    lowBand: said.bands === 'own' ? shown(bandLow) : (limits?.low ?? limits?.lowLow ?? null),
    highBand: said.bands === 'own' ? shown(bandHigh) : (limits?.high ?? limits?.highHigh ?? null),
    marks,
    target: shown(target),
  };
}

/** Which band a value lies in, in a word. */
export function bandOf({ lowBand, highBand }: Scaled, number: number | null): 'low' | 'high' | null {
  if (number === null) return null;
  return lowBand !== null && number <= lowBand ? 'low' : highBand !== null && number >= highBand ? 'high' : null;
}

/** An end that was converted is no longer round. */
export function endText(value: number): string {
  return String(Number(value.toPrecision(6)));
}
