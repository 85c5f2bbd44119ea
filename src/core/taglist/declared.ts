/**
 * What a controller's program declares, from whatever notation it was read: types and variables. Variables of
 * structures and arrays become one row for each value in them, as a table of tags would have listed it.
 */
import type { Problem } from '../result.ts';
import { parseDataType, type TextLayout } from '../value/dataType.ts';
import type { ColumnKey } from './columns.ts';
import { Layouts, type Layout } from './layout.ts';
import type { ListRow } from './readList.ts';

export type TypeRef =
  | { readonly kind: 'elementary'; readonly text: string }
  | { readonly kind: 'named'; readonly name: string; readonly place: string }
  | { readonly kind: 'array'; readonly bounds: readonly (readonly [low: number, high: number])[]; readonly of: TypeRef }
  | { readonly kind: 'structure'; readonly members: readonly Member[] }
  | { readonly kind: 'enumeration'; readonly base: string | null; readonly values: readonly { readonly name: string; readonly value: number }[] }
  | { readonly kind: 'subrange'; readonly base: string; readonly low: number; readonly high: number }
  /** Something that holds no plain value: a pointer, a block with a state of its own. */
  | { readonly kind: 'other'; readonly words: string };

export interface Member {
  readonly name: string;
  readonly type: TypeRef;
  readonly initial: Initial | null;
  readonly comment: string;
  readonly isForPanel: boolean;
  /** Where the program says it lies in its structure, in bits. */
  readonly atBit: number | null;
}

export type Initial =
  | { readonly kind: 'value'; readonly text: string }
  | { readonly kind: 'list'; readonly items: readonly { readonly times: number; readonly value: Initial | null }[] }
  | { readonly kind: 'fields'; readonly fields: ReadonlyMap<string, Initial> };

export interface DeclaredVariable extends Omit<Member, 'atBit'> {
  readonly address: string;
  readonly group: string;
  readonly access: '' | 'R' | 'RW';
  /** The line that a person finds it in. */
  readonly line: number;
  readonly place: string;
}

export interface DeclaredType {
  readonly name: string;
  readonly type: TypeRef;
  readonly initial: Initial | null;
  readonly place: string;
}

export interface Declarations {
  /** By name in small letters. */
  readonly types: ReadonlyMap<string, DeclaredType>;
  readonly variables: readonly DeclaredVariable[];
  readonly problems: readonly Problem[];
  /** The program's version, where it says one. */
  readonly version: string;
}

/** The most values of one variable, and the deepest nesting, that are taken. */
export const MAX_ELEMENTS = 100_000;
export const MAX_DEPTH = 32;

/** A row for each value. Variables that cannot be told apart into values become a row with the reason. */
export function declaredRows({ types, variables }: Declarations, layout: Layout, texts: TextLayout = 'zero-ended'): readonly ListRow[] {
  const rows: ListRow[] = [];
  const layouts = new Layouts(types, layout, texts);
  for (const variable of variables) {
    const before = rows.length;
    const problem = new Expansion(types, layouts, variable, rows).expand();
    if (!problem) continue;
    rows.length = before;
    rows.push({
      row: variable.line,
      place: variable.place,
      cells: { name: variable.name, address: variable.address },
      surplus: 0,
      problems: [problem],
    });
  }
  return rows;
}

/** What is handed down to the values inside a variable. */
interface Inside {
  readonly path: string;
  readonly comment: string;
  readonly isForPanel: boolean;
  readonly initial: Initial | null;
  /** Types that it is a member of, the outermost first. */
  readonly within: readonly string[];
  /** The name of the type that it is; empty where it has none. */
  readonly named: string;
  /** Bits after the variable's address; null where nobody can know. */
  readonly atBit: number | null;
  readonly depth: number;
}

class Expansion {
  readonly #types: Declarations['types'];
  readonly #layouts: Layouts;
  readonly #variable: DeclaredVariable;
  readonly #rows: ListRow[];
  readonly #first: number;
  #steps = 0;

  constructor(types: Declarations['types'], layouts: Layouts, variable: DeclaredVariable, rows: ListRow[]) {
    this.#types = types;
    this.#layouts = layouts;
    this.#variable = variable;
    this.#rows = rows;
    this.#first = rows.length;
  }

  expand(): Problem | null {
    const { name, comment, isForPanel, initial, type } = this.#variable;
    return this.#walk(type, { path: name, comment, isForPanel, initial, within: [], named: '', atBit: 0, depth: 0 });
  }

