/** Where the members of structures and the elements of arrays lie, counted from the variable's own address. */
import { parseDataType, textAsLaidOut, type DataType, type TextLayout } from '../value/dataType.ts';
import type { Declarations, Member, TypeRef } from './declared.ts';

/**
 * How a controller lays structures out, which no standard says. `none`: not known, and members get no address.
 * `words`: every member begins a 16-bit word, a BOOL takes one. `bytes`: one after another, a BOOL takes a byte.
 * `even`: as `bytes`, values of two bytes and more begin at even ones. `aligned`: as `bytes`, each at a multiple of its own size, the structure padded to its largest member.
 * A STRING takes a byte more than its length, for its end, in the last three (common practice).
 */
export const LAYOUTS = ['none', 'words', 'bytes', 'even', 'aligned'] as const;
export type Layout = (typeof LAYOUTS)[number];

interface Measure {
  /** Bits that it takes, padding at its end included; null where nobody can know. */
  readonly bits: number | null;
  /** Its beginning is a multiple of so many bits. */
  readonly alignment: number;
}
const UNKNOWN: Measure = { bits: null, alignment: 8 };

/** The sizes of a file's types, each worked out once: types may hold each other many times over. */
export class Layouts {
  readonly #types: Declarations['types'];
  readonly #layout: Layout;
  readonly #texts: TextLayout;
  readonly #known = new Map<string, Measure>();

  /** @param texts how texts lie of which only the length is said */
  constructor(types: Declarations['types'], layout: Layout, texts: TextLayout = 'zero-ended') {
    this.#types = types;
    this.#layout = layout;
    this.#texts = texts;
  }

  /** Bits after the structure's beginning for each member; null where nobody can know. */
  placed(members: readonly Member[]): readonly (number | null)[] {
    let next: number | null = 0;
    return members.map((member) => {
      if (member.atBit !== null || next === null || this.#layout === 'none') return member.atBit;
      const { bits, alignment } = this.#measure(member.type);
      const at = roundUp(next, alignment);
      next = bits === null ? null : at + bits;
      return at;
    });
  }

  /** From one element of an array to the next: values of whole words follow each other in every layout. */
  step(of: TypeRef): number | null {
    const elementary = this.#layout === 'none' ? elementaryOf(of, this.#types) : null;
    if (elementary) return elementary.kind !== 'text' && elementary.bytes > 1 ? elementary.bytes * 8 : null;
    return this.#measure(of).bits;
  }

  #measure(type: TypeRef): Measure {
    switch (type.kind) {
      case 'elementary':
      case 'enumeration':
      case 'subrange': {
        const elementary = elementaryOf(type, this.#types);
        return elementary ? this.#elementary(elementary) : UNKNOWN;
      }
      case 'named':
        return this.#named(type.name);
      case 'array': {
        const { bits, alignment } = this.#measure(type.of);
        return { bits: bits === null ? null : bits * type.bounds.reduce((n, [low, high]) => n * (high - low + 1), 1), alignment };
      }
      case 'structure':
        return this.#structure(type.members);
      case 'other':
        return UNKNOWN;
    }
  }

  #named(name: string): Measure {
    const key = name.toLowerCase();
    const known = this.#known.get(key);
    if (known) return known;
    // Stands while its own measure is worked out: a type that holds itself has none.
    this.#known.set(key, UNKNOWN);
    const found = this.#types.get(key);
    const elementary = found ? null : parseDataType(name);
    const measure = found ? this.#measure(found.type) : elementary?.ok ? this.#elementary(elementary.value) : UNKNOWN;
    this.#known.set(key, measure);
    return measure;
  }

  #structure(members: readonly Member[]): Measure {
    if (this.#layout === 'none') return UNKNOWN;
    const alignment = members.reduce((most, m) => Math.max(most, this.#measure(m.type).alignment), this.#layout === 'words' ? 16 : 8);
    let end = 0;
    for (const [i, at] of this.placed(members).entries()) {
      const member = members[i];
      const bits = member ? this.#measure(member.type).bits : null;
      if (at === null || bits === null) return { bits: null, alignment };
      end = Math.max(end, at + bits);
    }
    return { bits: roundUp(end, alignment), alignment };
  }

  #elementary(said: DataType): Measure {
    const type = textAsLaidOut(said, this.#texts);
    const isText = type.kind === 'text';
    // The zero at the end is not counted as room.
    const bytes = type.bytes + (type.kind === 'text' && type.layout === 'zero-ended' && type.room > 1 && this.#layout !== 'words' ? 1 : 0);
    switch (this.#layout) {
      case 'none':
        return UNKNOWN;
      case 'words':
        return { bits: Math.ceil(bytes / 2) * 16, alignment: 16 };
      case 'bytes':
        return { bits: bytes * 8, alignment: 8 };
      case 'even':
        return { bits: bytes * 8, alignment: bytes > 1 && !isText ? 16 : 8 };
      case 'aligned':
        return { bits: bytes * 8, alignment: isText ? 8 : bytes * 8 };
    }
  }
}

/** The elementary type that a reference comes down to, null for one that holds several values or none. */
function elementaryOf(type: TypeRef, types: Declarations['types'], seen: ReadonlySet<string> = new Set()): DataType | null {
  const parsed = (text: string): DataType | null => {
    const result = parseDataType(text);
    return result.ok ? result.value : null;
  };
  switch (type.kind) {
    case 'elementary':
      return parsed(type.text);
    case 'enumeration':
      return parsed(type.base ?? 'INT');
    case 'subrange':
      return parsed(type.base);
    case 'named': {
      const key = type.name.toLowerCase();
      const found = types.get(key);
      if (found) return seen.has(key) ? null : elementaryOf(found.type, types, new Set([...seen, key]));
      return parsed(type.name);
    }
    default:
      return null;
  }
}

function roundUp(bits: number, to: number): number {
  return Math.ceil(bits / to) * to;
}
