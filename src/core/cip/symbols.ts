/**
 * What a controller tells of its tags: the list of its symbols, and the templates of its structures (classes 6Bh and 6Ch;
 * common practice of named-tag controllers, from memory).
 */
import { fail, ok, type Result } from '../result.ts';
import { joined, textAt, u16, u32, viewOf } from './bytes.ts';
import { elementary } from './dataTypes.ts';
import { buildRequest, CLASS, SERVICE } from './message.ts';
import { encodeSteps, objectPath } from './tagPath.ts';

/** The type word of a symbol or member. */
export interface DeclaredType {
  /** Template of a structure, else null. */
  readonly template: number | null;
  /** Code of an elementary type, 0 for a structure. */
  readonly code: number;
  /** Of a symbol: 0 to 3. */
  readonly dimensions: number;
  /** Made by the controller for itself. */
  readonly isSystem: boolean;
}

export function readTypeWord(word: number): DeclaredType {
  const isStructure = (word & 0x8000) !== 0;
  return {
    template: isStructure ? word & 0x0fff : null,
    code: isStructure ? 0 : word & 0xff,
    dimensions: (word >> 13) & 3,
    isSystem: (word & 0x1000) !== 0,
  };
}

export interface Symbol {
  readonly instance: number;
  readonly name: string;
  readonly type: DeclaredType;
  /** Lengths of its dimensions, empty for one value. */
  readonly lengths: readonly number[];
}

const NAME = 1;
const TYPE = 2;
const LENGTHS = 8;

/** @param scope the name of a program, `Program:Packing`, or null for the controller's own; @param from the first instance wanted */
export function symbolsRequest(scope: string | null, from: number): Uint8Array {
  const of = from < 0x1_0000 ? [0x20, CLASS.symbol, 0x25, 0, ...u16(from)] : [0x20, CLASS.symbol, 0x26, 0, ...u32(from)];
  const path = joined(scope === null ? [] : encodeSteps([scope]), of);
  return buildRequest(SERVICE.instanceAttributeList, path, joined(u16(3), u16(NAME), u16(TYPE), u16(LENGTHS)));
}

export function readSymbols(data: Uint8Array): Result<readonly Symbol[]> {
  const view = viewOf(data);
  const symbols: Symbol[] = [];
  for (let at = 0; at < data.length;) {
    if (data.length < at + 6) return fail('short', 'The list of symbols is cut.');
    const instance = view.getUint32(at, true);
    const length = view.getUint16(at + 4, true);
    const rest = at + 6 + length;
    if (data.length < rest + 14) return fail('short', 'The list of symbols is cut.');
    const type = readTypeWord(view.getUint16(rest, true));
    const lengths = [2, 6, 10].slice(0, type.dimensions).map((skip) => view.getUint32(rest + skip, true));
    symbols.push({ instance, name: textAt(data, at + 6, length), type, lengths });
    at = rest + 14;
  }
  return ok(symbols);
}

const TEMPLATE_WORDS = 4;
const STRUCTURE_BYTES = 5;
const MEMBER_COUNT = 2;
const HANDLE = 1;

export function templateFactsRequest(template: number): Uint8Array {
  const attributes = [TEMPLATE_WORDS, STRUCTURE_BYTES, MEMBER_COUNT, HANDLE];
  return buildRequest(SERVICE.getAttributeList, objectPath(CLASS.template, template), joined(u16(attributes.length), ...attributes.map(u16)));
}

export interface TemplateFacts {
  /** Bytes of its description that are to be read. */
  readonly describedBytes: number;
  /** Bytes of one structure. */
  readonly bytes: number;
  readonly members: number;
  readonly handle: number;
}

/** What the description has beyond what is read: its own head. */
const NOT_READ = 23;
const MOST_MEMBERS = 4000;

export function readTemplateFacts(data: Uint8Array): Result<TemplateFacts> {
  const view = viewOf(data);
  const found = new Map<number, number>();
  let at = 2;
  for (let left = data.length >= 2 ? view.getUint16(0, true) : 0; left > 0; left--) {
    if (data.length < at + 4) return fail('short', 'What the controller tells of a structure is cut.');
    const [attribute, status] = [view.getUint16(at, true), view.getUint16(at + 2, true)];
    at += 4;
    if (status !== 0) continue;
    const isWide = attribute === TEMPLATE_WORDS || attribute === STRUCTURE_BYTES;
    if (data.length < at + (isWide ? 4 : 2)) return fail('short', 'What the controller tells of a structure is cut.');
    found.set(attribute, isWide ? view.getUint32(at, true) : view.getUint16(at, true));
    at += isWide ? 4 : 2;
  }
  const [words, bytes, members, handle] = [TEMPLATE_WORDS, STRUCTURE_BYTES, MEMBER_COUNT, HANDLE].map((attribute) => found.get(attribute));
  if (words === undefined || bytes === undefined || members === undefined || handle === undefined)
    return fail('template', 'The controller does not tell enough of a structure.');
  if (members > MOST_MEMBERS || words > 0xffff) return fail('template', 'A structure has more members than a controller can have.');
  return ok({ describedBytes: Math.max(0, words * 4 - NOT_READ), bytes, members, handle });
}

/** Reads the description of a structure from an offset on. */
export function templateRequest(template: number, offset: number, bytes: number): Uint8Array {
  return buildRequest(SERVICE.readTag, objectPath(CLASS.template, template), joined(u32(offset), u16(bytes)));
}

export interface Template {
  readonly name: string;
  readonly members: readonly Member[];
}
export interface Member {
  readonly name: string;
  readonly type: DeclaredType;
  /** Elements of an array, 0 for one value. */
  readonly length: number;
  readonly offset: number;
}

/** @param count members, as the facts of the template tell */
export function readTemplate(data: Uint8Array, count: number): Result<Template> {
  if (data.length < 8 * count) return fail('short', 'The description of a structure is cut.');
  const view = viewOf(data);
  const names: string[] = [];
  for (let at = 8 * count; at < data.length && names.length <= count;) {
    const end = data.indexOf(0, at);
    const to = end < 0 ? data.length : end;
    names.push(textAt(data, at, to - at));
    at = to + 1;
  }
  if (names.length <= count) return fail('short', 'The description of a structure lacks names of its members.');
  const members = Array.from({ length: count }, (_, i): Member => {
    const type = readTypeWord(view.getUint16(8 * i + 2, true));
    const info = view.getUint16(8 * i, true);
    return { name: names[i + 1] ?? '', type, length: type.dimensions > 0 ? info : 0, offset: view.getUint32(8 * i + 4, true) };
  });
  return ok({ name: (names[0] ?? '').split(';')[0] ?? '', members });
}

/** Characters of a text, where a structure is one: its length, and an array of small integers. */
export function textLength({ members }: Template): number | null {
  const [length, characters, ...more] = members;
  const isText =
    more.length === 0 &&
    length?.name.toUpperCase() === 'LEN' &&
    elementary(length.type.code)?.name === 'DINT' &&
    characters?.name.toUpperCase() === 'DATA' &&
    elementary(characters.type.code)?.name === 'SINT';
  return isText ? characters.length : null;
}

/** Members and symbols that controllers keep for themselves: what holds the bits of a structure's BOOLs has no name of its own. */
export function isHidden(name: string): boolean {
  return name.startsWith('__') || name.startsWith('ZZZZZZZZZZ');
}
