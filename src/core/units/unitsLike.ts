/** Units to choose from, where a value is to be shown in another one. */
import { SPELLINGS } from './spellings.ts';
import { unitRelation } from './unitLine.ts';

/** Units that are written often and that a unit can be shown in. */
export function unitsLike(unit: string): readonly string[] {
  return [...Object.keys(SPELLINGS), ...PLAIN_UNITS].filter((other) => !ALIASES.has(other) && unitRelation(unit, other) === 'converts');
}

/** Codes that are written as they are in the trade. */
const PLAIN_UNITS: readonly string[] = [
  ...[
    'K',
    'Δ°C',
    'Δ°F',
    'bar',
    'mbar',
    'Pa',
    'kPa',
    'MPa',
    'mm',
    'cm',
    'm',
    'km',
    'g',
    'kg',
    't',
    'kg/h',
    't/h',
    'L',
    'mL',
    's',
    'ms',
    'min',
    'h',
    'd',
  ],
  ...['A', 'mA', 'V', 'mV', 'kV', 'W', 'kW', 'MW', 'Hz', 'kHz', 'J', 'kJ', 'MJ', 'N', 'kN', '%', 'm/s', 'm/min', 'km/h', 'deg', 'rad'],
];

/** Second spellings: one of each is enough to choose from. */
const ALIASES: ReadonlySet<string> = new Set([
  ...['degC', 'degF', 'μm', 'μs', 'μA', 'r/min', '1/min', '1/s', 'inch', 'mmH2O', 'deg', 'VA', 'kVA', 'var', 'kvar'],
]);
