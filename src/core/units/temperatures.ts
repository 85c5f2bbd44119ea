/** What sums of temperatures are: 90 °C less 20 °C are 70 degrees of difference, which are 126 °F of difference and not 158 °F. */
import { isTemperature, knownUnit } from './unitCode.ts';
import { unitRelation } from './unitLine.ts';

/** The scale of a temperature: `°C` has a zero that was chosen. */
function isAbsolute(unit: string): boolean {
  const known = knownUnit(unit);
  return known !== null && !known.isDifference && isTemperature(known.code);
}

/**
 * The unit of a sum or difference in which a temperature stands; null where it is none that could be told, undefined
 * where no temperature is among the two and units are compared as others are.
 */
export function unitOfSum(operator: '+' | '-', one: string | null, other: string | null): string | null | undefined {
  if (one === null || other === null || (!isAbsolute(one) && !isAbsolute(other))) return undefined;
  // Half of a sum of two may be their mean: by itself it is no temperature, and nothing that is wrong.
  if (one === other) return operator === '-' ? `Δ${one}` : null;
  if (isAbsolute(one) && unitRelation(other, `Δ${one}`) === 'same') return one;
  return operator === '+' && isAbsolute(other) && unitRelation(one, `Δ${other}`) === 'same' ? other : undefined;
}
