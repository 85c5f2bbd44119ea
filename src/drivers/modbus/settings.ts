/** The settings of Modbus devices, the same on every way they are reached. Pure: runs in the browser too. */
import { number, object, string } from 'yup';
import type { LocationCounts } from '@/core/address/iecLocation.ts';
import type { CountingBase } from '@/core/modbus/address.ts';
import { LIMITS } from '@/core/modbus/pdu.ts';
import { ORDERS, orderInWords, type ByteOrder } from '@/core/value/byteOrder.ts';
import type { FieldMeta, Settings } from '../contract.ts';

export interface DeviceSettings {
  readonly unit: number;
  /** Whether unit 0 of a line, which is all units at once, may be written to. */
  readonly broadcast: 'refused' | 'allowed';
}

/** How one device reads the standard. */
export interface Dialect {
  readonly countingBase: CountingBase;
  /** The device's own name for its words, such as `%MW`; empty for none. */
  readonly memoryName: string;
  /** Holding register, counted from 0, that word 0 of the memory is. */
  readonly memoryStart: number;
  /** What the numbers of IEC locations (%MD8, %IX3.5) count; `none` where it has no such addresses. */
  readonly locations: 'none' | LocationCounts;
  readonly bitFrom: 'least' | 'most';
  readonly bitBase: 0 | 1;
  readonly order16: ByteOrder;
  readonly order32: ByteOrder;
  readonly order64: ByteOrder;
  readonly orderText: ByteOrder;
  /** Addresses that a 32-bit value takes. */
  readonly wide: 'two' | 'one';
  readonly singleWrites: 'single' | 'multiple';
  readonly bitWrites: 'refuse' | 'mask' | 'readModifyWrite';
  readonly maxRegisters: number;
  readonly maxBits: number;
  readonly maxWritten: number;
  /** Unused registers or bits that are read across. */
  readonly maxGap: number;
  readonly timeoutMs: number;
  readonly readRetries: number;
  readonly pauseMs: number;
  readonly depth: number;
  readonly strictUnit: 'strict' | 'any';
  /** File in which its program keeps the list of its tags, 0 for none. */
  readonly listFile: number;
}

export const meta = (m: FieldMeta): FieldMeta => m;

export const whole = (label: string, min: number, max: number) =>
  number()
    .typeError(`${label} is a whole number from ${min} to ${max}.`)
    .integer(`${label} is a whole number.`)
    .min(min, `${label} is a whole number from ${min} to ${max}.`)
    .max(max, `${label} is a whole number from ${min} to ${max}.`)
    .required(`${label} is missing.`);

/** One of a few words; the first is the default. */
export const choice = (choices: Readonly<Record<string, string>>, label: string, help: string) =>
  string()
    .oneOf(Object.keys(choices))
    .default(Object.keys(choices)[0] ?? '')
    .meta(meta({ label, help, choices }));

const orderField = (width: 2 | 4 | 8, label: string) =>
  string()
    .oneOf([...ORDERS[width]])
    .default(ORDERS[width][0])
    .meta(
      meta({
        label,
        help: 'How the bytes of a value lie on the wire where a tag names no order of its own; A is the most significant byte.',
        choices: Object.fromEntries(ORDERS[width].map((o) => [o, `${o} · ${orderInWords(o)}`])),
      }),
    );

export const deviceSettings = object({
  unit: whole('The unit', 0, 255)
    .test(
      'unit',
      'Units are 1 to 247; 255 (or 0) addresses a device that is not behind a gateway.',
      (value) => value === undefined || value <= 247 || value === 255,
    )
    .default(1)
    .meta(meta({ label: 'Unit', help: '1 to 247 on a line or behind a gateway; 255 for a device of its own, though many answer to any number.' })),
  broadcast: choice(
    { refused: 'refused', allowed: 'allowed' },
    'Writes to all units are',
    'Unit 0 of a serial line is every device on it at once, and none of them answers. A permission of its own.',
  ),
}).noUnknown(true, 'A Modbus device has no such setting.');