  #walk(type: TypeRef, inside: Inside): Problem | null {
    // Structures without members hold no value, and may still stand in arrays of arrays.
    if (++this.#steps > 10 * MAX_ELEMENTS) return this.#tooMany();
    if (inside.depth > MAX_DEPTH)
      return this.#problem(
        'too-deep',
        `${inside.path.slice(0, 80)} is nested more than ${MAX_DEPTH} levels deep.`,
        'A type that holds itself has no end.',
      );
    switch (type.kind) {
      case 'elementary':
        return this.#leaf(type.text, inside, {});
      case 'enumeration':
        return this.#leaf(type.base ?? 'INT', inside, {
          enumeration: type.values.map(({ name, value }) => `${value}=${name}`).join('; '),
          ...(type.base === null ? { note: 'Its program does not say how wide the enumeration is: INT is taken, not confirmed.' } : {}),
        });
      case 'subrange':
        return this.#leaf(type.base, inside, { low: String(type.low), high: String(type.high) });
      case 'other':
        return this.#problem('no-value', `${inside.path} is ${type.words}, which holds no value that can be shown.`, 'Exclude it.');
      case 'named': {
        const found = this.#types.get(type.name.toLowerCase());
        if (!found) {
          const elementary = parseDataType(type.name);
          return elementary.ok || /^(W?STRING|W?CHAR)$/i.test(type.name)
            ? this.#leaf(type.name.toUpperCase(), inside, {})
            : this.#problem(
                'unknown-type',
                `The type “${type.name.slice(0, 60)}” of ${inside.path} is not declared in the file.`,
                'Export the types along with the variables.',
              );
        }
        const within = found.type.kind === 'structure' ? [...inside.within, found.name] : inside.within;
        return this.#walk(found.type, { ...inside, within, named: found.name, initial: inside.initial ?? found.initial, depth: inside.depth + 1 });
      }
      case 'array':
        return this.#array(type, inside);
      case 'structure': {
        const fields = inside.initial?.kind === 'fields' ? inside.initial.fields : null;
        const offsets = inside.atBit === null ? null : this.#layouts.placed(type.members);
        for (const [i, member] of type.members.entries()) {
          const at = offsets?.[i] ?? null;
          const problem = this.#walk(member.type, {
            path: `${inside.path}.${member.name}`,
            comment: [inside.comment, member.comment].filter(Boolean).join(', '),
            isForPanel: inside.isForPanel || member.isForPanel,
            initial: fields?.get(member.name.toLowerCase()) ?? member.initial,
            within: inside.within,
            named: '',
            atBit: inside.atBit === null || at === null ? null : inside.atBit + at,
            depth: inside.depth + 1,
          });
          if (problem) return problem;
        }
        return null;
      }
    }
  }

  #array({ bounds, of }: TypeRef & { readonly kind: 'array' }, inside: Inside): Problem | null {
    const count = bounds.reduce((n, [low, high]) => n * (high - low + 1), 1);
    if (bounds.length > 3) return this.#problem('dimensions', `${inside.path} has ${bounds.length} dimensions; up to three are taken.`);
    if (!(count <= MAX_ELEMENTS))
      return this.#problem(
        'array-size',
        `${inside.path} has ${count} elements; up to ${MAX_ELEMENTS} are taken.`,
        'Check its bounds, or exclude it.',
      );
    const step = this.#layouts.step(of);
    const initials = inside.initial?.kind === 'list' ? spread(inside.initial, count) : null;
    const indexes = bounds.map(([low]) => low);
    for (let i = 0; i < count; i++) {
      const problem = this.#walk(of, {
        ...inside,
        path: `${inside.path}[${indexes.join(',')}]`,
        initial: initials ? (initials[i] ?? null) : null,
        named: '',
        atBit: inside.atBit === null || step === null ? null : inside.atBit + i * step,
        depth: inside.depth + 1,
      });
      if (problem) return problem;
      // The last index runs fastest: IEC 61131-3, 6.4.4.5 (from memory).
      for (let d = bounds.length - 1; d >= 0; d--) {
        const [low, high] = bounds[d] ?? [0, 0];
        indexes[d] = (indexes[d] ?? low) + 1;
        if ((indexes[d] ?? low) <= high) break;
        indexes[d] = low;
      }
    }
    return null;
  }

  #leaf(type: string, inside: Inside, more: Readonly<Partial<Record<ColumnKey | 'note', string>>>): Problem | null {
    if (this.#rows.length - this.#first >= MAX_ELEMENTS) return this.#tooMany();
    const { note, ...cells } = more;
    const { address, group, access, line, place } = this.#variable;
    const isInside = inside.depth > 0 && inside.path !== this.#variable.name;
    const isPlaced = address !== '' && isInside && inside.atBit !== null;
    const isUnplaced = address !== '' && isInside && inside.atBit === null;
    const notes = [
      ...(note ? [note] : []),
      ...(isUnplaced ? ['How its program lays structures out is not said, so it has no address: choose it under “Reading options”.'] : []),
    ];
    this.#rows.push({
      row: line,
      place,
      cells: {
        name: inside.path,
        address: isInside ? '' : address,
        type,
        comment: inside.comment,
        group,
        access,
        panel: inside.isForPanel ? 'yes' : '',
        initial: inside.initial?.kind === 'value' ? inside.initial.text : '',
        ...cells,
      },
      surplus: 0,
      ...(inside.within.length > 0 ? { within: inside.within } : {}),
      ...(cells.enumeration !== undefined && inside.named !== '' ? { enumeration: inside.named } : {}),
      ...(isUnplaced ? { isUnplaced } : {}),
      ...(isPlaced ? { inside: { address, atBit: inside.atBit ?? 0 } } : {}),
      ...(notes.length > 0 ? { notes } : {}),
    });
    return null;
  }

  #tooMany(): Problem {
    return this.#problem(
      'array-size',
      `${this.#variable.name} holds more than ${MAX_ELEMENTS} values.`,
      'Check the bounds of its arrays, or exclude it.',
    );
  }

  #problem(code: string, message: string, remedy?: string): Problem {
    return { code, message, ...(remedy ? { remedy } : {}), place: this.#variable.place };
  }
}

/** The values of `[1, 3(0), 7]` one by one. */
function spread({ items }: Initial & { readonly kind: 'list' }, most: number): readonly (Initial | null)[] {
  const values: (Initial | null)[] = [];
  for (const { times, value } of items) for (let i = 0; i < times && values.length < most; i++) values.push(value);
  return values;
}
