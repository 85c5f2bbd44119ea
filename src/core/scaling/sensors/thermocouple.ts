/** Thermocouples: the voltage of a temperature and back, by the reference functions of IEC 60584-1 (ITS-90). */
import { inverseOf } from '../inverse.ts';
import { K_EXTRA, REFERENCE, type Stretch, type ThermocoupleType } from './thermocoupleData.ts';

export const THERMOCOUPLES = Object.keys(REFERENCE) as readonly ThermocoupleType[];

/**
 * Where type B has its lowest voltage, in °C: below, each voltage belongs to two temperatures. The zero of the derivative of
 * its first polynomial, worked out by Newton's method.
 */
const B_LOWEST = 21.020_261_9;

/** The temperatures for which a type is defined, °C. */
export function thermocoupleRange(type: ThermocoupleType): { readonly from: number; readonly to: number } {
  const stretches = REFERENCE[type];
  return { from: stretches[0]?.from ?? 0, to: stretches.at(-1)?.to ?? 0 };
}

/** The voltage between a junction at a temperature and one at 0 °C, mV; NaN outside the range of the type. */
export function millivolts(type: ThermocoupleType, celsius: number): number {
  const stretch = stretchAt(REFERENCE[type], celsius);
  if (!stretch) return NaN;
  const { terms } = stretch;
  let sum = 0;
  for (let i = terms.length - 1; i >= 0; i--) sum = sum * celsius + (terms[i] ?? 0);
  return type === 'K' && celsius > 0 ? sum + K_EXTRA.a * Math.exp(K_EXTRA.b * (celsius - K_EXTRA.c) ** 2) : sum;
}

function stretchAt(stretches: readonly Stretch[], celsius: number): Stretch | null {
  for (const stretch of stretches) if (celsius >= stretch.from && celsius <= stretch.to) return stretch;
  return null;
}

const inverses = new Map<ThermocoupleType, (millivolts: number) => number>();

/**
 * The inverse of {@link millivolts}, °C. Of the two temperatures of type B below about 42 °C the warmer one: below 21 °C it
 * is not measured with.
 */
export function celsiusOf(type: ThermocoupleType, voltage: number): number {
  let inverse = inverses.get(type);
  if (!inverse) {
    const { from, to } = thermocoupleRange(type);
    inverse = inverseOf((celsius) => millivolts(type, celsius), type === 'B' ? B_LOWEST : from, to);
    inverses.set(type, inverse);
  }
  return inverse(voltage);
}