export const dialectSettings = object({
  countingBase: number()
    .oneOf([0, 1])
    .default(1)
    .meta(
      meta({
        label: 'Reference numbers start at',
        help: 'Whether the first holding register is 40001 (1, the standard) or 40000 (0). Area form, HR17, always counts from 0.',
        choices: { '1': '1 · the first is 40001', '0': '0 · the first is 40000' },
      }),
    ),
  memoryName: string()
    .trim()
    .matches(/^(%?[A-Za-z]{1,6})?$/, 'A name of up to six letters, such as %MW or D.')
    .test('own', 'HR, IR, CO and DI are names of areas already.', (value) => !/^(HR|IR|CO|DI)$/i.test(value ?? ''))
    .default('')
    .meta(meta({ label: 'Name of word memory', help: 'Lets addresses be written as in its program, such as %MW12 or %MW12.3. Empty for none.' })),
  memoryStart: whole('The register', 0, 65535)
    .default(0)
    .meta(meta({ label: 'Holding register of word 0', help: 'The holding register, counted from 0, in which word 0 of that memory lies.' })),
  locations: choice(
    {
      none: 'not used',
      own: 'values of their own size · %MD8 is word 16',
      bytes: 'bytes · %MD8 is word 4',
      words: 'words · %MD8 is word 8',
    },
    '%M, %I and %Q addresses count',
    'Lets addresses be written as locations. %M is the memory of words above, %IW input registers, %QW holding registers, %IX discrete inputs, %QX coils.',
  ),
  bitFrom: choice(
    { least: 'the least significant', most: 'the most significant' },
    'Bits count from',
    'From which end the manual numbers the bits of a register.',
  ),
  bitBase: number()
    .oneOf([0, 1])
    .default(0)
    .meta(
      meta({
        label: 'The first bit is',
        help: 'Whether the manual numbers bits 0 to 15 or 1 to 16.',
        choices: { '0': '0 · bits 0 to 15', '1': '1 · bits 1 to 16' },
      }),
    ),
  order16: orderField(2, 'Order of 16-bit values'),
  order32: orderField(4, 'Order of 32-bit values'),
  order64: orderField(8, 'Order of 64-bit values'),
  orderText: orderField(2, 'Order of texts'),
  wide: choice(
    { two: 'two addresses', one: 'one address' },
    'A 32-bit value takes',
    'Two registers by the standard. Some devices keep a 32-bit value behind one address and send four bytes for it.',
  ),
  singleWrites: choice(
    { single: 'functions 5 and 6', multiple: 'functions 15 and 16' },
    'One coil or register is written by',
    'Some devices know only one of the two ways. Longer values are always written by function 16.',
  ),
  bitWrites: choice(
    { refuse: 'not at all', mask: 'masks, function 22', readModifyWrite: 'reading, changing, writing back' },
    'A bit in a register is written by',
    'Masks change one bit in one step. Reading and writing back can undo a change that the controller makes in between.',
  ),
  maxRegisters: whole('Registers per request', 1, LIMITS.readRegisters)
    .default(LIMITS.readRegisters)
    .meta(meta({ label: 'Registers per request', help: 'The most registers this device answers at once; the standard allows 125.' })),
  maxBits: whole('Bits per request', 1, LIMITS.readBits)
    .default(LIMITS.readBits)
    .meta(meta({ label: 'Bits per request', help: 'The most coils or inputs this device answers at once; the standard allows 2000.' })),
  maxWritten: whole('Registers per write', 1, LIMITS.writeRegisters)
    .default(LIMITS.writeRegisters)
    .meta(
      meta({
        label: 'Registers per write',
        help: 'The most registers this device takes at once; the standard allows 123. A value is never split over two writes.',
      }),
    ),
  maxGap: whole('The gap', 0, 100)
    .default(0)
    .meta(
      meta({
        label: 'Longest gap read across',
        help: 'Unused addresses up to this many are read along to save a request; 0 reads none. Not every device has something there.',
      }),
    ),
  timeoutMs: whole('The time-out', 50, 60000)
    .default(1000)
    .meta(meta({ label: 'Response time-out', help: 'How long to wait for one reply.', unit: 'ms' })),
  readRetries: whole('Retries', 0, 5)
    .default(1)
    .meta(meta({ label: 'Read retries', help: 'How often a read without answer is sent again. A write is never sent again.' })),
  pauseMs: whole('The pause', 0, 10000)
    .default(0)
    .meta(
      meta({
        label: 'Delay between requests',
        help: 'Rest that this device needs before the next request; the silence of the line comes by itself.',
        unit: 'ms',
      }),
    ),
  depth: whole('The depth', 1, 16)
    .default(1)
    .meta(
      meta({
        label: 'Requests in flight',
        help: 'How many requests may wait for their replies at the same time over TCP or UDP; many devices take only 1.',
      }),
    ),
  strictUnit: choice(
    { strict: 'refused', any: 'taken' },
    'A reply from another unit is',
    'Over TCP some gateways answer under 0 or 255. On a line a reply from another unit is never taken.',
  ),
  listFile: whole('The file', 0, 65535)
    .default(0)
    .meta(
      meta({
        label: 'Tag list file number',
        help: 'A program may keep the list of its tags in a file that function 20 reads, as a list in JSON (see the docs). 0 for none.',
      }),
    ),
}).noUnknown(true, 'Modbus has no such protocol option.');

