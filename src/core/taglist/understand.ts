/** From rows of a list to tags of a device, each row understood or the reason why not. */
import { CONTROL_CHARACTERS } from '../patterns.ts';
import { counted } from '../counted.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { nameKey } from '../project/nameKey.ts';
import type { Scale } from '../scaling/scale.ts';
import { parseOrder } from '../value/byteOrder.ts';
import { formatDataType, parseDataType, textAsLaidOut, type DataType, type TextLayout } from '../value/dataType.ts';
import { parseNames, type ValueNames } from '../value/valueNames.ts';
import { columnPlace, type ColumnKey } from './columns.ts';
import type { Correction } from './draft.ts';
import { listedScale } from './listedScale.ts';
import type { ListRow, ReadList } from './readList.ts';
import { readTypeWord } from './typeWords.ts';

/** What a row says about its tag. */
export interface ListTag {
  readonly row: number;
  /** Its name in the list, by which the next version finds it again. */
  readonly listName: string;
  /** The name it gets here. */
  readonly name: string;
  readonly group: string;
  readonly address: string;
  /** The address in the device's canonical form; empty while the list gives none. */
  readonly canonical: string;
  readonly type: string;
  readonly order: string;
  /** Null where the list does not say. */
  readonly periodMs: number | null;
  readonly access: 'read' | 'readWrite' | null;
  readonly unit: string;
  readonly decimals: number | null;
  readonly rangeLow: number | null;
  readonly rangeHigh: number | null;
  /** From a raw and an engineering range, null where the list does not give both. */
  readonly scale: Scale | null;
  readonly comment: string;
  /** What the program sets it to at its start, as it writes it. */
  readonly initial: string;
  readonly names: ValueNames;
  /** Types of structures that it is a member of, the outermost first. */
  readonly within: readonly string[];
  /** The name of the enumeration whose value it is; empty for none. */
  readonly enumeration: string;
  /** The controller's program marks it for panels. */
  readonly isForPanel: boolean;
}

export interface UnderstoodRow {
  readonly row: number;
  /** Its name as the list has it, where that was put right here. */
  readonly asListed?: string;
  readonly cells: ListRow['cells'];
  readonly tag: ListTag | null;
  readonly problems: readonly Problem[];
  /** What was adapted or is not known yet, in words; the tag comes in all the same. */
  readonly notes: readonly string[];
}

/** What the device's side knows. */
export interface ListContext {
  /** Canonical form of an address that fits the type, or why not. */
  readonly parseAddress: (text: string, type: DataType) => Result<{ readonly canonical: string; readonly writable: boolean }>;
  /** The address of a value that lies so many bits after another address. */
  readonly memberAddress?: (base: string, atBit: number, type: DataType) => Result<string>;
  /** Characters of a text whose length the list does not say. */
  readonly textLength?: number | undefined;
  /** How its device lays out a text of which the list says no more than its length. */
  readonly textLayout?: TextLayout | undefined;
  /** Whether a tag that is none of the list's has the name in that group of the device. */
  readonly isNameTaken: (name: string, group: string) => boolean;
  /** Put before every name. */
  readonly prefix?: string;
  /** The address as the device reads it, where the list writes it in a way of its own. */
  readonly ruledAddress?: (text: string, type: DataType) => string;
  /** What words of the list stand for, where the engineer has said so. */
  readonly typeWords?: Readonly<Record<string, string>> | undefined;
  /** Cells that were put right, by the name in the list in the form of {@link nameKey}. */
  readonly corrections?: ReadonlyMap<string, Correction['cells']> | undefined;
}

const MAX_NAME = 80;
const MOST_REMEMBERED = 1000;
const MAX_LIST_NAME = 400;

/** Every row gets its answer; a problem's place is `row 7, column 3 (type)`. */
export function understandRows(list: ReadList, context: ListContext): readonly UnderstoodRow[] {
  const understand = understander(list, context);
  return list.rows.map(understand);
}

