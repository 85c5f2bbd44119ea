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

/** A current of 4 to 20 mA that tells faults of its own; it goes on as it is. */
export interface CurrentStep {
  readonly kind: 'current';
}

/** mA, NAMUR NE 43: it measures between the inner two, and tells a fault at and beyond the outer two. */
const NE43 = { failsLow: 3.6, low: 3.8, high: 20.5, failsHigh: 21 } as const;

export const current: StepRule<CurrentStep> = {
  title: '4–20 mA that tells faults',
  formula: 'y = x; at 3.6 mA and below or 21 mA and above the loop tells a fault, and measures from 3.8 to 20.5 mA',
  source: 'NAMUR NE 43',
  check: ok,
  inWords: () => '4–20 mA by NE 43',
  gives: () => 'mA',
  worked: (_, x) => `${x}`,
  curve: () => ({
    forward: (mA) => mA,
    back: (mA) => (mA > NE43.failsLow && mA < NE43.failsHigh ? mA : NaN),
    inverse: 'unique',
    exactness: 'exact',
    limits: `a loop measures between ${NE43.failsLow} and ${NE43.failsHigh} mA`,
    marks: [
      { x: NE43.failsLow, what: 'broken wire', isFault: true },
      { x: NE43.low, what: 'measures from', isFault: false },
      { x: NE43.high, what: 'measures up to', isFault: false },
      { x: NE43.failsHigh, what: 'loop fault', isFault: true },
    ],
    health(mA) {
      const has = `${Number(mA.toPrecision(4))} mA`;
      if (mA <= NE43.failsLow) return { reason: 'broken-wire', why: `${has}, and a loop has more than ${NE43.failsLow} mA` };
      if (mA >= NE43.failsHigh) return { reason: 'short-circuit', why: `${has}, and a loop has less than ${NE43.failsHigh} mA` };
      if (mA < NE43.low) return { reason: 'under-range', why: `${has}, and it measures from ${NE43.low} mA on` };
      return mA > NE43.high ? { reason: 'over-range', why: `${has}, and it measures up to ${NE43.high} mA` } : null;
    },
  }),
};

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
  gives: () => '°C',
  worked: ({ type, reference }, x) => (reference === 0 ? `E⁻¹(${x}), type ${type}` : `E⁻¹(${x} + E(${reference})), type ${type}`),
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
  gives: () => '°C',
  worked: ({ r0 }, x) => `t at which ${r0} · (1 + A · t + B · t² …) is ${x}`,
  curve: ({ r0 }) => ({
    forward: (r) => celsiusOfOhms(r0, r),
    back: (celsius) => ohms(r0, celsius),
    inverse: 'unique',
    exactness: 'approximate',
    limits: `it measures ${PLATINUM_RANGE.from} to ${PLATINUM_RANGE.to} °C`,
  }),
};
