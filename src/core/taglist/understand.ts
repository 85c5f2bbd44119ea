/** From rows of a list to tags of a device, each row understood or the reason why not. */
import { inSlices } from '../inSlices.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { parseOrder } from '../value/byteOrder.ts';
import { formatDataType, parseDataType, type DataType } from '../value/dataType.ts';
import { columnPlace, type ColumnKey } from './columns.ts';
import type { ListRow, ReadList } from './readList.ts';

/** What a row says about its tag. */
export interface ListTag {
  readonly row: number;
  readonly name: string;
  readonly group: string;
  readonly address: string;
  /** The address in the device's canonical form. */
  readonly canonical: string;
  readonly type: string;
  readonly order: string;
  readonly periodMs: number;
  readonly access: 'read' | 'readWrite';
  readonly unit: string;
  readonly decimals: number | null;
  readonly rangeLow: number | null;
  readonly rangeHigh: number | null;
  readonly comment: string;
}

export interface UnderstoodRow {
  readonly row: number;
  readonly cells: ListRow['cells'];
  readonly tag: ListTag | null;
  readonly problems: readonly Problem[];
}

export interface ListPreview {
  /** What is wrong with the list as a whole. */
  readonly problems: readonly Problem[];
  /** Headings that are not understood and left out. */
  readonly unknownColumns: readonly string[];
  readonly understoodColumns: readonly string[];
  readonly rows: readonly UnderstoodRow[];
  readonly good: number;
  readonly bad: number;
}

/** What the device's side knows: its notation and the names that are taken. */
export interface ListContext {
  /** Canonical form of an address that fits the type, or why not. */
  readonly parseAddress: (text: string, type: DataType) => Result<{ readonly canonical: string; readonly writable: boolean }>;
  readonly isNameTaken: (name: string) => boolean;
}

const DEFAULT_PERIOD_MS = 1000;

/** Every row gets its answer; a problem's place is `row 7, column 3 (type)`. */
export function understandRows(list: ReadList, context: ListContext): readonly UnderstoodRow[] {
  const understand = understander(list, context);
  return list.rows.map(understand);
}

/** The same, a slice at a time, for lists of thousands of rows. */
export function understandInSlices(list: ReadList, context: ListContext): Promise<readonly UnderstoodRow[]> {
  const understand = understander(list, context);
  return inSlices(
    (function* () {
      const rows: UnderstoodRow[] = [];
      for (const row of list.rows) {
        rows.push(understand(row));
        yield;
      }
      return rows;
    })(),
  );
}

