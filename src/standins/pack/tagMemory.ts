/**
 * The memory of a controller with named tags: each tag a stretch of bytes, laid out by the controller's own rules. Structures align
 * their members to their width and are rounded up to four bytes; BOOLs of a structure share a hidden byte; arrays of BOOL are
 * double words of 32.
 */
export interface AtomType {
  readonly kind: 'atom';
  readonly code: number;
  readonly bytes: number;
}
export interface StructureType {
  readonly kind: 'structure';
  readonly name: string;
  readonly instance: number;
  readonly handle: number;
  readonly bytes: number;
  readonly members: readonly MemberPlace[];
}
export type ValueType = AtomType | StructureType;

export interface MemberPlace {
  readonly name: string;
  readonly type: ValueType;
  readonly offset: number;
  /** Elements of an array, 0 for one value. */
  readonly length: number;
  /** Of a BOOL: its bit in the byte at the offset. */
  readonly bit: number | null;
}

export interface Tag {
  /** The first in its scope is 1; gaps stay where tags were removed. */
  readonly instance: number;
  name: string;
  readonly type: ValueType;
  lengths: readonly number[];
  data: Uint8Array;
}

const atom = (code: number, bytes: number): AtomType => ({ kind: 'atom', code, bytes });
export const BOOL = atom(0xc1, 1);
export const SINT = atom(0xc2, 1);
export const INT = atom(0xc3, 2);
export const DINT = atom(0xc4, 4);
export const LINT = atom(0xc5, 8);
export const REAL = atom(0xca, 4);
/** 32 elements of an array of BOOL. */
export const BITS = atom(0xd3, 4);

export type MemberSpec = readonly [name: string, type: ValueType, length?: number];

let instances = 0x100;

export function structure(name: string, specs: readonly MemberSpec[], handle?: number): StructureType {
  const members: MemberPlace[] = [];
  let at = 0;
  let host: { offset: number; used: number } | null = null;
  for (const [memberName, type, length = 0] of specs) {
    if (type === BOOL && length === 0) {
      if (!host || host.used === 8) {
        host = { offset: at, used: 0 };
        members.push({ name: `ZZZZZZZZZZ${name}${members.length}`, type: SINT, offset: at, length: 0, bit: null });
        at += 1;
      }
      members.push({ name: memberName, type, offset: host.offset, length: 0, bit: host.used++ });
      continue;
    }
    const width = type.kind === 'structure' ? 4 : type.bytes;
    at = Math.ceil(at / width) * width;
    members.push({ name: memberName, type, offset: at, length, bit: null });
    at += type.bytes * Math.max(1, length);
  }
  instances++;
  return { kind: 'structure', name, instance: instances, handle: handle ?? (instances * 0x1f3) & 0xffff, bytes: Math.ceil(at / 4) * 4, members };
}

/** A text of up to so many characters. */
export function text(name: string, length: number): StructureType {
  return structure(name, [
    ['LEN', DINT],
    ['DATA', SINT, length],
  ]);
}

/** Where a path of names and indexes leads. */
export interface Place {
  readonly tag: Tag;
  readonly type: ValueType;
  readonly offset: number;
  readonly bit: number | null;
  /** Elements from here to the end of the array that it is in; 1 for one value. */
  readonly left: number;
}

/** What a path that leads nowhere is answered with: general and additional status. */
export interface Refused {
  readonly general: number;
  readonly extended: number;
}

export class TagMemory {
  readonly #scopes = new Map<string, Tag[]>([['', []]]);
  /** Grows whenever a place may lead elsewhere. */
  version = 0;

  /** @param scope empty for the controller's own */
  add(scope: string, name: string, type: ValueType, lengths: readonly number[] = []): Tag {
    const tags = this.#scopes.get(scope) ?? [];
    if (!this.#scopes.has(scope)) this.#scopes.set(scope, tags);
    const count = lengths.reduce((all, length) => all * length, 1);
    const tag: Tag = {
      instance: (tags.at(-1)?.instance ?? 0) + 1 + (tags.length % 7 === 3 ? 5 : 0),
      name,
      type,
      lengths,
      data: new Uint8Array(type.bytes * count),
    };
    tags.push(tag);
    this.version++;
    return tag;
  }

  get programs(): readonly string[] {
    return [...this.#scopes.keys()].filter((scope) => scope !== '');
  }
  tagsOf(scope: string): readonly Tag[] | null {
    return this.#scopes.get(this.#scopeNamed(scope) ?? '?') ?? null;
  }
  find(scope: string, name: string): Tag | undefined {
    return this.tagsOf(scope)?.find((tag) => tag.name.toLowerCase() === name.toLowerCase());
  }
  rename(tag: Tag, name: string): void {
    tag.name = name;
    this.version++;
  }
  remove(scope: string, name: string): void {
    const tags = this.#scopes.get(scope);
    const at = tags?.findIndex((tag) => tag.name === name) ?? -1;
    if (at >= 0) tags?.splice(at, 1);
    this.version++;
  }

  /** All structures that tags are made of. */
  structures(): ReadonlyMap<number, StructureType> {
    const found = new Map<number, StructureType>();
    const add = (type: ValueType): void => {
      if (type.kind === 'atom') return;
      found.set(type.instance, type);
      for (const member of type.members) add(member.type);
    };
    for (const tags of this.#scopes.values()) for (const tag of tags) add(tag.type);
    return found;
  }

  /** @param steps names and indexes from a request, a program's name first where it has one */
  locate(steps: readonly (string | number)[]): Place | Refused {
    const rest = [...steps];
    let scope = '';
    const [first] = rest;
    if (typeof first === 'string' && /^program:/i.test(first)) {
      const named = this.#scopeNamed(first);
      if (named === null) return NO_NAME;
      scope = named;
      rest.shift();
    }
    const name = rest.shift();
    const tag = typeof name === 'string' ? this.find(scope, name) : undefined;
    if (!tag) return NO_NAME;
    let type = tag.type;
    let lengths = tag.lengths;
    let [offset, bit, left] = [0, null as number | null, count(lengths)];
    while (rest.length > 0) {
      if (typeof rest[0] === 'number') {
        if (lengths.length === 0) return { general: 0x05, extended: 0 };
        let flat = 0;
        for (const length of lengths) {
          const index = rest.shift();
          if (typeof index !== 'number') return { general: 0x05, extended: 0 };
          if (index >= length) return { general: 0xff, extended: 0x2105 };
          flat = flat * length + index;
        }
        offset += flat * type.bytes;
        left = count(lengths) - flat;
        lengths = [];
        continue;
      }
      const wanted = String(rest.shift()).toLowerCase();
      if (type.kind !== 'structure' || lengths.length > 0) return NO_NAME;
      const member: MemberPlace | undefined = type.members.find((m) => m.name.toLowerCase() === wanted);
      if (!member) return NO_NAME;
      offset += member.offset;
      bit = member.bit;
      type = member.type;
      lengths = member.length > 0 ? [member.length] : [];
      left = Math.max(1, member.length);
    }
    return { tag, type, offset, bit, left };
  }

  #scopeNamed(scope: string): string | null {
    return [...this.#scopes.keys()].find((known) => known.toLowerCase() === scope.toLowerCase()) ?? null;
  }
}

const NO_NAME: Refused = { general: 0x04, extended: 0 };

function count(lengths: readonly number[]): number {
  return lengths.reduce((all, length) => all * length, 1);
}
