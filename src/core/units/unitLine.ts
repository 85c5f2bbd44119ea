/** What a value in one unit is in another: a straight line in exact fractions. The factors are those of UCUM. */
import { fail, ok, type Result } from '../result.ts';
import { numberAlong, type Line, lineOf } from '../scaling/line.ts';
import { isTemperature, knownUnit } from './unitCode.ts';
import { unitTable, type KnownUnit } from './unitTable.ts';

/** How two units stand to each other. `unknown`: one of them is a word like any other. */
export type UnitRelation = 'same' | 'converts' | 'clash' | 'unknown';

export function unitRelation(one: string, other: string): UnitRelation {
  if (one === other) return 'same';
  const [a, b] = [knownUnit(one), knownUnit(other)];
  if (!a || !b) return 'unknown';
  const line = unitTable().line(a, b);
  if (!line || (hasZero(a) !== hasZero(b) && (hasZero(a) ? b : a).isDifference)) return 'clash';
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
  const relation = unitRelation(from, to);
  if (relation === 'same') return ok(lineOf(1, 0));
  const line = unitTable().line(a, b);
  return line && relation === 'converts'
    ? ok(line)
    : fail('unit-clash', `${from} cannot become ${to}: ${clashOf(a, b)}.`, 'Choose a unit of the same kind.', 'to');
}

function clashOf(a: KnownUnit, b: KnownUnit): string {
  return unitTable().line(a, b) ? 'one is a temperature, the other a difference of temperatures' : 'they measure different things';
}

/** `1 mbar is 0.001 bar`; for temperatures `0 °C is 32 °F`, and their factor. */
export function conversionText(from: string, to: string): string {
  const line = unitLine(from, to);
  if (!line.ok) return line.problem.message;
  const { q } = line.value;
  const at = (value: number): string => `${value} ${from} is ${Number(numberAlong(line.value, value).toPrecision(10))} ${to}`;
  return q === 0n ? at(1) : `${at(0)}, ${at(100)}`;
}
