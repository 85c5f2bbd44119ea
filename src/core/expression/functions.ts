/** The functions of expressions; names and arguments as IEC 61131-3 has them, 6.6.2.5, where it has one. */
import { celsiusOfOhms } from '../scaling/sensors/platinum.ts';
import { celsiusOf, millivolts, THERMOCOUPLES } from '../scaling/sensors/thermocouple.ts';
import type { ValueKind, Value } from './tree.ts';

export interface FunctionSpec {
  readonly name: string;
  /** Kinds of its arguments; `same` is any kind, the same for all that say so. */
  readonly args: readonly (ValueKind | 'same' | 'any')[];
  /** How many of the last may be left away. */
  readonly optional: number;
  /** The last one may be there several times. */
  readonly isOpen: boolean;
  readonly result: ValueKind | 'same';
  /** How it is written, and what it gives. */
  readonly form: string;
  readonly help: string;
  /** Of its arguments' values; null where there is no result, such as the root of a negative number. */
  readonly run: ((args: readonly Value[]) => Value | null) | null;
  /** Keeps something from one moment to the next, so it must see every moment. */
  readonly remembers: boolean;
  /** The unit of its result, where that is always the same. */
  readonly unit?: string;
  /** Its result changes with time alone. */
  readonly usesTime: boolean;
}

type Args = FunctionSpec['args'];

function pure(
  form: string,
  help: string,
  args: Args,
  result: FunctionSpec['result'],
  run: FunctionSpec['run'],
  more: Partial<FunctionSpec> = {},
): FunctionSpec {
  return {
    name: form.slice(0, form.indexOf('(')),
    form,
    help,
    args,
    result,
    run,
    optional: 0,
    isOpen: false,
    remembers: false,
    usesTime: false,
    ...more,
  };
}
function kept(form: string, help: string, args: Args, result: FunctionSpec['result'], usesTime: boolean): FunctionSpec {
  return pure(form, help, args, result, null, { remembers: true, usesTime });
}

const N = 'number' as const;
const B = 'boolean' as const;
const T = 'text' as const;
const number = (value: Value | undefined): number => Number(value);
const text = (value: Value | undefined): string => String(value);
const real = (run: (x: number) => number) => (args: readonly Value[]) => run(number(args[0]));
/** Half away from zero, on the digits that a person sees: 1.005 to two places is 1.01. */
export function roundTo(value: number, places: number): number {
  if (!Number.isFinite(value)) return value;
  const [digits = '', exponent = '0'] = Math.abs(value).toString().split('e');
  const shifted = Math.round(Number(`${digits}e${Number(exponent) + places}`));
  const [whole = '', more = '0'] = shifted.toString().split('e');
  return Math.sign(value) * Number(`${whole}e${Number(more) - places}`);
}

const whole = (run: (x: number) => number) => (args: readonly Value[]) => (typeof args[0] === 'bigint' ? args[0] : run(number(args[0])));
const extreme = (isBetter: (a: Value, b: Value) => boolean) => (args: readonly Value[]) =>
  args.reduce((best, value) => (isBetter(value, best) ? value : best));
const LONGEST_TEXT = 1000;
const cut = (value: string): string => value.slice(0, LONGEST_TEXT);

/** The text of a number, without digits that mean nothing. */
export function numberText(value: Value | undefined, places: number | null): string {
  if (typeof value !== 'number') return typeof value === 'boolean' ? (value ? 'on' : 'off') : String(value);
  return places === null ? String(Number(value.toPrecision(15))) : roundTo(value, places).toFixed(places);
}

