/**
 * Where a value lies in a controller that knows its tags by name: `Bagger[2].Weight`, `Program:Packing.Speed`, `Status.5`.
 * Names are the same in small and capital letters. As an address of a request: CIP volume 1, appendix C-1.4 (data segments 91h,
 * logical segments 28h, 29h and 2Ah for the index of an element).
 */
import { fail, ok, type Result } from '../result.ts';
import type { DataType } from '../value/dataType.ts';
import { asciiOf, joined, u16, u32 } from './bytes.ts';

export const TAG_FORMS = 'Weight · Bagger[2].Weight · Program:Packing.Speed · Status.5 for a bit';

/** A name of a tag, of a program or of a member, or the index of an element. */
export type Step = string | number;

export interface TagPath {
  readonly steps: readonly Step[];
  /** Of the word or double word that the steps lead to, else null. */
  readonly bit: number | null;
}

const NAME = /^[a-z_][a-z0-9_]{0,39}$/i;
/** A tag may belong to a module, `Local:1:I`; `Program:` begins the name of a program. */
const FIRST = /^[a-z_][a-z0-9_]{0,39}(?::[a-z0-9_]{1,40}){0,3}$/i;
const INDEXES = /^((?:\d{1,10})(?:,\d{1,10}){0,2})$/;
const MOST_BITS = 64;
const PROGRAM = /^program:/i;

/** Refuses what no controller could have: a name that begins with a digit, four dimensions, bit 64. */
export function parseTagPath(text: string): Result<TagPath> {
  const address = text.trim();
  const steps: Step[] = [];
  let bit: number | null = null;
  const parts = address.split('.');
  for (const [at, part] of parts.entries()) {
    const bracket = part.indexOf('[');
    const name = bracket < 0 ? part : part.slice(0, bracket);
    if (at > 0 && at === parts.length - 1 && /^\d{1,3}$/.test(part)) {
      bit = Number(part);
      if (bit >= MOST_BITS) return refused(address, `there is no bit ${bit} in a word of 64 bits`);
      break;
    }
    if (!(at === 0 ? FIRST : NAME).test(name))
      return refused(address, name === '' ? 'a name is missing' : `“${name.slice(0, 40)}” is no name of a tag`);
    steps.push(name);
    if (bracket < 0) continue;
    const inside = part.endsWith(']') ? part.slice(bracket + 1, -1).replace(/\s/g, '') : '';
    if (!INDEXES.test(inside)) return refused(address, 'an index stands in brackets, [2] or [1,0,4], three at the most');
    for (const index of inside.split(',').map(Number)) {
      if (index > 0xffff_ffff) return refused(address, `there is no element ${index}`);
      steps.push(index);
    }
  }
  if (steps.length === 1 && PROGRAM.test(String(steps[0]))) return refused(address, 'it names a program and none of its tags');
  return ok({ steps, bit });
}

function refused(address: string, why: string): Result<never> {
  return fail('address-form', `“${address.slice(0, 60)}” is no address here: ${why}.`, `Write it as ${TAG_FORMS}.`);
}

/** Letters as they were written; indexes of one array in one pair of brackets. */
export function formatTagPath({ steps, bit }: TagPath): string {
  let text = '';
  for (const [at, step] of steps.entries()) {
    if (typeof step === 'string') text += `${at === 0 ? '' : '.'}${step}`;
    else if (typeof steps[at - 1] === 'number') text = `${text.slice(0, -1)},${step}]`;
    else text += `[${step}]`;
  }
  return bit === null ? text : `${text}.${bit}`;
}

/** Whether a value of the type can lie there: a bit is a BOOL. */
export function fitsPath({ bit }: TagPath, type: DataType): Result<null> {
  return bit === null || type.kind === 'boolean'
    ? ok(null)
    : fail('address-form', `A bit holds no ${type.name}.`, 'Leave the bit off, or make it a BOOL.');
}

/** The path of a request. */
export function encodeSteps(steps: readonly Step[]): Uint8Array {
  return joined(
    ...steps.map((step) => {
      if (typeof step === 'string') {
        const name = asciiOf(step);
        return joined([0x91, name.length], name, name.length % 2 === 1 ? [0] : []);
      }
      return step < 0x100 ? [0x28, step] : step < 0x1_0000 ? [0x29, 0, ...u16(step)] : [0x2a, 0, ...u32(step)];
    }),
  );
}

/** Bytes of {@link encodeSteps}. */
export function stepsLength(steps: readonly Step[]): number {
  let length = 0;
  for (const step of steps) length += typeof step === 'string' ? 2 + step.length + (step.length % 2) : step < 0x100 ? 2 : step < 0x1_0000 ? 4 : 6;
  return length;
}

/** The path of an object: class, instance, and an attribute where one is meant. CIP volume 1, C-1.4.2. */
export function objectPath(classId: number, instance: number, attribute?: number): Uint8Array {
  const segment = (kind: number, value: number): readonly number[] =>
    value < 0x100 ? [0x20 | kind, value] : value < 0x1_0000 ? [0x21 | kind, 0, ...u16(value)] : [0x22 | kind, 0, ...u32(value)];
  return joined(segment(0, classId), segment(0x04, instance), attribute === undefined ? [] : segment(0x10, attribute));
}

/** A path in words, for the trace: names with their indexes, or class and instance. What cannot be read ends it. */
export function pathInWords(path: Uint8Array): string {
  let words = '';
  for (let at = 0; at < path.length;) {
    const kind = path[at] ?? 0;
    const low = path[at + 1] ?? 0;
    if (kind === 0x91) {
      words += `${words === '' ? '' : '.'}${String.fromCharCode(...path.subarray(at + 2, at + 2 + low))}`;
      at += 2 + low + (low % 2);
      continue;
    }
    if (kind < 0x20 || kind > 0x3f || (kind & 3) === 3) return `${words}${words === '' ? '' : ' '}…`;
    const width = kind & 3;
    const value =
      width === 0
        ? low
        : width === 1
          ? (path[at + 2] ?? 0) | ((path[at + 3] ?? 0) << 8)
          : new DataView(padded(path, at + 2).buffer).getUint32(0, true);
    const logical = kind & 0x1c;
    const named = LOGICAL[logical];
    words += logical === 0x08 ? `[${value}]` : `${words === '' ? '' : ', '}${named ?? 'segment'} ${value.toString(16).toUpperCase()}h`;
    at += width === 0 ? 2 : width === 1 ? 4 : 6;
  }
  return words;
}

const LOGICAL: Readonly<Record<number, string>> = { 0x00: 'class', 0x04: 'instance', 0x0c: 'connection point', 0x10: 'attribute' };

function padded(path: Uint8Array, at: number): Uint8Array<ArrayBuffer> {
  const four = new Uint8Array(4);
  four.set(path.subarray(at, at + 4));
  return four;
}
