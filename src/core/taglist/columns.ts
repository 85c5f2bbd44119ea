/** Which column of a list holds what, by its heading. */
export type ColumnKey = 'name' | 'address' | 'type' | 'order' | 'comment' | 'group' | 'unit' | 'decimals' | 'low' | 'high' | 'access' | 'period';

const HEADINGS: Readonly<Record<ColumnKey, readonly string[]>> = {
  name: ['name', 'tag', 'tag name', 'symbol', 'variable'],
  address: ['address', 'addr', 'register', 'reference'],
  type: ['type', 'data type', 'datatype'],
  order: ['order', 'byte order', 'word order'],
  comment: ['comment', 'description', 'remark'],
  group: ['group', 'area', 'folder'],
  unit: ['unit', 'units', 'engineering unit'],
  decimals: ['decimals', 'places'],
  low: ['low', 'min', 'minimum', 'range low'],
  high: ['high', 'max', 'maximum', 'range high'],
  access: ['access', 'rights', 'read/write'],
  period: ['period', 'period ms', 'every'],
};

const REQUIRED: readonly (readonly [ColumnKey, string])[] = [
  ['name', 'names'],
  ['address', 'addresses'],
  ['type', 'data types'],
];

export interface Columns {
  readonly byKey: ReadonlyMap<ColumnKey, number>;
  /** Headings that are not understood; their cells are left out, and the preview says so. */
  readonly unknown: readonly string[];
  readonly header: readonly string[];
}

export interface FoundColumns extends Columns {
  readonly missing: readonly (readonly [ColumnKey, string])[];
  /** Columns whose meaning another column has already. */
  readonly twice: readonly (readonly [ColumnKey, number])[];
}

/** Matches headings without regard to case, spaces, underscores or a note in brackets: `Range low [°C]`. */
export function findColumns(header: readonly string[]): FoundColumns {
  const byKey = new Map<ColumnKey, number>();
  const unknown: string[] = [];
  const twice: [ColumnKey, number][] = [];
  header.forEach((heading, at) => {
    const plain = heading
      .toLowerCase()
      .replace(/[([].*$/, '')
      .replace(/[_\s-]+/g, ' ')
      .trim();
    const key = (Object.keys(HEADINGS) as ColumnKey[]).find((k) => HEADINGS[k].includes(plain));
    if (!key) {
      if (plain !== '') unknown.push(heading.trim());
    } else if (byKey.has(key)) twice.push([key, at]);
    else byKey.set(key, at);
  });
  return { byKey, unknown, header, missing: REQUIRED.filter(([key]) => !byKey.has(key)), twice };
}

/** For messages: `column 3 (type)`. */
export function columnPlace(columns: Columns, key: ColumnKey): string {
  const at = columns.byKey.get(key);
  return at === undefined ? `column “${key}”` : `column ${at + 1} (${columns.header[at]?.trim() ?? key})`;
}
