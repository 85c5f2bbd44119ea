/**
 * Words for data types as lists have them, beside the names of IEC 61131-3. What a word means is common practice, and some
 * makers mean something else: each is told, and can be chosen otherwise.
 */
import { parseDataType, type DataType } from '../value/dataType.ts';
import { fail, type Result } from '../result.ts';

const WORDS: ReadonlyMap<string, string> = new Map(
  Object.entries({
    FLOAT: 'REAL',
    FLOAT32: 'REAL',
    SINGLE: 'REAL',
    REAL32: 'REAL',
    FLOAT64: 'LREAL',
    DOUBLE: 'LREAL',
    REAL64: 'LREAL',
    INT8: 'SINT',
    S8: 'SINT',
    UINT8: 'USINT',
    U8: 'USINT',
    INT16: 'INT',
    S16: 'INT',
    I16: 'INT',
    SHORT: 'INT',
    INTEGER: 'INT',
    UINT16: 'UINT',
    U16: 'UINT',
    USHORT: 'UINT',
    UNSIGNED: 'UINT',
    INT32: 'DINT',
    S32: 'DINT',
    I32: 'DINT',
    LONG: 'DINT',
    UINT32: 'UDINT',
    U32: 'UDINT',
    ULONG: 'UDINT',
    INT64: 'LINT',
    S64: 'LINT',
    I64: 'LINT',
    UINT64: 'ULINT',
    U64: 'ULINT',
    BOOLEAN: 'BOOL',
    BIT: 'BOOL',
    DIGITAL: 'BOOL',
    DISCRETE: 'BOOL',
    UNSIGNEDSHORT: 'UINT',
    UNSIGNEDINT: 'UDINT',
    UNSIGNEDLONG: 'UDINT',
    'WORD[2]': 'DWORD',
    'WORD[4]': 'LWORD',
    'WORD(2)': 'DWORD',
    'WORD(4)': 'LWORD',
  }),
);

/** A word as it is compared: `float 32`, `Float_32` and `FLOAT32` are one. */
export function plainTypeWord(text: string): string {
  return text.toUpperCase().replace(/[\s_-]+/g, '');
}

/**
 * The data type that a word of a list stands for.
 * @param chosen by plain word, what the engineer says that it stands for
 * @returns with `word` where it is none of the standard's own names: then it was taken for something
 */
export function readTypeWord(text: string, chosen: Readonly<Record<string, string>> = {}): Result<DataType> & { readonly word?: string } {
  const plain = plainTypeWord(text);
  const said = chosen[plain];
  if (said !== undefined) return { ...parseDataType(said), word: plain };
  const own = parseDataType(text);
  if (own.ok) return own;
  const texts = /^(?:STRING|CHAR|TEXT|ASCII|STR)[([]?(\d{1,4})[)\]]?$/.exec(plain);
  const meant = WORDS.get(plain) ?? (texts ? `STRING(${texts[1]})` : undefined);
  if (meant !== undefined) return { ...parseDataType(meant), word: plain };
  return own.problem.code === 'unknown-type' || own.problem.code === 'type-words'
    ? { ...fail('unknown-type', own.problem.message, 'Say below what this word of the list stands for.'), word: plain }
    : own;
}
