/** From what a server sends to arrivals, and from a tag's value to what it is sent. */
import { canHold, typeOfBuiltIn } from '@/core/opcua/dataTypes.ts';
import type { MemberPath } from '@/core/opcua/nodeId.ts';
import { severityOf, statusInWords } from '@/core/opcua/statusCode.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { DataType, IntegerType } from '@/core/value/dataType.ts';
import { countAt, momentOf, type TimeMeaning } from '@/core/value/timeText.ts';
import type { Arrival, DriverFault } from '../contract.ts';
import type { Library, UaValue } from './library.ts';

/** @param at when it came, by our clock */
export function arrivalOf(ua: Library, value: UaValue, type: DataType, member: MemberPath, at: number, roundTripMs: number): Arrival {
  const { statusCode } = value;
  const severity = severityOf(statusCode.value);
  if (severity === 'bad') return { fault: { kind: 'refused', problem: { code: statusCode.name, ...statusInWords(statusCode.name) } }, at };
  const raw = rawOf(ua, value, type, member);
  if (!raw.ok) return { fault: { kind: 'malformed', problem: raw.problem }, at };
  return {
    wire: { kind: 'typed', value: raw.value },
    torn: false,
    at,
    roundTripMs,
    sourceAt: (value.sourceTimestamp ?? value.serverTimestamp)?.getTime(),
    ...(severity === 'uncertain' ? { doubted: statusInWords(statusCode.name).message } : {}),
  };
}

function rawOf(ua: Library, { value: variant }: UaValue, type: DataType, member: MemberPath): Result<RawValue> {
  const builtIn = ua.DataType[variant.dataType] ?? 'Null';
  if (variant.value === null || variant.value === undefined) return fail('no-value', 'The server holds no value there.');
  const isScalar = variant.arrayType === ua.VariantArrayType.Scalar;
  const [whole, way] = flattened(variant.value, member, variant.dimensions ?? []);
  const inside = memberOf(whole, way, isScalar);
  if (!inside.ok) return inside;
  const { value } = inside;
  // Members of a structure do not say what they are; what they hold must fit all the same.
  const isDeclared = builtIn !== 'ExtensionObject' && builtIn !== 'Variant';
  if (isDeclared && !canHold(type, builtIn)) {
    const declared = typeOfBuiltIn(builtIn);
    const message = `The server sends a ${builtIn} there, which is no ${type.name}.`;
    const remedy = 'Choose the type that the server declares.';
    return { ok: false, problem: { code: 'unfit-value', message, remedy, ...(declared ? { instead: [declared] } : {}) } };
  }
  return plainOf(value, type, builtIn);
}

/** The elements of an array of several dimensions lie one after the other, the last index fastest (IEC 62541-6, 5.2.5). */
function flattened(value: unknown, member: MemberPath, dimensions: readonly number[]): readonly [value: unknown, member: MemberPath] {
  const indexes = member.slice(0, dimensions.length);
  if (dimensions.length < 2 || indexes.length < dimensions.length || !indexes.every((step): step is number => typeof step === 'number'))
    return [value, member];
  const isInside = indexes.every((index, at) => index < (dimensions[at] ?? 0));
  const at = indexes.reduce((flat, index, i) => flat * (dimensions[i] ?? 1) + index, 0);
  return [value, [isInside ? at : Number.MAX_SAFE_INTEGER, ...member.slice(dimensions.length)]];
}

function memberOf(whole: unknown, member: MemberPath, isScalar: boolean): Result<unknown> {
  let value = whole;
  let way = '';
  for (const step of member) {
    way += typeof step === 'number' ? `[${step}]` : `.${step}`;
    if (typeof step === 'number') {
      if (!isArrayLike(value))
        return fail('no-element', `It is no array, so there is no ${way}.`, 'Compare the member with what the server declares.');
      if (step >= value.length)
        return fail('no-element', `The array has ${value.length} elements now, so there is no ${way}.`, 'It may have become shorter.');
      value = value[step];
    } else {
      const found = propertyOf(value, step);
      if (found === undefined) return fail('no-member', `The structure has no ${way}.`, 'Compare the member with what the server declares.');
      value = found;
    }
  }
  return member.length === 0 && !isScalar && isArrayLike(value)
    ? fail('whole-array', `The server sends an array of ${value.length} there.`, 'Say which element is meant: [0], [1] …')
    : ok(value);
}

