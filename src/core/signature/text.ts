/** The program that fills the block, as structured text of IEC 61131-3, third edition. */
import { FENCES, FLAGS, FLAGS_ON, INNER, LONG, LONG_REAL, MARKS, MOST_WORDS, REAL, SET_BIT, TEXT, TEXT_ROOM, WHOLE } from './pattern.ts';

const hex = (value: number | bigint, digits: number): string => value.toString(16).toUpperCase().padStart(digits, '0');
const word = (value: number): string => `WORD#16#${hex(value, 4)}`;

/** Members of the block in their order, with their type and what fills them. */
const MEMBERS: readonly (readonly [name: string, type: string, fills: readonly (readonly [suffix: string, value: string])[]])[] = [
  ...MARKS.map((mark, i) => [`Mark${i + 1}`, 'WORD', [['', word(mark)]]] as const),
  ['Whole', 'DWORD', [['', `DWORD#16#${hex(WHOLE, 8)}`]]],
  ['Decimal', 'REAL', [['', `REAL#${REAL.literal}`]]],
  fence(0),
  [
    'Bits',
    'WORD',
    [
      ['', word(0)],
      [`.%X${SET_BIT}`, 'TRUE'],
    ],
  ],
  fence(1),
  ['Flags', `ARRAY [0..${FLAGS - 1}] OF BOOL`, FLAGS_ON.map((at) => [`[${at}]`, 'TRUE'] as const)],
  fence(2),
  ['Text', `STRING[${TEXT_ROOM}]`, [['', `'${TEXT}'`]]],
  fence(3),
  [
    'Inner',
    'MillLatchInner',
    INNER.map(({ name, type, value }) => [`.${name}`, `${type}#16#${hex(value, type.length > 4 ? 8 : type === 'BYTE' ? 2 : 4)}`] as const),
  ],
  fence(4),
  ['Long', 'LWORD', [['', `LWORD#16#${hex(LONG, 16)}`]]],
  ['LongDecimal', 'LREAL', [['', `LREAL#${LONG_REAL.literal}`]]],
  fence(5),
];

function fence(at: number): readonly [string, string, readonly (readonly [string, string])[]] {
  return [`Fence${at + 1}`, 'WORD', [['', word(FENCES[at] ?? 0)]]];
}

/** @param place where the block begins, as the controller's program writes it: `%MW100` */
export function signatureText(place: string): string {
  const inner = INNER.map(({ name, type }) => `    ${name} : ${type};`);
  const members = MEMBERS.map(([name, type]) => `    ${name} : ${type};`);
  const fills = MEMBERS.flatMap(([name, , values]) => values.map(([suffix, value]) => `  Block.${name}${suffix} := ${value};`));
  return [
    `(* Known values, by which Mill Latch learns how this controller lays out memory.`,
    `   ${place} and the ${MOST_WORDS} words from there on must be free. It only writes to them.`,
    `   Where the controller has no LWORD and LREAL, leave out Long and LongDecimal.`,
    `   Remove it when it was read. *)`,
    'TYPE',
    '  MillLatchInner : STRUCT',
    ...inner,
    '  END_STRUCT;',
    '  MillLatchBlock : STRUCT',
    ...members,
    '  END_STRUCT;',
    'END_TYPE',
    '',
    'PROGRAM MillLatchSignature',
    'VAR',
    `  Block AT ${place} : MillLatchBlock;`,
    'END_VAR',
    ...fills,
    'END_PROGRAM',
    '',
  ].join('\n');
}
