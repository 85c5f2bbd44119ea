/** What a value in one unit is in another: a straight line in exact fractions. The factors are those of UCUM. */
import { ucum } from '@atomic-ehr/ucum';
import { fail, ok, type Result } from '../result.ts';
import { inverted, lineOf, numberAlong, type Line } from '../scaling/line.ts';
import { isTemperature, knownUnit, SPELT_UNITS, type KnownUnit } from './unitCode.ts';

/** How two units stand to each other. `unknown`: one of them is a word like any other. */
export type UnitRelation = 'same' | 'converts' | 'clash' | 'unknown';

export function unitRelation(one: string, other: string): UnitRelation {
  if (one === other) return 'same';
  const [a, b] = [knownUnit(one), knownUnit(other)];
  if (!a || !b) return 'unknown';
  if (!ucum.isConvertible(a.code, b.code)) return 'clash';
  if (hasZero(a) !== hasZero(b) && (hasZero(a) ? b : a).isDifference) return 'clash';
  const line = lineBetween(a, b);
  return line.p === line.r && line.q === 0n ? 'same' : 'converts';
}

/** Values have a zero that was chosen: temperatures, and no differences of them. Kelvins are both. */
function hasZero({ code, isDifference }: KnownUnit): boolean {
  return isTemperature(code) && !isDifference;
}

/** Refuses units that do not convert into each other, and ones that nobody knows. */
export function unitLine(from: string, to: string): Result<Line> {
  const [a, b] = [knownUnit(from), knownUnit(to)];
  if (!a || !b)
    return fail(
      'unit-unknown',
      `“${(a ? to : from).slice(0, 20)}” is no unit that is known here.`,
      'Write it as in °C, bar, m³/h or kg, or as a code of UCUM.',
      a ? 'to' : 'from',
    );
  switch (unitRelation(from, to)) {
    case 'same':
      return ok(lineOf(1, 0));
    case 'converts':
      return ok(lineBetween(a, b));
    default:
      return fail('unit-clash', `${from} cannot become ${to}: ${clashOf(a, b)}.`, 'Choose a unit of the same kind.', 'to');
  }
}

function clashOf(a: KnownUnit, b: KnownUnit): string {
  return ucum.isConvertible(a.code, b.code) ? 'one is a temperature, the other a difference of temperatures' : 'they measure different things';
}

const lines = new Map<string, Line>();

function lineBetween(from: KnownUnit, to: KnownUnit): Line {
  const key = `${from.code} ${String(from.isDifference)} ${to.code} ${String(to.isDifference)}`;
  let line = lines.get(key);
  if (!line) lines.set(key, (line = made(from, to)));
  return line;
}

/** Far apart, so that what doubles lose beside an offset of 459.67 is lost below the digits that are kept. */
const FAR = 1e6;

/** The way whose factor is the shorter decimal is taken as it is written; the other one is its inverse. */
function made(from: KnownUnit, to: KnownUnit): Line {
  const [there, back] = [factorOf(from, to), factorOf(to, from)];
  const longer = digitsOf(there) - digitsOf(back);
  // Of two that are as long always the same one, so that each is the other's inverse.
  return longer < 0 || (longer === 0 && from.code <= to.code) ? lineOf(there, zeroOf(from, to)) : inverted(lineOf(back, zeroOf(to, from)));
}

function factorOf(from: KnownUnit, to: KnownUnit): number {
  const at = (value: number): number => ucum.convert(value, from.code, to.code);
  return cut(isTemperature(from.code) || isTemperature(to.code) ? (at(FAR) - at(0)) / FAR : at(1), 14);
}

/** What 0 is. */
function zeroOf(from: KnownUnit, to: KnownUnit): number {
  const isAbsolute = (isTemperature(from.code) || isTemperature(to.code)) && !from.isDifference && !to.isDifference;
  return isAbsolute ? cut(ucum.convert(0, from.code, to.code), 12) : 0;
}

function cut(value: number, digits: number): number {
  return Number(value.toPrecision(digits));
}

function digitsOf(value: number): number {
  return value.toExponential().replace(/e.*|[-.]/g, '').length;
}

/** `1 mbar is 0.001 bar`; for temperatures `0 °C is 32 °F`, and their factor. */
export function conversionText(from: string, to: string): string {
  const line = unitLine(from, to);
  if (!line.ok) return line.problem.message;
  const { q } = line.value;
  const at = (value: number): string => `${value} ${from} is ${Number(numberAlong(line.value, value).toPrecision(10))} ${to}`;
  return q === 0n ? at(1) : `${at(0)}, ${at(100)}`;
}

/** Units that are written often and that a unit can be shown in. */
export function unitsLike(unit: string): readonly string[] {
  return [...SPELT_UNITS, ...PLAIN_UNITS].filter((other) => !ALIASES.has(other) && unitRelation(unit, other) === 'converts');
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
