/** The settings of Modbus devices, the same on every way they are reached. Pure: runs in the browser too. */
import type { LocationCounts } from '@/core/address/iecLocation.ts';
import { choiceSetting, settingsSchema, wholeSetting, type TextSetting } from '@/core/manifest/settingsSchema.ts';
import { settingsAs } from '@/core/manifest/yupOf.ts';
import type { CountingBase } from '@/core/modbus/address.ts';
import { LIMITS } from '@/core/modbus/pdu.ts';
import type { Layout } from '@/core/taglist/layout.ts';
import { TEXT_LAYOUT_WORDS, TEXT_LAYOUTS, type TextLayout } from '@/core/value/dataType.ts';
import { ORDERS, orderInWords, type ByteOrder } from '@/core/value/byteOrder.ts';
import type { Settings } from '../contract.ts';

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
  /** How its program lays out structures, for those that are made anew. */
  readonly structures: Layout;
  /** How texts lie, for those of which only the length is said. */
  readonly textLayout: TextLayout;
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

const orderSetting = (width: 2 | 4 | 8, title: string): TextSetting =>
  choiceSetting(
    Object.fromEntries(ORDERS[width].map((order) => [order, `${order} · ${orderInWords(order)}`])),
    title,
    'How the bytes of a value lie on the wire where a tag names no order of its own; A is the most significant byte.',
  );

export const DEVICE = settingsSchema('A Modbus device', {
  unit: {
    type: 'integer',
    title: 'Unit',
    description: '1 to 247 on a line or behind a gateway; 255 for a device of its own, though many answer to any number.',
    default: 1,
    minimum: 0,
    maximum: 255,
    anyOf: [
      { minimum: 0, maximum: 247 },
      { minimum: 255, maximum: 255 },
    ],
    'x-refusal': 'Units are 1 to 247; 255 (or 0) addresses a device that is not behind a gateway.',
  },
  broadcast: choiceSetting(
    { refused: 'refused', allowed: 'allowed' },
    'Writes to all units are',
    'Unit 0 of a serial line is every device on it at once, and none of them answers. A permission of its own.',
  ),
});

