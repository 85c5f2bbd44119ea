/**
 * The spine: from a wire value to every stage of the signal path, and from a wanted engineering value back to
 * the wire. Nobody else decodes or scales.
 */
import { fail, ok, type Problem, type Result } from './result.ts';
import type { Limits } from './ranges/limits.ts';
import { isInside, type Range } from './ranges/range.ts';
import { countWorth, pointMoved, toEngineering, toRaw, whyNone, type Scale } from './scaling/scale.ts';
import { orderInWords, orderWidth, ORDERS, type ByteOrder } from './value/byteOrder.ts';
import { decode, encode, sharedMask, type RawValue } from './value/codec.ts';
import { formatDataType, type DataType } from './value/dataType.ts';
import { parseDecimal } from './value/decimal.ts';
import { asNumber, formatValue, shortestSingle, type EngValue } from './value/engineering.ts';
import { implausibility } from './value/plausible.ts';
import { GOOD, qualityOf, type Quality } from './value/quality.ts';
import { hasRadix, rawIn, readBased, type Radix } from './value/radix.ts';
import { parseTimeText, timeText } from './value/timeText.ts';
import { nameOf, valueNamed, type ValueNames } from './value/valueNames.ts';

/** What came over the wire. Not every protocol gives bytes. */
export type WireValue =
  | { readonly kind: 'bytes'; readonly bytes: Uint8Array }
  | { readonly kind: 'typed'; readonly value: RawValue }
  | { readonly kind: 'text'; readonly text: string };

/** All settings that stand between the wire and the text: the effective ones, the device's defaults filled in. */
export interface SignalDefinition {
  readonly type: DataType;
  readonly order: ByteOrder;
  /** Bit of a register for a BOOL that lives in one, else null. */
  readonly bit: number | null;
  readonly scale: Scale;
  readonly unit: string;
  /** Places after the decimal point, null for as many as the value is worth. */
  readonly decimals: number | null;
  /** Engineering values to expect; outside, the value is uncertain and a write is refused. */
  readonly range: Range | null;
  /** Raw values to expect; outside, the value is uncertain and a write is refused. */
  readonly rawRange?: Range | undefined;
  /** Engineering values between which it is drawn. */
  readonly display?: Range | undefined;
  readonly limits?: Limits | undefined;
  /** Names that stand for values: those of an enumeration. */
  readonly names?: ValueNames | undefined;
  /** Raw values by which its source says that it has none. */
  readonly unavailable?: readonly RawValue[] | undefined;
  /** Its values come typed: no order and no register stands between the wire and them. */
  readonly isTyped?: boolean | undefined;
}

/** Every stage after the wire. A stage that was not reached is null. */
export interface Stages extends ValueStages {
  readonly text: string;
}

export interface ValueStages {
  readonly raw: RawValue | null;
  readonly eng: EngValue | null;
  readonly quality: Quality;
  /** The stage where the path breaks, with what is wrong. */
  readonly broken: { readonly stage: 'decoded' | 'engineering'; readonly problem: Problem } | null;
}

/** Shown in place of a number that cannot be trusted. */
export const NO_VALUE_TEXT = '–';

/** What is known of a reading beside its bytes. */
export interface ReadingNotes {
  /** Read in several requests, whose parts may come from different moments. */
  readonly torn?: boolean | undefined;
  /** Why the controller is taken to have stopped, when it is. */
  readonly stopped?: string | undefined;
  /** How it came to be older than it should be, when it is. */
  readonly overdue?: string | undefined;
  /** Why it is doubtful by what came before it. */
  readonly implausible?: string | undefined;
  /** Why its source is not sure of it, in its words. */
  readonly doubted?: string | undefined;
  /** When its source took it, by its own clock. */
  readonly sourceAt?: number | undefined;
}

/** Follows a wire value to the text. Never throws: what does not decode is bad quality with the reason. */
export function followWire(def: SignalDefinition, wire: WireValue, notes: ReadingNotes = {}): Stages {
  const stages = followToValue(def, wire, notes);
  return { ...stages, text: textOf(def, stages.eng) };
}

