/**
 * Lays a filled block out in the memory of a controller that can be any: how it orders bytes, where it pads, how texts end,
 * how bits are numbered. Written apart from the product, which has to find all this out again.
 */
import type { Field, Program } from './program.ts';

/** Orders are letters of the bytes on the wire, A the most significant. */
export interface ScratchLayout {
  /** Holding register of word 0 of its memory. */
  readonly firstRegister: number;
  /** What the number behind %MW counts. */
  readonly counts: 'words' | 'bytes';
  readonly order16: string;
  readonly order32: string;
  readonly order64: string;
  readonly orderText: string;
  readonly structures: 'words' | 'bytes' | 'even' | 'aligned';
  readonly flags: 'packed' | 'bytes' | 'words';
  readonly texts: 'zero-ended' | 'blank-padded' | 'length-byte' | 'length-word' | 'length-dword' | 'capacity-length';
  readonly bitFrom: 'least' | 'most';
  readonly bitBase: 0 | 1;
  /** It knows LWORD and LREAL. */
  readonly hasLong: boolean;
}

/** Where each plain value of the block lies, in bytes of memory from its start. */
interface Placed {
  readonly path: string;
  readonly type: string;
  readonly at: number;
}

/** Memory of registers from register 0 on, big-endian as the wire has them. */
export function fillBlock(program: Program, layout: ScratchLayout, registers: number): Buffer {
  const places: Placed[] = [];
  const size = place(program, layout, program.variable.type, '', 0, places);
  const memory = Buffer.alloc(size + (size % 2) + 8);
  for (const { type, at } of places) if (type.startsWith('STRING')) memory.set(textBytes('', roomOf(type), layout), at);
  for (const [path, literal] of program.assignments) {
    const bit = /\.%X(\d+)$/.exec(path)?.[1];
    const owner = path.replace(/\.%X\d+$/, '');
    const flag = /^(.*)\[(\d+)\]$/.exec(owner);
    const target = places.find((p) => p.path === (flag?.[1] ?? owner));
    if (!target) continue; // A controller without the type has left the variable out.
    if (flag) setFlag(memory, target.at, Number(flag[2]), layout);
    else if (bit !== undefined) setBit(memory, target.at, Number(bit), layout);
    else memory.set(bytesOf(target.type, literal, layout), target.at);
  }
  const whole = Buffer.alloc(registers * 2);
  const start = (layout.firstRegister + (layout.counts === 'bytes' ? program.variable.word / 2 : program.variable.word)) * 2;
  memory.copy(whole, start);
  // Memory counts bytes; on the wire the two of a register may be swapped.
  return layout.orderText === 'BA' ? swapPairs(whole) : whole;
}

/** @returns where what follows may begin at the earliest */
function place(program: Program, layout: ScratchLayout, type: string, path: string, start: number, into: Placed[]): number {
  const fields = program.types.get(type);
  if (!fields) {
    into.push({ path, type, at: start });
    return start + sizeOf(type, layout);
  }
  let at = start;
  for (const field of fields.filter((f) => layout.hasLong || !/^(LWORD|LREAL)$/.test(f.type))) {
    at = rounded(at, alignmentOf(program, layout, field));
    at = place(program, layout, field.type, path === '' ? field.name : `${path}.${field.name}`, at, into);
  }
  return rounded(at, Math.max(...fields.map((field) => alignmentOf(program, layout, field))));
}

function alignmentOf(program: Program, layout: ScratchLayout, { type }: Field): number {
  if (layout.structures === 'words') return 2;
  if (layout.structures === 'bytes') return 1;
  const inner = program.types.get(type);
  if (inner) return Math.max(...inner.map((field) => alignmentOf(program, layout, field)));
  const own = type.startsWith('STRING')
    ? layout.texts === 'length-word'
      ? 2
      : 1
    : type.startsWith('ARRAY')
      ? layout.flags === 'bytes'
        ? 1
        : 2
      : scalar(type);
  return layout.structures === 'even' ? Math.min(own, 2) : own;
}