export const DIALECT = settingsSchema('Modbus', {
  countingBase: {
    type: 'integer',
    title: 'Reference numbers start at',
    description: 'Whether the first holding register is 40001 (1, the standard) or 40000 (0). Area form, HR17, always counts from 0.',
    default: 1,
    oneOf: [
      { const: 1, title: '1 · the first is 40001' },
      { const: 0, title: '0 · the first is 40000' },
    ],
  },
  memoryName: {
    type: 'string',
    title: 'Name of word memory',
    description: 'Lets addresses be written as in its program, such as %MW12 or %MW12.3. Empty for none.',
    default: '',
    pattern: '^(?!(HR|IR|CO|DI)$)(%?[A-Z]{1,6})?$',
    'x-refusal': 'A name of up to six letters, such as %MW or D; HR, IR, CO and DI are names of areas already.',
  },
  memoryStart: wholeSetting('Holding register of word 0', 'The holding register, counted from 0, in which word 0 of that memory lies.', {
    min: -1,
    max: 65535,
    default: 0,
  }),
  locations: choiceSetting(
    {
      none: 'not used',
      own: 'values of their own size · %MD8 is word 16',
      bytes: 'bytes · %MD8 is word 4',
      words: 'words · %MD8 is word 8',
    },
    '%M, %I and %Q addresses count',
    'Lets addresses be written as locations. %M is the memory of words above, %IW input registers, %QW holding registers, %IX discrete inputs, %QX coils.',
  ),
  bitFrom: choiceSetting(
    { least: 'the least significant', most: 'the most significant' },
    'Bits count from',
    'From which end the manual numbers the bits of a register.',
  ),
  bitBase: {
    type: 'integer',
    title: 'The first bit is',
    description: 'Whether the manual numbers bits 0 to 15 or 1 to 16.',
    default: 0,
    oneOf: [
      { const: 0, title: '0 · bits 0 to 15' },
      { const: 1, title: '1 · bits 1 to 16' },
    ],
  },
  order16: orderSetting(2, 'Order of 16-bit values'),
  order32: orderSetting(4, 'Order of 32-bit values'),
  order64: orderSetting(8, 'Order of 64-bit values'),
  orderText: orderSetting(2, 'Order of texts'),
  structures: choiceSetting(
    {
      none: 'not known',
      words: 'a word or more each',
      bytes: 'byte after byte',
      even: 'byte after byte, words at even ones',
      aligned: 'aligned to their size',
    },
    'Members of structures lie',
    'How structures of its program are laid out, where a list does not say it.',
  ),
  textLayout: choiceSetting(
    Object.fromEntries(TEXT_LAYOUTS.map((layout) => [layout, TEXT_LAYOUT_WORDS[layout]])),
    'Texts of its program',
    'Taken for texts of a list that says only how long they are. Tags that are there keep theirs.',
  ),
  wide: choiceSetting(
    { two: 'two addresses', one: 'one address' },
    'A 32-bit value takes',
    'Two registers by the standard. Some devices keep a 32-bit value behind one address and send four bytes for it.',
  ),
  singleWrites: choiceSetting(
    { single: 'functions 5 and 6', multiple: 'functions 15 and 16' },
    'One coil or register is written by',
    'Some devices know only one of the two ways. Longer values are always written by function 16.',
  ),
  bitWrites: choiceSetting(
    { refuse: 'not at all', mask: 'masks, function 22', readModifyWrite: 'reading, changing, writing back' },
    'A bit in a register is written by',
    'Masks change one bit in one step. Reading and writing back can undo a change that the controller makes in between.',
  ),
  maxRegisters: wholeSetting('Registers per request', 'The most registers this device answers at once; the standard allows 125.', {
    min: 1,
    max: LIMITS.readRegisters,
    default: LIMITS.readRegisters,
  }),
  maxBits: wholeSetting('Bits per request', 'The most coils or inputs this device answers at once; the standard allows 2000.', {
    min: 1,
    max: LIMITS.readBits,
    default: LIMITS.readBits,
  }),
  maxWritten: wholeSetting(
    'Registers per write',
    'The most registers this device takes at once; the standard allows 123. A value is never split over two writes.',
    { min: 1, max: LIMITS.writeRegisters, default: LIMITS.writeRegisters },
  ),
  maxGap: wholeSetting(
    'Longest gap read across',
    'Unused addresses up to this many are read along to save a request; 0 reads none. Not every device has something there.',
    { min: 0, max: 100, default: 0 },
  ),
  timeoutMs: wholeSetting('Response time-out', 'How long to wait for one reply.', { min: 50, max: 60_000, default: 1000, 'x-unit': 'ms' }),
  readRetries: wholeSetting('Read retries', 'How often a read without answer is sent again. A write is never sent again.', {
    min: 0,
    max: 5,
    default: 1,
  }),
  pauseMs: wholeSetting('Delay between requests', 'Rest that this device needs before the next request; the silence of the line comes by itself.', {
    min: 0,
    max: 10_000,
    default: 0,
    'x-unit': 'ms',
  }),
  depth: wholeSetting(
    'Requests in flight',
    'How many requests may wait for their replies at the same time over TCP or UDP; many devices take only 1.',
    { min: 1, max: 16, default: 1 },
  ),
  strictUnit: choiceSetting(
    { strict: 'refused', any: 'taken' },
    'A reply from another unit is',
    'Over TCP some gateways answer under 0 or 255. On a line a reply from another unit is never taken.',
  ),
  listFile: wholeSetting(
    'Tag list file number',
    'A program may keep the list of its tags in a file that function 20 reads, as a list in JSON (see the docs). 0 for none.',
    { min: 0, max: 65535, default: 0 },
  ),
});

export const dialectOf = settingsAs<Dialect>(DIALECT);
export const deviceOf = settingsAs<DeviceSettings>(DEVICE);

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
  { title: 'What the bytes mean', fields: ['order16', 'order32', 'order64', 'orderText', 'structures', 'textLayout'] },
  {
    title: 'How it is asked',
    fields: ['timeoutMs', 'readRetries', 'pauseMs', 'depth', 'maxRegisters', 'maxBits', 'maxGap', 'strictUnit', 'listFile'],
  },
  { title: 'How it is written', fields: ['singleWrites', 'bitWrites', 'maxWritten'] },
];