/** The text that goes with the stages of a value. */
export function textOf(def: SignalDefinition, eng: EngValue | null): string {
  return eng === null ? NO_VALUE_TEXT : engineeringText(def, eng);
}

/** {@link followWire} without the text, which is dear to make of thousands a second that nobody looks at. */
export function followToValue(def: SignalDefinition, wire: WireValue, notes: ReadingNotes = {}): ValueStages {
  const stages = follow(def, wire, notes.torn ?? false);
  if (stages.quality.level === 'bad') return stages;
  if (notes.stopped !== undefined) return { ...stages, quality: qualityOf('stopped', notes.stopped) };
  if (notes.overdue !== undefined) return { ...stages, quality: qualityOf('overdue', notes.overdue) };
  if (notes.implausible !== undefined && stages.quality.level === 'good') return { ...stages, quality: qualityOf('implausible', notes.implausible) };
  return notes.doubted === undefined ? stages : { ...stages, quality: qualityOf('doubted', notes.doubted) };
}

function follow(def: SignalDefinition, wire: WireValue, torn: boolean): ValueStages {
  const decoded = toRawValue(def, wire);
  if (!decoded.ok) {
    const reason = decoded.problem.code === 'not-a-number' ? 'not-a-number' : decoded.problem.code === 'wire-length' ? 'malformed' : 'settings';
    return {
      raw: null,
      eng: null,
      quality: qualityOf(reason, decoded.problem.message),
      broken: { stage: 'decoded', problem: decoded.problem },
    };
  }
  const raw = decoded.value;
  if (def.unavailable?.includes(raw)) return { raw, eng: null, quality: qualityOf('not-available', notAvailableText(def, raw)), broken: null };
  if (typeof raw === 'boolean' || typeof raw === 'string') return { raw, eng: raw, quality: torn ? qualityOf('torn') : GOOD, broken: null };
  const scaled = toEngineering(def.scale, countedWith(def, raw));
  const number = asNumber(scaled.value);
  if (scaled.health) {
    const { reason, why } = scaled.health;
    const quality = qualityOf(reason, why);
    const problem: Problem = {
      code: reason,
      message: `${why.charAt(0).toUpperCase()}${why.slice(1)}.`,
      remedy: 'Look at wire, transmitter and card.',
    };
    if (quality.level === 'bad') return { raw, eng: null, quality, broken: { stage: 'engineering', problem } };
    if (number !== null && Number.isFinite(number)) return { raw, eng: scaled.value, quality, broken: { stage: 'engineering', problem } };
  }
  if (number === null || !Number.isFinite(number)) {
    const problem = whyNone(def.scale);
    const reason = problem.code === 'scale-limits' ? 'scale-limits' : 'settings';
    return { raw, eng: null, quality: qualityOf(reason, problem.message), broken: { stage: 'engineering', problem } };
  }
  if (def.rawRange && !isInside(def.rawRange, raw)) {
    const expected = `raw ${def.rawRange.low} to ${def.rawRange.high}`;
    const problem: Problem = { code: 'out-of-range', message: `Raw ${rawText(def.type, raw)} is outside the expected ${expected}.` };
    return { raw, eng: scaled.value, quality: qualityOf('out-of-range', expected), broken: { stage: 'decoded', problem } };
  }
  if (def.range && !isInside(def.range, number)) {
    const text = engineeringText(def, scaled.value);
    const problem: Problem = {
      code: 'out-of-range',
      message: `${text}${def.unit ? ` ${def.unit}` : ''} is outside the expected ${rangeText(def, def.range)}.`,
    };
    return {
      raw,
      eng: scaled.value,
      quality: qualityOf('out-of-range', rangeText(def, def.range)),
      broken: { stage: 'engineering', problem },
    };
  }
  const odd = def.range ? null : implausibility(def.type, raw, wire.kind === 'bytes' ? wire.bytes : null);
  if (odd !== null) return { raw, eng: scaled.value, quality: qualityOf('implausible', odd), broken: null };
  const quality = scaled.rounded ? qualityOf('rounded') : torn ? qualityOf('torn') : GOOD;
  return { raw, eng: scaled.value, quality, broken: null };
}