function sizeOf(type: string, layout: ScratchLayout): number {
  if (type.startsWith('ARRAY')) return layout.flags === 'packed' ? 2 : layout.flags === 'bytes' ? 16 : 32;
  const size = type.startsWith('STRING') ? textBytes('', roomOf(type), layout).length : scalar(type);
  return layout.structures === 'words' ? rounded(size, 2) : size;
}

function scalar(type: string): number {
  const size = { BYTE: 1, WORD: 2, DWORD: 4, REAL: 4, LWORD: 8, LREAL: 8 }[type];
  if (size === undefined) throw new Error(`The controller has no ${type}.`);
  return size;
}

const roomOf = (type: string): number => Number(/\d+/.exec(type)?.[0] ?? 0);
const rounded = (at: number, to: number): number => Math.ceil(at / to) * to;

function swapPairs(bytes: Buffer): Buffer {
  const out = Buffer.from(bytes);
  return out.swap16();
}

/** As they lie in memory: on the wire in the order that is wanted, and there perhaps swapped in pairs. */
function inMemory(plain: Buffer, order: string, layout: ScratchLayout): Buffer {
  const wire = Buffer.from(Array.from(order, (letter) => plain[letter.charCodeAt(0) - 65] ?? 0));
  return layout.orderText === 'BA' ? swapPairs(wire) : wire;
}

function bytesOf(type: string, literal: string, layout: ScratchLayout): Buffer {
  if (type.startsWith('STRING')) return textBytes(literal.slice(1, -1), roomOf(type), layout);
  const based = /^\w+#16#([0-9A-F]+)$/.exec(literal);
  const plain = Buffer.alloc(Math.max(2, scalar(type)));
  if (type === 'REAL') plain.writeFloatBE(Number(literal.replace('REAL#', '')));
  else if (type === 'LREAL') plain.writeDoubleBE(Number(literal.replace('LREAL#', '')));
  else if (!based) throw new Error(`“${literal}” is no literal.`);
  else Buffer.from((based[1] ?? '').padStart(plain.length * 2, '0'), 'hex').copy(plain);
  if (type === 'BYTE') return layout.structures === 'words' ? inMemory(plain, layout.order16, layout) : plain.subarray(1);
  return inMemory(plain, plain.length === 2 ? layout.order16 : plain.length === 4 ? layout.order32 : layout.order64, layout);
}

function textBytes(text: string, room: number, layout: ScratchLayout): Buffer {
  const body = Buffer.alloc(room, layout.texts === 'blank-padded' ? 0x20 : 0);
  body.write(text, 'latin1');
  const word = Buffer.alloc(2);
  word.writeUInt16BE(text.length);
  const wide = Buffer.alloc(4);
  wide.writeUInt32BE(text.length);
  switch (layout.texts) {
    case 'zero-ended':
      return Buffer.concat([body, Buffer.alloc(1)]);
    case 'blank-padded':
      return body;
    case 'length-byte':
      return Buffer.concat([Buffer.of(text.length), body]);
    case 'capacity-length':
      return Buffer.concat([Buffer.of(room, text.length), body]);
    case 'length-word':
      return Buffer.concat([inMemory(word, layout.order16, layout), body]);
    case 'length-dword':
      return Buffer.concat([inMemory(wide, layout.order32, layout), body]);
  }
}

function setFlag(memory: Buffer, at: number, index: number, layout: ScratchLayout): void {
  const one = Buffer.of(0, 1);
  if (layout.flags === 'bytes') memory[at + index] = 1;
  else if (layout.flags === 'words') memory.set(inMemory(one, layout.order16, layout), at + index * 2);
  else orWord(memory, at, 1 << index, layout);
}

/** @param named the number that the controller gives to the bit */
function setBit(memory: Buffer, at: number, named: number, layout: ScratchLayout): void {
  const fromEnd = named - layout.bitBase;
  orWord(memory, at, 1 << (layout.bitFrom === 'least' ? fromEnd : 15 - fromEnd), layout);
}

function orWord(memory: Buffer, at: number, mask: number, layout: ScratchLayout): void {
  const plain = Buffer.alloc(2);
  plain.writeUInt16BE(mask);
  const bytes = inMemory(plain, layout.order16, layout);
  for (const [i, byte] of bytes.entries()) memory[at + i] = (memory[at + i] ?? 0) | byte;
}