/** Understands row after row; each knows those before it. */
export function understander(list: ReadList, context: ListContext): (row: ListRow) => UnderstoodRow {
  const corrections = context.corrections?.size ? context.corrections : null;
  const firstOf = new Map<string, number>();
  // Without columns every row says for itself what it is.
  const hasTypes = list.columns.byKey.has('type') || list.columns.byKey.size === 0;
  const typeNamed = remembering((text) => readTypeWord(text, context.typeWords));
  const numberIn = remembering((text) => numberCell(text, list.decimalComma));
  return (given) => {
    const corrected = corrections?.get(nameKey(given.cells.name ?? ''));
    const row = corrected ? { ...withoutPlace(given, corrected), cells: { ...given.cells, ...corrected } } : given;
    const listed = corrected ? { asListed: given.cells.name ?? '' } : NOT_CORRECTED;
    const problems: Problem[] = row.problems ? [...row.problems] : [];
    const notes: string[] = row.notes ? [...row.notes] : [];
    if (corrected) notes.push(`Corrected here: ${Object.keys(corrected).join(', ')}.`);
    const at = (key: ColumnKey): string => row.place ?? `row ${row.row}, ${columnPlace(list.columns, key)}`;
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
        message: `The row has ${counted(row.surplus, 'cell')} more than there are headings.`,
        remedy: 'Quote cells that hold the separator.',
        place: `row ${row.row}, column ${list.columns.header.length + 1}`,
      });
    // A declaration that could not be read at all has one thing wrong with it.
    if (problems.length > 0 && row.place !== undefined && Object.keys(row.cells).length === 0)
      return { row: row.row, cells: row.cells, tag: null, problems, notes };
    const listName = oneLine(cell('name'));
    const name = need('name', adaptName(listName !== '' && context.prefix ? context.prefix + listName : listName, notes));
    if (name !== null) {
      const key = nameKey(name);
      const earlier = firstOf.get(key);
      if (earlier !== undefined)
        problems.push({
          code: 'duplicate-name',
          message: `“${name}” stands in row ${earlier} already.`,
          remedy: 'Give every tag its own name.',
          place: at('name'),
        });
      else firstOf.set(key, row.row);
      if (context.isNameTaken(name, oneLine(cell('group'))))
        problems.push({
          code: 'name-taken',
          message: `The device has a tag “${name}”${cell('group') === '' ? '' : ' in this group'} already.`,
          remedy: 'Give the list a prefix, rename it in the list, or remove the tag in Map first.',
          place: at('name'),
        });
    }
    const typed = hasTypes ? typeNamed(withLength(cell('type'), cell('length') || String(context.textLength ?? ''))) : null;
    if (typed?.ok && typed.word !== undefined) notes.push(`“${cell('type')}” is read as ${formatDataType(typed.value)}.`);
    const named = typed ? need('type', typed) : typeOf(cell('address'), context, notes);
    // A list that says how it ends means it.
    const type = named && (/zero-ended/i.test(cell('type')) ? named : textAsLaidOut(named, context.textLayout ?? 'zero-ended'));
    if (type !== named && type) notes.push(`Its device lays texts out so: ${formatDataType(type)}.`);
    const order = type && cell('order') ? need('order', parseOrder(cell('order'), type)) : '';
    const written = type && row.inside ? memberOf(row.inside, type, context, notes) : cell('address');
    const addressText = type && written !== '' ? (context.ruledAddress?.(written, type) ?? written) : written;
    if (addressText !== written) notes.push(`The address ${written} is ${addressText} of the device.`);
    const hasAddress = addressText !== '';
    if (!hasAddress) notes.push('It has no address yet, so it cannot be read.');
    const address = type && hasAddress ? need('address', context.parseAddress(addressText, type)) : null;
    const decimals = need('decimals', wholeCell(cell('decimals'), 0, 12));
    const [first, last] = ends('low', 'high');
    const [rawLow, rawHigh] = ends('rawLow', 'rawHigh');
    const told = { rawLow, rawHigh, low: first, high: last, factor: single('factor'), divisor: single('divisor'), offset: single('offset') };
    const scale = listedScale(told, type, notes);
    if (!scale.ok) problems.push({ ...scale.problem, place: at((scale.problem.place as ColumnKey | undefined) ?? 'high') });
    // A scale may fall; what is expected lies between its ends all the same.
    const falls = first !== null && last !== null && first > last;
    if (falls && (rawLow === null || rawHigh === null))
      problems.push({ code: 'range', message: `The range ends (${last}) before it begins (${first}).`, place: at('high') });
    const [low, high] = falls ? [last, first] : [first, last];
    if (first !== null && first === last)
      problems.push({ code: 'range', message: `Both ends of the range are ${first}.`, remedy: 'Give two ends, or neither.', place: at('high') });
    const period = need('period', wholeCell(cell('period'), 100, 3_600_000));
    const access = need('access', accessCell(cell('access')));
    if (address && access === 'readWrite' && !address.writable)
      problems.push({ code: 'read-only', message: `${addressText} can only be read.`, remedy: 'Set the access to read.', place: at('access') });
    const names = cell('enumeration') === '' ? NO_NAMES : (need('enumeration', parseNames(cell('enumeration'))) ?? NO_NAMES);
    for (const [key, max] of LONGEST)
      if (cell(key).length > max) problems.push({ code: 'too-long', message: `The ${key} has more than ${max} characters.`, place: at(key) });
    if (problems.length > 0 || name === null || type === null || (hasAddress && address === null))
      return { row: row.row, ...listed, cells: row.cells, tag: null, problems, notes };
    return {
      row: row.row,
      ...listed,
      cells: row.cells,
      problems: NOTHING_WRONG,
      notes: notes.length > 0 ? notes : NO_NOTES,
      tag: {
        row: row.row,
        listName,
        name,
        group: oneLine(cell('group')),
        address: addressText,
        canonical: address?.canonical ?? '',
        type: formatDataType(type),
        order: order ?? '',
        periodMs: typeof period === 'number' ? period : null,
        access,
        unit: oneLine(cell('unit')),
        decimals: typeof decimals === 'number' ? decimals : null,
        rangeLow: low,
        rangeHigh: high,
        scale: scale.ok ? scale.value : null,
        comment: oneLine(cell('comment')),
        initial: oneLine(cell('initial')),
        names,
        within: row.within ?? NOWHERE,
        enumeration: row.enumeration ?? '',
        isForPanel: isYes(cell('panel')),
      },
    };

    function ends(lowKey: ColumnKey, highKey: ColumnKey): readonly [number | null, number | null] {
      const [from, to] = [need(lowKey, numberIn(cell(lowKey))), need(highKey, numberIn(cell(highKey)))];
      if ((from === EMPTY) !== (to === EMPTY))
        problems.push({ code: 'range', message: 'A range needs both ends, or neither.', place: at(from === EMPTY ? lowKey : highKey) });
      return [typeof from === 'number' ? from : null, typeof to === 'number' ? to : null];
    }

    function single(key: ColumnKey): number | null {
      const value = need(key, numberIn(cell(key)));
      return typeof value === 'number' ? value : null;
    }
  };
}