/** Settings with the defaults filled in; they were accepted by the schema before they were stored. Kept by object. */
export function filled<T>(schema: { cast(settings: Settings): unknown }): (settings: Settings) => T {
  const known = new WeakMap<Settings, T>();
  return (settings) => {
    const found = known.get(settings);
    if (found) return found;
    const made = schema.cast(settings) as T;
    known.set(settings, made);
    return made;
  };
}
export const dialectOf = filled<Dialect>(dialectSettings);
export const deviceOf = filled<DeviceSettings>(deviceSettings);

/** The commonest ways to differ from the standard, named by what they are. */
export const NAMED_DIALECTS: readonly { readonly name: string; readonly settings: Settings }[] = [
  { name: 'as the standard has it', settings: {} },
  { name: 'words swapped', settings: { order32: 'CDAB', order64: 'GHEFCDAB' } },
  { name: 'bytes swapped', settings: { order16: 'BA', order32: 'BADC', order64: 'BADCFEHG', orderText: 'BA' } },
  { name: 'words and bytes swapped', settings: { order16: 'BA', order32: 'DCBA', order64: 'HGFEDCBA', orderText: 'BA' } },
  { name: 'counted from 0', settings: { countingBase: 0 } },
  { name: 'counted from 0, words swapped', settings: { countingBase: 0, order32: 'CDAB', order64: 'GHEFCDAB' } },
  { name: 'one address for a 32-bit value', settings: { wide: 'one' } },
  { name: 'written by functions 15 and 16 only', settings: { singleWrites: 'multiple' } },
  { name: 'slow, one small request at a time', settings: { maxRegisters: 16, timeoutMs: 3000, readRetries: 2, pauseMs: 50 } },
];

export const DIALECT_GROUPS: readonly { readonly title: string; readonly fields: readonly (keyof Dialect)[] }[] = [
  { title: 'Where a value lies', fields: ['countingBase', 'memoryName', 'memoryStart', 'locations', 'bitFrom', 'bitBase', 'wide'] },
  { title: 'What the bytes mean', fields: ['order16', 'order32', 'order64', 'orderText'] },
  {
    title: 'How it is asked',
    fields: ['timeoutMs', 'readRetries', 'pauseMs', 'depth', 'maxRegisters', 'maxBits', 'maxGap', 'strictUnit', 'listFile'],
  },
  { title: 'How it is written', fields: ['singleWrites', 'bitWrites', 'maxWritten'] },
];