function isArrayLike(value: unknown): value is ArrayLike<unknown> {
  return Array.isArray(value) || (ArrayBuffer.isView(value) && !(value instanceof DataView));
}

/** Only what the structure itself holds; names are written with either letter at their start. */
function propertyOf(value: unknown, name: string): unknown {
  if (typeof value !== 'object' || value === null) return undefined;
  for (const key of [name, name.charAt(0).toLowerCase() + name.slice(1)]) {
    const own = Object.getOwnPropertyDescriptor(value, key);
    if (own && 'value' in own) return own.value;
  }
  return undefined;
}

function plainOf(value: unknown, type: DataType, builtIn: string): Result<RawValue> {
  if (typeof value === 'boolean' || typeof value === 'bigint') return ok(value);
  if (typeof value === 'number') {
    if (type.kind === 'integer' && !Number.isInteger(value)) return fail('unfit-value', `The server sends ${value} there, which is no ${type.name}.`);
    return Number.isFinite(value) ? ok(value) : fail('not-a-number', 'The server holds no number there (NaN or infinity).');
  }
  if (typeof value === 'string') return ok(value);
  if (value instanceof Date) return ok(type.kind === 'integer' && type.time ? dateIn(type, type.time, value) : value.toISOString());
  // 64-bit integers come as two halves, the high one first.
  if ((builtIn === 'Int64' || builtIn === 'UInt64') && isPair(value)) {
    const joined = (BigInt(value[0]) << 32n) | BigInt(value[1] >>> 0);
    return ok(builtIn === 'Int64' ? BigInt.asIntN(64, joined) : BigInt.asUintN(64, joined));
  }
  const text = propertyOf(value, 'text') ?? propertyOf(value, 'name');
  if (typeof text === 'string') return ok(text);
  if (value instanceof Uint8Array) return ok(Array.from(value, (byte) => byte.toString(16).padStart(2, '0')).join(''));
  return fail('unfit-value', `The server sends a ${builtIn} there, which a tag cannot hold.`, 'Say which member is meant: .weight');
}

function dateIn({ isWide }: IntegerType, time: TimeMeaning, date: Date): RawValue {
  const count = countAt(time, date.getTime());
  return isWide ? count : Number(count);
}

function isPair(value: unknown): value is readonly [number, number] {
  return isArrayLike(value) && value.length === 2 && typeof value[0] === 'number' && typeof value[1] === 'number';
}

/** What a server is sent for a value. @param builtIn as the node declares it; anything else is refused by servers */
export function variantFor(ua: Library, builtIn: string, raw: RawValue, type: DataType): Result<InstanceType<Library['Variant']>> {
  const dataType = ua.DataType[builtIn as keyof typeof ua.DataType];
  const make = (value: unknown) => ok(new ua.Variant({ dataType, arrayType: ua.VariantArrayType.Scalar, value }));
  switch (builtIn) {
    case 'Boolean':
      return make(Boolean(raw));
    case 'Int64':
    case 'UInt64': {
      const whole = BigInt.asUintN(64, BigInt(raw));
      return make([Number(whole >> 32n), Number(whole & 0xffff_ffffn)]);
    }
    case 'Float':
    case 'Double':
    case 'SByte':
    case 'Byte':
    case 'Int16':
    case 'UInt16':
    case 'Int32':
    case 'UInt32':
      return make(Number(raw));
    case 'String':
      return make(String(raw));
    case 'LocalizedText':
      return make({ text: String(raw) });
    case 'DateTime':
      return make(
        type.kind === 'integer' && type.time && typeof raw !== 'string' ? new Date(momentOf(type.time, BigInt(raw))) : new Date(String(raw)),
      );
    default:
      return fail('type', `A ${builtIn} cannot be written from here.`);
  }
}

export function faultOf(error: unknown, kind: DriverFault['kind'] = 'silent'): DriverFault {
  const text = error instanceof Error ? error.message : String(error);
  // The library looks itself whether the server takes the way to sign in, and says so without a code.
  const name = /\b(Bad[A-Z]\w+)/.exec(text)?.[1] ?? (/user token policy/i.test(text) ? 'BadIdentityTokenInvalid' : undefined);
  const told = name === undefined ? { message: text.split('\n')[0]?.slice(0, 300) ?? '' } : statusInWords(name);
  return { kind, problem: { code: name ?? 'opc-ua', ...told } };
}
