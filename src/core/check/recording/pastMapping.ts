/** How a tag was mapped when something was recorded, as text: the past is shown as it was shown then, or as it would be now. */
import { isStep } from '../../scaling/step.ts';
import { scaleOf, stepsOf, type Scale } from '../../scaling/scale.ts';
import type { SignalDefinition } from '../../signal.ts';
import { formatDataType, parseDataType } from '../../value/dataType.ts';

export function mappingText({ type, order, bit, scale, unit, decimals, names }: SignalDefinition): string {
  return JSON.stringify([
    formatDataType(type),
    order,
    bit,
    stepsOf(scale),
    unit,
    decimals,
    names?.map(({ value, name }) => [String(value), name]) ?? [],
  ]);
}

/** Null where it is none that this program knows. */
export function mappingIn(text: string): SignalDefinition | null {
  try {
    const [name, order, bit, steps, unit, decimals, names] = JSON.parse(text) as [
      string,
      string,
      number | null,
      unknown[],
      string,
      number | null,
      [string, string][],
    ];
    const type = parseDataType(name);
    if (!type.ok || !steps.every(isStep)) return null;
    const scale: Scale = scaleOf(steps);
    const named = names.map(([value, title]) => ({ value: Number(value), name: title }));
    return { type: type.value, order, bit, scale, unit, decimals, range: null, ...(named.length > 0 ? { names: named } : {}) };
  } catch {
    return null;
  }
}