function notAvailableText({ type }: SignalDefinition, raw: RawValue): string {
  return type.kind === 'integer' && typeof raw !== 'string' ? `${rawText(type, raw)}, ${rawIn(type, raw, 16)}` : rawText(type, raw);
}

/** The engineering value of a raw one, which was decoded and found good before. */
export function engineeringOf(def: SignalDefinition, raw: RawValue): EngValue {
  return typeof raw === 'boolean' || typeof raw === 'string' ? raw : toEngineering(def.scale, countedWith(def, raw)).value;
}

/** A REAL is scaled as the number that it is shown as: 0.3 in tenths is 0.03, and not the single's 0.0300000012. */
function countedWith({ type, scale }: SignalDefinition, raw: number | bigint): number | bigint {
  return type.kind === 'real' && type.bytes === 4 && scale.kind !== 'none' && typeof raw === 'number' ? shortestSingle(raw) : raw;
}

/** The ends of a range as the tag shows its values. */
function rangeText(def: SignalDefinition, { low, high }: Range): string {
  const time = timeMeaning(def);
  const end = (value: number): string => (time && Number.isInteger(value) ? timeText(time, value) : String(value));
  return `${end(low)} to ${end(high)}`;
}

/**
 * The text of an engineering value of a tag. Where the tag fixes no decimals, an integer on a sloped line shows two
 * places beyond the step of one count, so that rounding to show it never hides a count.
 */
export function engineeringText(def: SignalDefinition, value: EngValue): string {
  if (def.names && typeof value !== 'string' && typeof value !== 'object') {
    const name = nameOf(def.names, value);
    if (name !== null) return name;
  }
  const time = timeMeaning(def);
  if (time && (typeof value === 'number' || typeof value === 'bigint')) return timeText(time, value);
  const worth = def.type.kind === 'real' && def.type.bytes === 4 ? 'single' : 'double';
  if (def.decimals === null && typeof value === 'number' && def.type.kind === 'integer' && pointMoved(def.scale) === null) {
    const places = Math.ceil(-Math.log10(worthAt(def, value))) + 2;
    if (places >= 0 && places <= 12) return formatValue(Number(value.toFixed(places)), null);
  }
  return formatValue(value, def.decimals, worth);
}

/** As it can be entered again without losing anything: as it is shown, a number may have lost its last digits. */
export function exactText(def: SignalDefinition, value: EngValue): string {
  const isNumber = typeof value === 'number' && def.type.kind === 'real' && !timeMeaning(def);
  return isNumber ? String(value) : engineeringText({ ...def, decimals: null, names: undefined }, value);
}

/** What one count is worth near an engineering value. */
function worthAt({ scale }: SignalDefinition, value: number): number {
  const raw = toRaw(scale, value, false);
  return countWorth(scale, raw.ok ? Math.round(Number(raw.value)) : 0);
}

/** A time reads as one as long as no scale or unit makes a number of it. */
function timeMeaning({ type, scale, unit }: SignalDefinition) {
  return type.kind === 'integer' && scale.kind === 'none' && unit === '' ? type.time : null;
}

/** The text of a raw value of a tag, every digit of it. @param radix for whole numbers */
export function rawText(type: DataType, raw: RawValue, radix: Radix = 10): string {
  if (radix !== 10 && type.kind === 'integer' && hasRadix(type, raw)) return rawIn(type, raw, radix);
  return formatValue(raw, null, type.kind === 'real' && type.bytes === 4 ? 'single' : 'double');
}

function toRawValue(def: SignalDefinition, wire: WireValue): Result<RawValue> {
  switch (wire.kind) {
    case 'bytes':
      return decode(def.type, def.order, wire.bytes, def.bit);
    case 'typed':
      return fits(def.type, wire.value);
    case 'text': {
      const parsed = parseInput(def.type, wire.text);
      if (!parsed.ok) return parsed;
      return typeof parsed.value === 'object' ? fits(def.type, asNumber(parsed.value) ?? 0) : fits(def.type, parsed.value);
    }
  }
}

