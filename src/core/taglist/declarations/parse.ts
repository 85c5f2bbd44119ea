/**
 * The declaration part of IEC 61131-3 text: VAR_GLOBAL blocks with AT addresses, VAR_ACCESS, and TYPE declarations
 * (third edition, Annex A, from memory). Bodies of programs, functions and blocks are passed over. A mistake costs the
 * declaration that it stands in; reading goes on behind the next semicolon.
 */
import { firstOfEach } from '../../firstOfEach.ts';
import type { Problem } from '../../result.ts';
import { parseDataType } from '../../value/dataType.ts';
import type { DeclaredType, DeclaredVariable, Declarations, Initial, Member, TypeRef } from '../declared.ts';
import { remarksOf, type Said } from './remarks.ts';
import { Mistake, TokenCursor, wholeOf } from './tokenCursor.ts';
import { expected, placeOf, tokensOf, type Token } from './tokens.ts';

/** Problems after which nobody reads on: the file is of another kind. */
const MAX_PROBLEMS = 200;
const MAX_NESTING = 60;
const VALUE_ENDS: ReadonlySet<string> = new Set([';', ',', ')', ']']);
/** Characters of an initial value that are kept. */
const LONGEST_VALUE = 200;
const BLOCKS = ['PROGRAM', 'FUNCTION', 'FUNCTION_BLOCK', 'CLASS', 'INTERFACE', 'METHOD', 'ACTION'];

export function looksDeclared(text: string): boolean {
  return /^[ \t]*(TYPE|STRUCT|VAR_GLOBAL|VAR_ACCESS|CONFIGURATION|END_VAR|END_TYPE)\b/im.test(text) && /\bEND_(VAR|TYPE)\b/i.test(text);
}

/** @param panelMark the word of a pragma that marks variables for panels, empty for none */
export function parseDeclarations(text: string, panelMark = ''): Declarations {
  const { tokens, problems } = tokensOf(text);
  const read = new Parser(tokens, panelMark).file();
  // What is wrong with the text is told once, before what follows from it, and nothing on its line is believed.
  const all = [...problems, ...read.problems];
  const wrong = new Set(problems.map(lineOf));
  return {
    ...read,
    variables: read.variables.filter(({ line }) => !wrong.has(`line ${line}`)),
    problems: firstOfEach(all, lineOf).slice(0, MAX_PROBLEMS),
  };
}

function lineOf({ place }: Problem): string {
  return place?.split(',')[0] ?? '';
}

interface Block {
  readonly isConstant: boolean;
  readonly group: string;
}

class Parser extends TokenCursor {
  readonly #panelMark: string;
  #nesting = 0;
  readonly #types = new Map<string, DeclaredType>();
  readonly #variables: DeclaredVariable[] = [];
  readonly #problems: Problem[] = [];
  /** What VAR_ACCESS says of a variable, by its name in capitals. */
  readonly #access = new Map<string, 'R' | 'RW'>();
  #version = '';

  constructor(tokens: readonly Token[], panelMark: string) {
    super(tokens);
    this.#panelMark = panelMark;
  }