/** Cells that become texts of the tag, and how long these may be. */
const LONGEST = [
  ['initial', 200],
  ['group', 80],
  ['unit', 20],
  ['comment', 400],
] as const;
/** Shared: most of a hundred thousand tags have none. */
const NO_NAMES: ValueNames = [];
const NOTHING_WRONG: readonly Problem[] = [];
const NO_NOTES: readonly string[] = [];
const NOWHERE: readonly string[] = [];
const NOT_CORRECTED = {};

/** In a list few texts of a kind stand again and again. */
function remembering<T>(find: (text: string) => T): (text: string) => T {
  const found = new Map<string, T>();
  return (text) => {
    const known = found.get(text);
    if (known !== undefined) return known;
    const now = find(text);
    if (found.size < MOST_REMEMBERED) found.set(text, now);
    return now;
  };
}

/** What was wrong with the cells that were put right, and where a variable lay whose address is given now. */
function withoutPlace({ problems: _problems, inside, ...row }: ListRow, corrected: Correction['cells']): ListRow {
  return inside && corrected.address === undefined ? { ...row, inside } : row;
}

/** The address of a value inside a variable; where it has none here, it comes in without. */
function memberOf({ address, atBit }: NonNullable<ListRow['inside']>, type: DataType, { memberAddress }: ListContext, notes: string[]): string {
  const found = memberAddress?.(address, atBit, type);
  if (found && !found.ok) notes.push(found.problem.message);
  return found?.ok ? found.value : '';
}