/** A typed value must be of the declared type: what a client that checks types does. */
function fits(type: DataType, value: RawValue): Result<RawValue> {
  const right =
    type.kind === 'boolean'
      ? typeof value === 'boolean'
      : type.kind === 'text'
        ? typeof value === 'string'
        : type.kind === 'real'
          ? typeof value === 'number' && Number.isFinite(value)
          : (typeof value === 'bigint' || (typeof value === 'number' && Number.isInteger(value))) &&
            BigInt(value) >= type.min &&
            BigInt(value) <= type.max;
  if (!right)
    return fail(
      'unfit-value',
      `The device sent ${String(value).slice(0, 40)}, which is no ${formatDataType(type)}.`,
      'Choose the type that the device declares.',
    );
  return ok(type.kind === 'integer' ? (type.isWide ? BigInt(value as number | bigint) : Number(value)) : value);
}

/** What a write would do, before it is done. */
export interface WritePlan {
  readonly raw: RawValue;
  /** Bytes for the wire; one byte 0 or 1 for a BOOL in a bit area; none where values go typed. */
  readonly bytes: Uint8Array;
  /** For bits that share `bytes` with others: ones where they lie. */
  readonly mask: Uint8Array | null;
  /** The engineering value that the controller will really hold. */
  readonly achieved: EngValue;
  readonly text: string;
}

/**
 * Says what writing a wanted engineering value will really achieve: an integer behind a scale holds only steps.
 * Refuses what is outside the type or the tag's range.
 */
export function planWrite(def: SignalDefinition, wanted: EngValue): Result<WritePlan> {
  if (def.range && def.type.kind !== 'text' && def.type.kind !== 'boolean') {
    const number = asNumber(wanted);
    if (number === null || !Number.isFinite(number)) return fail('unfit-value', 'A number is needed here.', 'Enter a number with a decimal point.');
    if (number < def.range.low || number > def.range.high)
      return fail(
        'out-of-range',
        `${formatValue(wanted, null)} is outside the tag's range ${rangeText(def, def.range)}${def.unit ? ` ${def.unit}` : ''}.`,
        'Enter a value inside the range, or change the range in Map.',
      );
  }
  let raw: RawValue;
  if (def.type.kind === 'boolean' || def.type.kind === 'text') {
    if (typeof wanted === 'object') return fail('unfit-value', `A ${def.type.name} cannot hold a number.`);
    raw = wanted;
  } else {
    const found = toRaw(def.scale, wanted, def.type.kind === 'integer');
    if (!found.ok) return found;
    raw = found.value;
    if (def.rawRange && !isInside(def.rawRange, raw))
      return fail(
        'out-of-range',
        `Raw ${rawText(def.type, raw)} is outside the tag's raw range ${def.rawRange.low} to ${def.rawRange.high}.`,
        'Enter a value inside it, or change the raw range in Scale.',
      );
  }
  return planRaw(def, raw);
}

/** The same for a raw value that the controller can hold, as one that it held before. */
export function planRaw(def: SignalDefinition, raw: RawValue): Result<WritePlan> {
  if (def.isTyped) {
    const held = heldTyped(def.type, raw);
    if (!held.ok) return held;
    const stages = followWire(unjudged(def), { kind: 'typed', value: held.value });
    return stages.raw === null || stages.eng === null
      ? noWayBack()
      : ok({ raw: stages.raw, bytes: NO_BYTES, mask: null, achieved: stages.eng, text: stages.text });
  }
  const bytes = encode(def.type, def.order, raw, def.bit);
  if (!bytes.ok) return bytes;
  const stages = followWire(unjudged(def), { kind: 'bytes', bytes: bytes.value });
  if (stages.quality.reason === 'not-available')
    return fail('not-available', `${rawText(def.type, raw)} is how the controller says that it has no value.`, 'Enter another value.');
  if (stages.raw === null || stages.eng === null) return noWayBack();
  const mask = sharedMask(def.type, def.order, def.bit);
  return ok({ raw: stages.raw, bytes: bytes.value, mask, achieved: stages.eng, text: stages.text });
}

const NO_BYTES = new Uint8Array(0);

/** Without what it expects: as the bytes are. */
export function unjudged(def: SignalDefinition): SignalDefinition {
  return { ...def, range: null, rawRange: undefined };
}