export const FUNCTIONS: readonly FunctionSpec[] = [
  pure('abs(x)', 'x without its sign', [N], N, ([x = 0]) => (typeof x === 'bigint' ? (x < 0n ? -x : x) : Math.abs(number(x)))),
  pure(
    'min(a, b, …)',
    'the least of its arguments',
    [N, N],
    N,
    extreme((a, b) => a < b),
    { isOpen: true },
  ),
  pure(
    'max(a, b, …)',
    'the greatest of its arguments',
    [N, N],
    N,
    extreme((a, b) => a > b),
    { isOpen: true },
  ),
  pure('limit(low, x, high)', 'x, but no less than low and no more than high', [N, N, N], N, ([low = 0, x = 0, high = 0]) =>
    low > high ? null : x < low ? low : x > high ? high : x,
  ),
  pure(
    'round(x, places)',
    'x rounded, half away from zero; without places to a whole number',
    [N, N],
    N,
    ([x = 0, places = 0]) => (typeof x === 'bigint' && number(places) >= 0 ? x : isPlaces(places) ? roundTo(number(x), number(places)) : null),
    { optional: 1 },
  ),
  pure('floor(x)', 'the next whole number below', [N], N, whole(Math.floor)),
  pure('ceil(x)', 'the next whole number above', [N], N, whole(Math.ceil)),
  pure('trunc(x)', 'x without its decimals', [N], N, whole(Math.trunc)),
  pure('sign(x)', '−1, 0 or 1', [N], N, ([x = 0]) => (number(x) > 0 ? 1 : number(x) < 0 ? -1 : 0)),
  pure('sqrt(x)', 'the square root', [N], N, real(Math.sqrt)),
  pure('exp(x)', 'e to the power of x', [N], N, real(Math.exp)),
  pure('ln(x)', 'the natural logarithm', [N], N, real(Math.log)),
  pure('log(x)', 'the logarithm to base 10', [N], N, real(Math.log10)),
  pure('sin(x)', 'the sine; angles in radians', [N], N, real(Math.sin)),
  pure('cos(x)', 'the cosine', [N], N, real(Math.cos)),
  pure('tan(x)', 'the tangent', [N], N, real(Math.tan)),
  pure('asin(x)', 'the angle with this sine', [N], N, real(Math.asin)),
  pure('acos(x)', 'the angle with this cosine', [N], N, real(Math.acos)),
  pure('atan(x)', 'the angle with this tangent', [N], N, real(Math.atan)),
  pure(
    'thermocouple(type, mV, reference)',
    'the temperature of a thermocouple in °C: its type as a text, its voltage, and where its reference junction is measured that temperature',
    [T, N, N],
    N,
    ([type, voltage, reference = 0]) => {
      const known = THERMOCOUPLES.find((each) => each === text(type).toUpperCase());
      return known ? celsiusOf(known, number(voltage) + millivolts(known, number(reference))) : null;
    },
    { optional: 1, unit: '°C' },
  ),
  pure(
    'platinum(r0, ohms)',
    'the temperature of a platinum sensor in °C: 100, 500 or 1000 for its resistance at 0 °C, and its resistance',
    [N, N],
    N,
    ([r0, resistance]) => (number(r0) > 0 ? celsiusOfOhms(number(r0), number(resistance)) : null),
    { unit: '°C' },
  ),
  pure('shl(x, n)', 'the bits of x moved up by n', [N, N], N, ([x = 0, n = 0]) => shifted(x, number(n))),
  pure('shr(x, n)', 'the bits of x moved down by n', [N, N], N, ([x = 0, n = 0]) => shifted(x, -number(n))),
  pure('bit(x, n)', 'whether bit n of x is set; 0 is the least significant', [N, N], B, ([x = 0, n = 0]) =>
    isWhole(x) && isWhole(n) && n >= 0 && n < 64 ? ((BigInt(x) >> BigInt(n)) & 1n) === 1n : null,
  ),
  pure('if(condition, a, b)', 'a where the condition is on, else b', [B, 'same', 'same'], 'same', null),
  pure('mux(n, a, b, …)', 'a for 0, b for 1, and so on', [N, 'same', 'same'], 'same', null, { isOpen: true }),
  pure('good(x)', 'whether x has a value that is good', ['any'], B, null),
  pure(
    'concat(a, b, …)',
    'its texts one after another; numbers as text(x)',
    ['any', 'any'],
    T,
    (args) => cut(args.map((arg) => numberText(arg, null)).join('')),
    { isOpen: true },
  ),
  pure(
    'text(x, places)',
    'x as a text, with so many decimals',
    ['any', N],
    T,
    ([x, places]) => (places === undefined || isPlaces(places) ? numberText(x, places === undefined ? null : number(places)) : null),
    { optional: 1 },
  ),
  pure(
    'hex(x, digits)',
    'x in hexadecimal',
    [N, N],
    T,
    ([x = 0, digits = 0]) =>
      isWhole(x) && x >= 0
        ? BigInt(x)
            .toString(16)
            .toUpperCase()
            .padStart(Math.min(16, number(digits)), '0')
        : null,
    { optional: 1 },
  ),
  pure('number(t)', 'the number that a text holds', [T], N, ([t]) => (/^\s*[+-]?\d+(\.\d+)?(e[+-]?\d+)?\s*$/i.test(text(t)) ? number(t) : null)),
  pure('len(t)', 'how many characters a text has', [T], N, ([t]) => text(t).length),
  pure('left(t, n)', 'its first n characters', [T, N], T, ([t, n]) => text(t).slice(0, Math.max(0, number(n)))),
  pure('right(t, n)', 'its last n characters', [T, N], T, ([t, n]) => text(t).slice(Math.max(0, text(t).length - Math.max(0, number(n))))),
  pure('mid(t, n, from)', 'n characters of it; the first stands at 1', [T, N, N], T, ([t, n, from]) =>
    number(from) < 1 ? null : text(t).slice(number(from) - 1, number(from) - 1 + Math.max(0, number(n))),
  ),
  pure('find(t, part)', 'where a part first stands in it; 0 for nowhere', [T, T], N, ([t, part]) => text(t).indexOf(text(part)) + 1),
  pure('upper(t)', 'in capital letters', [T], T, ([t]) => cut(text(t).toUpperCase())),
  pure('lower(t)', 'in small letters', [T], T, ([t]) => cut(text(t).toLowerCase())),
  pure('trim(t)', 'without spaces at its ends', [T], T, ([t]) => text(t).trim()),
  kept('since(x)', 'seconds since x last changed', ['any'], N, true),
  kept('average(x, seconds)', 'the average of x over the last seconds, each value as long as it stood', [N, N], N, true),
  kept('count(condition)', 'how often the condition has turned on since the server started', [B], N, false),
  kept('ontime(condition)', 'seconds that the condition has been on since the server started', [B], N, true),
  kept('rising(condition)', 'on for the moment in which the condition turns on', [B], B, false),
  kept('previous(x)', 'what x was before it last changed', ['same'], 'same', false),
  kept('latch(set, reset)', 'on from set until reset; reset goes first', [B, B], B, false),
];