function understander(list: ReadList, context: ListContext): (row: ListRow) => UnderstoodRow {
  const firstOf = new Map<string, number>();
  return (row) => {
    const problems: Problem[] = [];
    const at = (key: ColumnKey): string => `row ${row.row}, ${columnPlace(list.columns, key)}`;
    const cell = (key: ColumnKey): string => row.cells[key] ?? '';
    /** Keeps a problem with its place and goes on, so that a row tells all that is wrong with it at once. */
    const need = <T>(key: ColumnKey, result: Result<T>): T | null => {
      if (result.ok) return result.value;
      problems.push({ ...result.problem, place: at(key) });
      return null;
    };
    if (row.surplus > 0)
      problems.push({
        code: 'surplus-cells',
        message: `The row has ${row.surplus} more ${row.surplus === 1 ? 'cell' : 'cells'} than there are headings.`,
        remedy: 'Quote cells that hold the separator.',
        place: `row ${row.row}, column ${list.columns.header.length + 1}`,
      });
    const name = need('name', checkName(cell('name')));
    if (name !== null) {
      const earlier = firstOf.get(name.toLowerCase());
      if (earlier !== undefined)
        problems.push({
          code: 'duplicate-name',
          message: `“${name}” stands in row ${earlier} already.`,
          remedy: 'Give every tag its own name.',
          place: at('name'),
        });
      else firstOf.set(name.toLowerCase(), row.row);
      if (context.isNameTaken(name))
        problems.push({
          code: 'name-taken',
          message: `The project has a tag “${name}” already.`,
          remedy: 'Rename it in the list, or remove the tag in Map first.',
          place: at('name'),
        });
    }
    const type = need('type', parseDataType(cell('type')));
    const order = type && cell('order') ? need('order', parseOrder(cell('order'), type)) : '';
    if (!type && cell('address') === '') need('address', fail('address-form', 'The address is missing.'));
    const address = type ? need('address', context.parseAddress(cell('address'), type)) : null;
    const decimals = need('decimals', wholeCell(cell('decimals'), 0, 12));
    const low = need('low', numberCell(cell('low')));
    const high = need('high', numberCell(cell('high')));
    if (typeof low === 'number' && typeof high === 'number' && low >= high)
      problems.push({ code: 'range', message: `The range ends (${high}) before it begins (${low}).`, place: at('high') });
    if ((low === EMPTY) !== (high === EMPTY))
      problems.push({ code: 'range', message: 'A range needs both ends, or neither.', place: at(low === EMPTY ? 'low' : 'high') });
    const period = need('period', wholeCell(cell('period'), 100, 3_600_000));
    const access = need('access', accessCell(cell('access')));
    if (address && access === 'readWrite' && !address.writable)
      problems.push({ code: 'read-only', message: `${cell('address')} can only be read.`, remedy: 'Set the access to read.', place: at('access') });
    for (const [key, max] of [
      ['group', 80],
      ['unit', 20],
      ['comment', 400],
    ] as const)
      if (cell(key).length > max) problems.push({ code: 'too-long', message: `The ${key} has more than ${max} characters.`, place: at(key) });
    if (problems.length > 0 || name === null || type === null || address === null) return { row: row.row, cells: row.cells, tag: null, problems };
    return {
      row: row.row,
      cells: row.cells,
      problems,
      tag: {
        row: row.row,
        name,
        group: cell('group'),
        address: cell('address'),
        canonical: address.canonical,
        type: formatDataType(type),
        order: order ?? '',
        periodMs: typeof period === 'number' ? period : DEFAULT_PERIOD_MS,
        access: access ?? 'read',
        unit: cell('unit'),
        decimals: typeof decimals === 'number' ? decimals : null,
        rangeLow: typeof low === 'number' ? low : null,
        rangeHigh: typeof high === 'number' ? high : null,
        comment: cell('comment'),
      },
    };
  };
}

/** Stands for a cell with nothing in it, which is not the number 0. */
const EMPTY = 'empty';

function checkName(text: string): Result<string> {
  if (text === '') return fail('name-missing', 'The name is missing.');
  if (text.length > 80) return fail('too-long', 'The name has more than 80 characters.', 'Shorten it.');
  // eslint-disable-next-line no-control-regex -- control characters are exactly what names may not hold
  if (/[\u0000-\u001f\u007f]/.test(text)) return fail('name-characters', 'The name holds a control character, such as a line break.', 'Remove it.');
  return ok(text);
}

function numberCell(text: string): Result<number | typeof EMPTY> {
  if (text === '') return ok(EMPTY);
  if (!/^[+-]?\d+(\.\d+)?([eE][+-]?\d+)?$/.test(text) || !Number.isFinite(Number(text)))
    return fail('number', `“${text.slice(0, 30)}” is not a number.`, 'Write it with a decimal point, without grouping.');
  return ok(Number(text));
}

function wholeCell(text: string, min: number, max: number): Result<number | typeof EMPTY> {
  if (text === '') return ok(EMPTY);
  const value = Number(text);
  return /^\d+$/.test(text) && value >= min && value <= max
    ? ok(value)
    : fail('number', `“${text.slice(0, 30)}” is not a whole number from ${min} to ${max}.`);
}

function accessCell(text: string): Result<'read' | 'readWrite'> {
  const plain = text.toLowerCase().replace(/[\s/_-]/g, '');
  if (['', 'r', 'ro', 'read', 'readonly'].includes(plain)) return ok('read');
  if (['rw', 'w', 'readwrite', 'write'].includes(plain)) return ok('readWrite');
  return fail('access', `“${text.slice(0, 30)}” is neither read nor read/write.`, 'Write R or RW.');
}