/** A list may give the length of a text in a column of its own. */
function withLength(type: string, length: string): string {
  return /^W?STRING$/i.test(type.trim()) && /^\d{1,4}$/.test(length) ? `${type}(${length})` : type;
}

/** Without a column of types an address tells the width alone: what the bits mean is not known. */
function typeOf(address: string, context: ListContext, notes: string[]): DataType | null {
  for (const name of ['BOOL', 'WORD'] as const) {
    const type = parseDataType(name);
    if (!type.ok || (name === 'BOOL' && !context.parseAddress(address, type.value).ok)) continue;
    const wide = /^%[IQM]D/i.test(address) ? parseDataType('DWORD') : type;
    if (name === 'WORD') notes.push('The list names no type: what its bits mean is not confirmed.');
    return wide.ok ? wide.value : null;
  }
  return null;
}

function oneLine(text: string): string {
  return text.replace(CONTROL_CHARACTERS, ' ').trim();
}

function isYes(text: string): boolean {
  return /^(1|x|yes|y|true|ja|j|oui|si|sí|sì|sim|tak|on)$/i.test(text);
}

/** Stands for a cell with nothing in it, which is not the number 0. */
const EMPTY = 'empty';

/** The name as it may be here; what was changed is told. */
function adaptName(text: string, notes: string[]): Result<string> {
  if (text === '') return fail('name-missing', 'The name is missing.');
  if (text.length > MAX_LIST_NAME) return fail('too-long', `The name has more than ${MAX_LIST_NAME} characters.`, 'Shorten it.');
  const visible = text.normalize('NFC').replace(/[\u00ad\u200b\u2060\ufeff]/g, '');
  if (visible !== text) notes.push('Invisible characters in the name were removed, and its letters composed.');
  const plain = oneLine(visible);
  if (plain === '') return fail('name-characters', 'The name holds nothing but control characters.', 'Give it a name.');
  if (plain !== visible) notes.push(`Control characters in the name became spaces: “${plain.slice(0, MAX_NAME)}”.`);
  if (plain.length <= MAX_NAME) return ok(plain);
  // The end of a long path tells most of where it leads.
  const short = `…${plain.slice(1 - MAX_NAME).trimStart()}`;
  notes.push(`The name has more than ${MAX_NAME} characters; its end is kept: “${short}”.`);
  return ok(short);
}

/** Grouping is believed where it is whole: 1.200,5 and not 1.20,5; a group sign alone, as in 1,200, may be either and is not. */
const GROUPED_COMMA = /^[+-]?\d{1,3}(\.\d{3})+(,\d+)?$/;
const GROUPED_POINT = /^[+-]?\d{1,3}(,\d{3})+\.\d+$/;

function numberCell(text: string, decimalComma: boolean): Result<number | typeof EMPTY> {
  if (text === '') return ok(EMPTY);
  const [point, group] = decimalComma ? [',', '.'] : ['.', ','];
  const plain = ((decimalComma ? GROUPED_COMMA : GROUPED_POINT).test(text) ? text.replaceAll(group, '') : text).replace(point, '.');
  if (!/^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$/.test(plain) || !Number.isFinite(Number(plain)))
    return fail(
      'number',
      `“${text.slice(0, 30)}” is not a number.`,
      `Write it with a decimal ${decimalComma ? 'comma' : 'point'}, without grouping.`,
    );
  return ok(Number(plain));
}

function wholeCell(text: string, min: number, max: number): Result<number | typeof EMPTY> {
  if (text === '') return ok(EMPTY);
  const value = Number(text);
  return /^\d+$/.test(text) && value >= min && value <= max
    ? ok(value)
    : fail('number', `“${text.slice(0, 30)}” is not a whole number from ${min} to ${max}.`);
}

/** Null where the list does not say. */
function accessCell(text: string): Result<'read' | 'readWrite' | null> {
  const plain = text.toLowerCase().replace(/[\s/_-]/g, '');
  if (plain === '') return ok(null);
  if (['r', 'ro', 'read', 'readonly'].includes(plain)) return ok('read');
  if (['rw', 'w', 'readwrite', 'write'].includes(plain)) return ok('readWrite');
  return fail('access', `“${text.slice(0, 30)}” is neither read nor read/write.`, 'Write R or RW.');
}