export const FUNCTION_NAMED: ReadonlyMap<string, FunctionSpec> = new Map(FUNCTIONS.map((spec) => [spec.name, spec]));

/** Names under which people look for a function, and what there is. */
export const MEANT: ReadonlyMap<string, string> = new Map(
  Object.entries({
    avg: 'average',
    mean: 'average',
    sum: '+',
    pow: '**',
    power: '**',
    sel: 'if',
    case: 'mux',
    choose: 'mux',
    clamp: 'limit',
    int: 'trunc',
    str: 'text',
    tostring: 'text',
    bitand: 'and',
    bitor: 'or',
    bitxor: 'xor',
    len_: 'len',
    iif: 'if',
    log10: 'log',
  }),
);

function isWhole(value: Value): value is number | bigint {
  return typeof value === 'bigint' || (typeof value === 'number' && Number.isSafeInteger(value));
}

function isPlaces(value: Value): boolean {
  return isWhole(value) && value >= 0 && value <= 12;
}

function shifted(x: Value, by: number): Value | null {
  if (!isWhole(x) || !Number.isInteger(by) || Math.abs(by) > 63) return null;
  return narrow(by >= 0 ? BigInt(x) << BigInt(by) : BigInt(x) >> BigInt(-by));
}

/** A bigint only where a number would be rounded. */
export function narrow(value: bigint): number | bigint {
  return value <= Number.MAX_SAFE_INTEGER && value >= Number.MIN_SAFE_INTEGER ? Number(value) : value;
}
