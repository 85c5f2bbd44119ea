/**
 * Runs a program that fills a block of memory with known values: structures, one located variable, and assignments of
 * literals, in structured text. Nothing else of the language; anything else is refused.
 */
export interface Field {
  readonly name: string;
  /** `WORD`, `STRING[10]`, `ARRAY [0..15] OF BOOL`, or the name of a structure. */
  readonly type: string;
}
export interface Program {
  readonly types: ReadonlyMap<string, readonly Field[]>;
  readonly variable: { readonly name: string; readonly type: string; readonly word: number };
  /** `Inner.First`, `Flags[1]`, `Bits.%X3`, each with its literal. */
  readonly assignments: readonly (readonly [path: string, literal: string])[];
}

/** Throws with what it does not know. */
export function parseProgram(text: string): Program {
  const plain = text.replace(/\(\*[\s\S]*?\*\)/g, ' ');
  const types = new Map<string, readonly Field[]>();
  for (const [, name = '', body = ''] of plain.matchAll(/(\w+)\s*:\s*STRUCT\b([\s\S]*?)END_STRUCT\s*;/g))
    types.set(
      name,
      [...body.matchAll(/(\w+)\s*:\s*([^;]+);/g)].map(([, field = '', type = '']) => ({ name: field, type: type.trim() })),
    );
  const located = /(\w+)\s+AT\s+%MW(\d+)\s*:\s*(\w+)\s*;/.exec(plain);
  if (!located) throw new Error('The program has no variable AT %MW.');
  const [, name = '', word = '0', type = ''] = located;
  const body = plain.slice(plain.indexOf('END_VAR') + 'END_VAR'.length).replace(/END_PROGRAM[\s\S]*/, '');
  const assignments = body
    .split(';')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line): readonly [string, string] => {
      const match = /^(\w+)\.([\w.[\]%]+)\s*:=\s*(.+)$/.exec(line);
      if (match?.[1] !== name) throw new Error(`The program says “${line.slice(0, 60)}”.`);
      return [match[2] ?? '', match[3] ?? ''];
    });
  return { types, variable: { name, type, word: Number(word) }, assignments };
}