  file(): Declarations {
    const groups: string[] = [];
    let isInResource = false;
    while (this.now.kind !== 'end' && this.#problems.length < MAX_PROBLEMS) {
      this.#readVersion();
      const word = this.word;
      if (word === 'TYPE') this.#typeBlock();
      else if (word === 'VAR_GLOBAL') this.#variableBlock(groups.at(-1) ?? '');
      else if (word === 'VAR_ACCESS') this.#accessBlock();
      else if (word === 'CONFIGURATION' || word === 'RESOURCE' || word === 'NAMESPACE') {
        if (word === 'RESOURCE') isInResource = true;
        this.next();
        const name = this.now.text;
        this.next();
        if (this.word === 'ON') this.skip(2);
        groups.push(word === 'CONFIGURATION' ? (groups.at(-1) ?? '') : [groups.at(-1), name].filter(Boolean).join('/'));
      } else if (['END_CONFIGURATION', 'END_RESOURCE', 'END_NAMESPACE'].includes(word)) {
        groups.pop();
        if (word === 'END_RESOURCE') isInResource = false;
        this.next();
      }
      // In a resource PROGRAM and TASK are instances, not bodies.
      else if (word === 'TASK' || (word === 'PROGRAM' && isInResource)) this.passUntil(';');
      else if (BLOCKS.includes(word)) this.passUntil(`END_${word}`);
      else if (/^VAR/.test(word)) this.passUntil('END_VAR');
      else if (this.now.text === ';') this.next();
      else {
        this.#problems.push(expected('a TYPE or VAR_GLOBAL block', this.now));
        this.#recover();
      }
    }
    const variables = this.#variables.map((variable) => {
      const access = this.#access.get(variable.name.toUpperCase());
      return access ? { ...variable, access, isForPanel: true } : variable;
    });
    return { types: this.#types, variables, problems: this.#problems, version: this.#version };
  }

  /** A pragma such as `{version '2.4'}` or a comment such as `(* Version: 2.4 *)` at the head of the file. */
  #readVersion(): void {
    if (this.#version !== '') return;
    for (const { text } of this.now.before) {
      const found = /\bversion\b\s*[:=]*\s*['"]?([\w.-]{1,40})/i.exec(text)?.[1];
      if (found) this.#version = found;
    }
  }

  #typeBlock(): void {
    this.next();
    while (!this.is('END_TYPE') && this.now.kind !== 'end')
      this.#orRecover(() => {
        const name = this.name('the name of a type');
        this.need(':');
        const type = this.#spec();
        const initial = this.#initialIfAny();
        // STRUCT … END_STRUCT may stand without one.
        if (!this.take(';') && type.kind !== 'structure' && !this.is('END_TYPE')) throw new Mistake(expected('“;”', this.now));
        const key = name.text.toLowerCase();
        if (this.#types.has(key))
          throw new Mistake({
            code: 'type-twice',
            message: `The type “${name.text}” is declared twice.`,
            remedy: 'Remove one of them.',
            place: placeOf(name),
          });
        this.#types.set(key, { name: name.text, type, initial, place: placeOf(name) });
      });
    this.take('END_TYPE');
  }

  #variableBlock(group: string): void {
    this.next();
    let isConstant = false;
    while (['CONSTANT', 'RETAIN', 'NON_RETAIN', 'PERSISTENT', 'PUBLIC', 'INTERNAL'].includes(this.word))
      isConstant = this.next().text.toUpperCase() === 'CONSTANT' || isConstant;
    while (!this.is('END_VAR') && this.now.kind !== 'end') this.#orRecover(() => this.#variables.push(...this.#declaration({ isConstant, group })));
    this.take('END_VAR');
  }

  /** `name {, name} [AT %loc] : type [:= value];` */
  #declaration({ isConstant, group }: Block): readonly DeclaredVariable[] {
    const start = this.at;
    // `AT %MW6 : INT;` has no name but its address.
    const first = this.is('AT') ? { ...this.now, text: this.tokens[this.at + 1]?.text ?? '' } : this.name('the name of a variable');
    const names = [first];
    while (this.take(',')) names.push(this.name('the name of a variable'));
    let address = '';
    if (this.take('AT')) {
      if (this.now.kind !== 'location') throw new Mistake(expected('an address such as %MW100', this.now));
      address = this.next().text;
      if (names.length > 1) throw new Mistake({ code: 'syntax', message: 'Several variables cannot have one address.', place: placeOf(first) });
    }
    this.need(':');
    const type = this.#spec();
    const initial = this.#initialIfAny();
    this.need(';');
    if (isConstant && initial?.kind === 'value') {
      const value = wholeOf(initial.text);
      if (value !== null) for (const { text } of names) this.constants.set(text.toUpperCase(), value);
    }
    const { comment, isForPanel } = this.#remarks(first, start);
    return names.map((name) => ({
      name: name.text,
      type,
      initial,
      comment,
      isForPanel,
      address,
      group,
      access: isConstant ? 'R' : '',
      line: name.line,
      place: placeOf(name),
    }));
  }

  /** `name : [resource.]variable : type [READ_ONLY | READ_WRITE];` (third edition, 6.8.1): what may be seen from outside. */
  #accessBlock(): void {
    this.next();
    while (!this.is('END_VAR') && this.now.kind !== 'end')
      this.#orRecover(() => {
        this.name('the name of an access path');
        this.need(':');
        let last = this.next();
        while (!this.is(':') && !this.is(';') && this.now.kind !== 'end') {
          const token = this.next();
          if (token.kind === 'word') last = token;
        }
        this.need(':');
        this.#spec();
        const access = this.word === 'READ_WRITE' ? 'RW' : 'R';
        if (this.word === 'READ_ONLY' || this.word === 'READ_WRITE') this.next();
        this.need(';');
        this.#access.set(last.text.toUpperCase(), access);
      });
    this.take('END_VAR');
  }

  #spec(): TypeRef {
    if (++this.#nesting > MAX_NESTING)
      throw new Mistake({ code: 'too-deep', message: `Types are nested more than ${MAX_NESTING} levels deep here.`, place: placeOf(this.now) });
    try {
      return this.#specInside();
    } finally {
      this.#nesting--;
    }
  }

  #specInside(): TypeRef {
    if (this.is('(')) return this.#enumeration(null);
    const token = this.now;
    if (this.take('ARRAY')) {
      this.need('[');
      const bounds: [number, number][] = [];
      do {
        const at = this.now;
        const low = this.bound();
        this.need('..');
        const high = this.bound();
        if (high < low) throw new Mistake({ code: 'bounds', message: `The bounds ${low}..${high} end before they begin.`, place: placeOf(at) });
        bounds.push([low, high]);
      } while (this.take(','));
      this.need(']');
      this.need('OF');
      return { kind: 'array', bounds, of: this.#spec() };
    }
    if (this.take('STRUCT')) return this.#structure();
    if (this.take('POINTER') || this.take('REFERENCE')) {
      this.need('TO');
      this.#spec();
      return { kind: 'other', words: 'a pointer' };
    }
    if (this.take('REF_TO')) {
      this.#spec();
      return { kind: 'other', words: 'a reference' };
    }
    let name = this.name('a type').text;
    while (this.take('.')) name = this.name('a type').text;
    if (/^W?STRING$/i.test(name)) {
      const close = this.take('[') ? ']' : this.take('(') ? ')' : null;
      if (close === null) return { kind: 'elementary', text: name.toUpperCase() };
      const length = this.bound();
      this.need(close);
      return { kind: 'elementary', text: `${name.toUpperCase()}(${length})` };
    }
    if (this.is('(') && !parseDataType(name).ok && this.tokens[this.at + 2]?.text === ':=') {
      // `Channel (Low := 0, High := 4000)`: a structure with values of its own.
      this.#given = this.#initial();
      return { kind: 'named', name, place: placeOf(token) };
    }
    if (this.is('(')) return this.#subrangeOr(name);
    return parseDataType(name).ok ? { kind: 'elementary', text: name.toUpperCase() } : { kind: 'named', name, place: placeOf(token) };
  }

  /** `INT (0..100)` or, in the third edition, `INT (Off := 0, On)`. */
  #subrangeOr(base: string): TypeRef {
    const isList = this.tokens[this.at + 2]?.text === ':=' || this.tokens[this.at + 2]?.text === ',' || this.tokens[this.at + 2]?.text === ')';
    if (isList) return this.#enumeration(base.toUpperCase());
    const at = this.now;
    this.need('(');
    const low = this.bound();
    this.need('..');
    const high = this.bound();
    this.need(')');
    if (high < low) throw new Mistake({ code: 'bounds', message: `The bounds ${low}..${high} end before they begin.`, place: placeOf(at) });
    return { kind: 'subrange', base: base.toUpperCase(), low, high };
  }

  #enumeration(base: string | null): TypeRef {
    this.need('(');
    const values: { name: string; value: number }[] = [];
    let next = 0;
    do {
      const name = this.name('the name of a value').text;
      const value = this.take(':=') ? this.bound() : next;
      values.push({ name, value });
      next = value + 1;
    } while (this.take(','));
    this.need(')');
    // `(Off, On) USINT`: the width behind the values is met as often.
    const behind = base === null && this.now.kind === 'word' && parseDataType(this.now.text).ok ? this.next().text.toUpperCase() : base;
    return { kind: 'enumeration', base: behind, values };
  }

  #structure(): TypeRef {
    this.take('OVERLAP');
    const members: Member[] = [];
    while (!this.is('END_STRUCT')) {
      const start = this.at;
      const first = this.name('the name of a member');
      const names = [first];
      while (this.take(',')) names.push(this.name('the name of a member'));
      let atBit: number | null = null;
      if (this.take('AT')) {
        const location = this.next();
        atBit = relativeBit(location.text);
        if (atBit === null)
          throw new Mistake({
            code: 'address-form',
            message: `“${location.text.slice(0, 40)}” is no place in a structure.`,
            remedy: 'Places in structures are written as %B4 or %X4.1, counted in bytes from its beginning.',
            place: placeOf(location),
          });
      }
      this.need(':');
      const type = this.#spec();
      const initial = this.#initialIfAny();
      this.need(';');
      const { comment, isForPanel } = this.#remarks(first, start);
      for (const { text } of names) members.push({ name: text, type, initial, comment, isForPanel, atBit: names.length === 1 ? atBit : null });
    }
    this.need('END_STRUCT');
    return { kind: 'structure', members };
  }

  /** Values that a structure's type was given right behind its name. */
  #given: Initial | null = null;

  #initialIfAny(): Initial | null {
    const given = this.#given;
    this.#given = null;
    return this.take(':=') ? this.#initial() : given;
  }

  #initial(): Initial {
    if (++this.#nesting > MAX_NESTING) throw new Mistake({ code: 'too-deep', message: 'Values are nested too deep here.', place: placeOf(this.now) });
    try {
      if (this.take('[')) {
        const items: { times: number; value: Initial | null }[] = [];
        do {
          if (this.now.kind === 'number' && this.tokens[this.at + 1]?.text === '(') {
            const times = this.bound();
            this.need('(');
            items.push({ times, value: this.is(')') ? null : this.#initial() });
            this.need(')');
          } else items.push({ times: 1, value: this.#initial() });
        } while (this.take(','));
        this.need(']');
        return { kind: 'list', items };
      }
      if (this.is('(') && this.tokens[this.at + 2]?.text === ':=') {
        this.need('(');
        const fields = new Map<string, Initial>();
        do {
          const name = this.name('the name of a member').text.toLowerCase();
          this.need(':=');
          fields.set(name, this.#initial());
        } while (this.take(','));
        this.need(')');
        return { kind: 'fields', fields };
      }
      let text = '';
      let depth = 0;
      while (this.now.kind !== 'end' && !(depth === 0 && VALUE_ENDS.has(this.now.text))) {
        if (this.is('(')) depth++;
        if (this.is(')')) depth--;
        const token = this.next();
        if (text.length > LONGEST_VALUE) continue;
        const isClose = /^[\p{L}\p{N}_]/u.test(token.text) && /[\p{L}\p{N}_]$/u.test(text.slice(-2));
        text += `${isClose ? ' ' : ''}${token.text}`;
      }
      if (text === '') throw new Mistake(expected('a value', this.now));
      return { kind: 'value', text: text.slice(0, LONGEST_VALUE) };
    } finally {
      this.#nesting--;
    }
  }

  #remarks(first: Token, start: number): Said {
    return remarksOf(first, this.tokens[this.at - 1] as Token, this.now, this.tokens[start - 1]?.line ?? 0, this.#panelMark);
  }

  #orRecover(work: () => void): void {
    try {
      work();
    } catch (error) {
      if (!(error instanceof Mistake)) throw error;
      this.#problems.push(error.problem);
      if (this.#problems.length >= MAX_PROBLEMS) this.at = this.tokens.length - 1;
      else this.#recover();
    }
  }

  /** Behind the next semicolon, or before the word that ends a block. */
  #recover(): void {
    let isInside = false;
    while (this.now.kind !== 'end') {
      const word = this.word;
      if (word === 'STRUCT') isInside = true;
      if (word === 'END_VAR' || word === 'END_TYPE' || word === 'VAR_GLOBAL' || word === 'TYPE') return;
      const { text } = this.next();
      if (word === 'END_STRUCT') {
        this.take(';');
        return;
      }
      if (text === ';' && !isInside) return;
    }
  }
}

/** Bits from the beginning of a structure: `%B4`, `%X4.1` (third edition, table 11, relative addresses). */
function relativeBit(text: string): number | null {
  const match = /^%(?:B(\d{1,6})|X(\d{1,6})\.([0-7]))$/i.exec(text);
  if (!match) return null;
  return match[1] !== undefined ? Number(match[1]) * 8 : Number(match[2]) * 8 + Number(match[3]);
}