function noWayBack(): Result<never> {
  return fail('scale', 'The value would not come back through the scale.', 'Check the scale of the tag.');
}

/** A value as the type holds it: a REAL to its nearest single. Refuses what it cannot hold; never clips. */
function heldTyped(type: DataType, raw: RawValue): Result<RawValue> {
  if (type.kind === 'text' && typeof raw === 'string' && raw.length > type.room)
    return fail('out-of-type', `The text has ${raw.length} characters, the tag holds ${type.room}.`, 'Shorten it.');
  if (
    type.kind === 'integer' &&
    (typeof raw === 'bigint' || (typeof raw === 'number' && Number.isInteger(raw))) &&
    (BigInt(raw) < type.min || BigInt(raw) > type.max)
  )
    return fail(
      'out-of-type',
      `${raw} does not fit in ${type.name} (${type.min} to ${type.max}).`,
      'Choose a value inside the range, or check type and scale.',
    );
  if (type.kind !== 'real') return fits(type, raw);
  const number = typeof raw === 'bigint' ? Number(raw) : raw;
  if (typeof number !== 'number') return fits(type, raw);
  const held = type.bytes === 4 ? Math.fround(number) : number;
  return Number.isFinite(held) ? ok(held) : fail('out-of-type', `${number} is beyond what a ${type.name} can hold.`);
}

/**
 * Reads what a person typed for a tag: a name of one of its values, a time where it shows times, or a value of its type.
 */
export function parseFor(def: SignalDefinition, text: string): Result<EngValue> {
  const named = def.names ? valueNamed(def.names, text) : null;
  if (named !== null) return ok(def.type.kind === 'boolean' ? named !== 0 : named);
  const time = timeMeaning(def);
  return time && !/^[+-]?\d+$/.test(text.trim()) ? parseTimeText(time, text) : parseInput(def.type, text);
}

/** Reads a raw value that a person typed: a value of the type, or its bits as in `16#FFFF`. */
export function parseRaw(type: DataType, text: string): Result<EngValue> {
  const based = type.kind === 'integer' ? readBased(type, text) : null;
  return based === null ? parseInput(type, text) : ok(based);
}

/**
 * Reads a value of a type. Numbers take a decimal point; a comma is refused rather than guessed at.
 */
export function parseInput(type: DataType, text: string): Result<EngValue> {
  const trimmed = text.trim();
  switch (type.kind) {
    case 'text':
      return ok(text);
    case 'boolean':
      if (/^(on|1|true)$/i.test(trimmed)) return ok(true);
      if (/^(off|0|false)$/i.test(trimmed)) return ok(false);
      return fail('unfit-value', `“${trimmed.slice(0, 40)}” is neither on nor off.`, 'Enter on or off.');
    default: {
      if (trimmed.includes(','))
        return fail(
          'decimal-comma',
          'A comma can mean decimals or thousands, so it is not taken.',
          'Write the number with a decimal point, without grouping.',
        );
      const decimal = parseDecimal(trimmed);
      if (!decimal)
        return fail(
          'unfit-value',
          trimmed === '' ? 'Nothing was entered.' : `“${trimmed.slice(0, 40)}” is not a number.`,
          'Enter a number with a decimal point.',
        );
      // A real has a zero below zero, and a decimal has none (IEEE 754, 3.3).
      return ok(type.kind === 'real' && decimal.digits === 0n && trimmed.startsWith('-') ? -0 : decimal);
    }
  }
}

/** A whole setting in words for one stage of the strip. */
export function decodedSettingInWords(def: SignalDefinition): string {
  if (def.type.kind === 'boolean') return def.bit === null ? 'BOOL, one bit' : `BOOL, bit ${def.bit} of the register`;
  return `${formatDataType(def.type)}, order ${def.order} (${orderInWords(def.order)})`;
}

/** The orders that a definition could have instead of its own. */
export function otherOrders(def: SignalDefinition): readonly ByteOrder[] {
  return def.isTyped || def.bit !== null || def.type.kind === 'boolean' ? [] : ORDERS[orderWidth(def.type)].filter((order) => order !== def.order);
}
