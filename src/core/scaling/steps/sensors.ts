/** Steps that are sensors. */
import { fail, ok } from '../../result.ts';
import { celsiusOfOhms, ohms, PLATINUM_RANGE } from '../sensors/platinum.ts';
import { celsiusOf, millivolts, thermocoupleRange, THERMOCOUPLES } from '../sensors/thermocouple.ts';
import type { ThermocoupleType } from '../sensors/thermocoupleData.ts';
import type { StepRule } from './stepRule.ts';

/** mV to °C. */
export interface ThermocoupleStep {
  readonly kind: 'thermocouple';
  readonly type: ThermocoupleType;
  /** The temperature of its reference junction, °C. */
  readonly reference: number;
}

/** Ω to °C. */
export interface PlatinumStep {
  readonly kind: 'platinum';
  /** Ω at 0 °C. */
  readonly r0: number;
}

export const PLATINUM_SENSORS = [100, 500, 1000] as const;

export const thermocouple: StepRule<ThermocoupleStep> = {
  title: 'Thermocouple',
  formula: '°C = E⁻¹(mV + E(reference junction))',
  source: 'IEC 60584-1, reference functions on ITS-90; the inverse is found numerically',
  check(step) {
    if (!THERMOCOUPLES.includes(step.type)) return fail('scale-sensor', `Choose one of the types ${THERMOCOUPLES.join(', ')}.`, undefined, 'type');
    const { from, to } = thermocoupleRange(step.type);
    const [least, most] = [Math.max(from, -50), Math.min(to, 100)];
    return step.reference >= least && step.reference <= most
      ? ok(step)
      : fail('scale-sensor', `The reference junction of type ${step.type} is at ${least} to ${most} °C.`, undefined, 'reference');
  },
  inWords: ({ type, reference }) => `thermocouple ${type}${reference === 0 ? '' : `, reference at ${reference} °C`}`,
  curve({ type, reference }) {
    const atReference = millivolts(type, reference);
    const { from, to } = thermocoupleRange(type);
    return {
      forward: (mv) => celsiusOf(type, mv + atReference),
      back: (celsius) => millivolts(type, celsius) - atReference,
      inverse: type === 'B' ? 'chosen' : 'unique',
      exactness: 'approximate',
      limits: `type ${type} measures ${from} to ${to} °C`,
    };
  },
};

export const platinum: StepRule<PlatinumStep> = {
  title: 'Platinum resistance',
  formula: 'R = R0 · (1 + A · t + B · t² + C · (t − 100) · t³), the last term below 0 °C',
  source: 'IEC 60751, clause 5.1',
  check(step) {
    return (PLATINUM_SENSORS as readonly number[]).includes(step.r0)
      ? ok(step)
      : fail('scale-sensor', `Choose a sensor of ${PLATINUM_SENSORS.join(', ')} Ω.`, undefined, 'r0');
  },
  inWords: ({ r0 }) => `Pt${r0}`,
  curve: ({ r0 }) => ({
    forward: (r) => celsiusOfOhms(r0, r),
    back: (celsius) => ohms(r0, celsius),
    inverse: 'unique',
    exactness: 'approximate',
    limits: `it measures ${PLATINUM_RANGE.from} to ${PLATINUM_RANGE.to} °C`,
  }),
};
