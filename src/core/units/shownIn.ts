/** A tag shown in another unit than its own: its scale goes one step further, and all that is said of it with it. */
import { ok, type Result } from '../result.ts';
import type { Range } from '../ranges/range.ts';
import type { Line } from '../scaling/line.ts';
import { scaleOf, stepsOf, toRaw } from '../scaling/scale.ts';
import type { SignalDefinition } from '../signal.ts';
import type { EngValue } from '../value/engineering.ts';
import { limitsAlong, rangeAlong } from './unitChange.ts';
import { unitLine } from './unitLine.ts';

const MOST_DECIMALS = 12;

const shown = new WeakMap<SignalDefinition, Map<string, Result<SignalDefinition>>>();

/**
 * The same signal in another unit: it reads the same bytes, and an entry in that unit leads back to them.
 * Refuses units that do not convert. What is shown as a text or a time has no unit, and stays as it is.
 */
export function shownIn(def: SignalDefinition, unit: string): Result<SignalDefinition> {
  if (unit === def.unit || def.names || def.type.kind === 'text' || def.type.kind === 'boolean') return ok(def);
  let units = shown.get(def);
  if (!units) shown.set(def, (units = new Map<string, Result<SignalDefinition>>()));
  let found = units.get(unit);
  if (!found) units.set(unit, (found = made(def, unit)));
  return found;
}

function made(def: SignalDefinition, unit: string): Result<SignalDefinition> {
  const line = unitLine(def.unit, unit);
  if (!line.ok) return line;
  const along = line.value;
  const { rawRange, display, limits } = def;
  return ok({
    ...def,
    scale: scaleOf([...stepsOf(def.scale), { kind: 'unit', from: def.unit, to: unit }]),
    unit,
    decimals: def.decimals === null ? null : decimalsAlong(along, def.decimals),
    range: def.range && rangeAlong(along, def.range),
    ...(rawRange ? { rawRange } : {}),
    ...(display ? { display: rangeAlong(along, display) } : {}),
    ...(limits ? { limits: limitsAlong(along, limits) } : {}),
  });
}

/** As many that a step of the last of them is about as much as before: 100.0 bar is 10000 kPa, 0.1 bar are 1.5 psi. */
function decimalsAlong({ p, r }: Line, decimals: number): number {
  const lost = Math.round(Math.log10(Math.abs(Number(p) / Number(r))));
  return Math.min(MOST_DECIMALS, Math.max(0, decimals - lost));
}

/** A range of the tag's own unit in that of the shown one. */
export function rangeIn(def: SignalDefinition, shown: SignalDefinition, range: Range): Range {
  const line = shown.unit === def.unit ? null : unitLine(def.unit, shown.unit);
  return line?.ok ? rangeAlong(line.value, range) : range;
}

/** What a value of the other unit is in the tag's own. */
export function inOwnUnit(def: SignalDefinition, unit: string, value: EngValue): Result<EngValue> {
  return unit === def.unit ? ok(value) : toRaw({ kind: 'unit', from: def.unit, to: unit }, value, false);
}
