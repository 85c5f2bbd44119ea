/** Which column of a list holds what: by its heading in several languages, or by what stands below it. */
import { parseAddress } from '../modbus/address.ts';
import { parseDataType } from '../value/dataType.ts';
import { plainNumber } from './addressRule.ts';
import { readTypeWord } from './typeWords.ts';

export const COLUMN_KEYS = [
  'name',
  'address',
  'type',
  'length',
  'order',
  'access',
  'unit',
  'decimals',
  'rawLow',
  'rawHigh',
  'low',
  'high',
  'factor',
  'divisor',
  'offset',
  'period',
  'group',
  'comment',
  'panel',
  'initial',
  'enumeration',
] as const;
export type ColumnKey = (typeof COLUMN_KEYS)[number];

/** How each is called in messages and to choose from. */
export const COLUMN_WORDS: Readonly<Record<ColumnKey, string>> = {
  name: 'name',
  address: 'address',
  type: 'data type',
  length: 'length of a text',
  order: 'byte order',
  access: 'access',
  unit: 'unit',
  decimals: 'decimals',
  rawLow: 'lowest raw value',
  rawHigh: 'highest raw value',
  low: 'lowest value',
  high: 'highest value',
  factor: 'factor',
  divisor: 'divisor',
  offset: 'offset',
  period: 'scan period in ms',
  group: 'group',
  comment: 'comment',
  panel: 'marked for panels',
  initial: 'initial value',
  enumeration: 'names of values',
};

/** English, German, French, Spanish, Italian, Portuguese, Dutch, Polish, Japanese, Chinese; from memory. */
const HEADINGS: Readonly<Record<ColumnKey, readonly string[]>> = {
  name: words(
    'name, tag, bezeichnung, benennung, point, point name, item, tag name, tagname, symbol, symbol name, variable, variable name, signal, bezeichner, variablenname, symbolname, nom, nom variable, mnémonique, nombre, etiqueta, nome, nome variabile, etichetta, naam, nazwa, zmienna, 名前, 変数名, タグ名, 名称, 变量名, 标签名',
  ),
  address: words(
    'address, addr, register, register address, reference, adresse, operand, registeradresse, registre, dirección, direccion, registro, indirizzo, endereço, endereco, adres, rejestr, アドレス, レジスタ, 地址, 寄存器, 寄存器地址',
  ),
  type: words(
    'type, data type, datatype, datentyp, typ, type de données, tipo, tipo de dato, tipo dato, tipo de dados, tipo dati, gegevenstype, typ danych, 型, データ型, 数据类型, 类型',
  ),
  length: words('length, len, string length, size, länge, laenge, longueur, longitud, lunghezza, comprimento, lengte, długość, 長さ, 长度'),
  order: words('order, byte order, word order, reihenfolge, bytereihenfolge, ordre, orden, ordine'),
  access: words('access, rights, read/write, r/w, zugriff, accès, acces, acceso, accesso, acesso, toegang, dostęp, アクセス, 访问, 权限'),
  unit: words('unit, units, engineering unit, eu, einheit, unité, unite, unidad, unità, unita, unidade, eenheid, jednostka, 単位, 单位'),
  decimals: words('decimals, places, decimal places, nachkommastellen, décimales, decimales, decimali, decimais, 小数点以下桁数, 小数位'),
  rawLow: words(
    'raw low, raw min, low raw, min raw, raw minimum, raw from, raw lo, counts low, counts min, adc min, scale raw min, rohwert min, rohwert von, roh min, roh von, brut min, bruto min, grezzo min, crudo min',
  ),
  rawHigh: words(
    'raw high, raw max, high raw, max raw, raw maximum, raw to, raw hi, counts high, counts max, adc max, scale raw max, rohwert max, rohwert bis, roh max, roh bis, brut max, bruto max, grezzo max, crudo max',
  ),
  low: words(
    'low, min, minimum, range low, range min, range from, from, eng low, eng min, eu low, eu min, eu lo, engineering low, engineering min, scale low, scale min, low limit, lower limit, von, untergrenze, desde, minimalwert, mínimo, minimo, 最小値, 下限, 最小值',
  ),
  high: words(
    'high, max, maximum, range high, range max, range to, to, eng high, eng max, eu high, eu max, eu hi, engineering high, engineering max, scale high, scale max, high limit, upper limit, bis, obergrenze, à, hasta, maximalwert, máximo, maximo, massimo, 最大値, 上限, 最大值',
  ),
  factor: words(
    'factor, scale factor, scaling factor, gain, multiplier, multiply, multiply by, slope, resolution, scale, scaling, faktor, skalierung, skalierfaktor, multiplikator, steigung, facteur, pente, coefficient, factor de escala, fattore, fator, współczynnik, 係数, 系数',
  ),
  divisor: words('divisor, divide by, divider, div, teiler, diviseur, divisore, dzielnik, 除数'),
  offset: words(
    'offset, bias, intercept, zero offset, versatz, verschiebung, nullpunkt, décalage, desplazamiento, scostamento, przesunięcie, オフセット, 偏移',
  ),
  period: words('period, scan period, scan rate, period ms, every, cycle, zyklus, période, periode, periodo, 周期'),
  group: words('group, area, folder, path, gruppe, bereich, ordner, groupe, grupo, gruppo, groep, grupa, グループ, 组, 分组'),
  comment: words(
    'comment, description, remark, kommentar, beschreibung, bemerkung, commentaire, description fr, comentario, descripción, descripcion, commento, descrizione, comentário, descrição, opmerking, omschrijving, komentarz, opis, コメント, 説明, 备注, 注释, 描述',
  ),
  initial: words(
    'initial, initial value, init, start value, default, default value, anfangswert, startwert, initialwert, valeur initiale, valor inicial, valore iniziale, beginwaarde, wartość początkowa, 初期値, 初始值',
  ),
  enumeration: words(
    'enumeration, enum, values, value names, states, texts, state texts, aufzählung, werte, zustände, zustandstexte, énumération, enumeración, estados, enumerazione, stati, enumeração, toestanden, stany, 列挙, 枚举',
  ),
  // Which column marks tags for panels is named by the engineer: no spelling of it is presumed.
  panel: [],
};
const KEY_OF = new Map(COLUMN_KEYS.flatMap((key) => HEADINGS[key].map((word) => [word, key] as const)));

/** These name the tag where no other column does; beside one that does they describe it. */
const NAMES_OR_DESCRIBES: ReadonlySet<string> = new Set(['bezeichnung', 'benennung']);

function words(list: string): readonly string[] {
  return list.split(', ');
}

export interface ColumnGuess {
  /** Null for one that is excluded. */
  readonly key: ColumnKey | null;
  /** 0 to 1. */
  readonly confidence: number;
  readonly why: 'heading' | 'contents' | 'chosen' | 'unknown';
}

export interface Columns {
  readonly byKey: ReadonlyMap<ColumnKey, number>;
  /** Headings that are not understood; their cells are excluded, and the preview says so. */
  readonly unknown: readonly string[];
  readonly header: readonly string[];
  /** Index of the row with the headings, -1 for none. */
  readonly headerAt: number;
  readonly guesses: readonly ColumnGuess[];
}

export interface FoundColumns extends Columns {
  readonly missing: readonly ColumnKey[];
  /** Columns whose meaning another column has already. */
  readonly twice: readonly (readonly [ColumnKey, number])[];
}

/** What the engineer has said of the columns; what is not given is found. */
export interface ColumnChoices {
  readonly headerAt?: number | undefined;
  /** For each column what it is; '' to exclude it. */
  readonly columns?: readonly (ColumnKey | '')[] | undefined;
  /** The headings when the columns were chosen: a version with its columns in another order is read by these. */
  readonly headings?: readonly string[] | undefined;
}

/** What was chosen for a column: by its place, or by its heading where the headings are others now. */
function chosenFor({ columns, headings }: ColumnChoices, header: readonly string[], at: number): ColumnKey | '' | undefined {
  if (!columns) return undefined;
  if (!headings || header.length === 0 || headings.every((heading, i) => heading === headingText(header[i]))) return columns[at];
  const heading = headingText(header[at]);
  const was = heading === '' ? -1 : headings.indexOf(heading);
  return was < 0 ? undefined : columns[was];
}

/** Rows among which the headings are looked for, and rows whose contents are looked at. */
const HEADER_ROWS = 20;
const LOOKED_AT = 200;
const HEADING_CHARACTERS = 200;

/** Matches headings without regard to case, spaces, underscores or a note in brackets: `Range low [°C]`. */
export function headingKey(heading: string): ColumnKey | null {
  return KEY_OF.get(plainHeading(heading)) ?? null;
}

/** What a heading says, and is known by again; more of it says no more. */
export function headingText(cell: string | undefined): string {
  return cell?.trim().slice(0, HEADING_CHARACTERS) ?? '';
}

function plainHeading(heading: string): string {
  return headingText(heading)
    .normalize('NFC')
    .toLowerCase()
    .replace(/[([].*$/, '')
    .replace(/[_\s-]+/g, ' ')
    .trim();
}

/** What each heading says, beside the others. */
function keysOf(header: readonly string[]): readonly (ColumnKey | null)[] {
  const keys = header.map(headingKey);
  const isEither = (at: number): boolean => keys[at] === 'name' && NAMES_OR_DESCRIBES.has(plainHeading(header[at] ?? ''));
  const isNamed = keys.some((key, at) => key === 'name' && !isEither(at));
  return isNamed && !keys.includes('comment') ? keys.map((key, at) => (isEither(at) ? 'comment' : key)) : keys;
}

/** @param rows the list's rows as cells, from its first one on */
export function findColumns(rows: readonly (readonly string[])[], choices: ColumnChoices = {}): FoundColumns {
  const headerAt = choices.headerAt ?? findHeader(rows);
  const header = headerAt < 0 ? [] : (rows[headerAt] ?? []);
  const body = rows.slice(headerAt + 1, headerAt + 1 + LOOKED_AT);
  const width = Math.max(header.length, ...body.map((cells) => cells.length), 0);
  const said = keysOf(header);
  const guesses: ColumnGuess[] = [];
  const taken = new Set<ColumnKey>();
  const twice: [ColumnKey, number][] = [];
  const cellsOf = (at: number): readonly string[] => body.flatMap((cells) => (cells[at]?.trim() ? [cells[at].trim()] : []));
  for (let at = 0; at < width; at++) {
    const chosen = chosenFor(choices, header, at);
    const key = chosen === undefined ? (said[at] ?? null) : chosen === '' ? null : chosen;
    const why = chosen !== undefined ? 'chosen' : key ? 'heading' : 'unknown';
    if (key && taken.has(key)) twice.push([key, at]);
    else if (key) taken.add(key);
    guesses.push({ key, why, confidence: why === 'chosen' ? 1 : key ? agreement(key, cellsOf(at)) : 0 });
  }
  // What no heading says, the contents may.
  if (!choices.columns || choices.headings)
    for (const key of ['address', 'type', 'name'] as const) {
      if (taken.has(key)) continue;
      let best: { readonly at: number; readonly fit: number } | null = null;
      for (const [at, guess] of guesses.entries()) {
        const cells = guess.key === null ? cellsOf(at) : [];
        const fit =
          cells.length === 0 ? 0 : (cells.filter((cell) => looksLike(key, cell)).length / cells.length) * (key === 'name' ? distinct(cells) : 1);
        if (fit > 0.6 && fit > (best?.fit ?? 0)) best = { at, fit };
      }
      if (!best) continue;
      taken.add(key);
      guesses[best.at] = { key, why: 'contents', confidence: Math.min(0.9, best.fit * 0.9) };
    }
  const byKey = new Map<ColumnKey, number>();
  for (const [at, { key }] of guesses.entries()) if (key && !byKey.has(key)) byKey.set(key, at);
  return {
    byKey,
    unknown: guesses.flatMap(({ key, why }, at) => (key === null && why !== 'chosen' && header[at]?.trim() ? [header[at].trim()] : [])),
    header,
    headerAt,
    guesses,
    missing: (['name', 'address'] as const).filter((key) => !byKey.has(key)),
    twice,
  };
}

/** For messages: `column 3 (type)`. */
export function columnPlace(columns: Pick<Columns, 'byKey' | 'header'>, key: ColumnKey): string {
  const at = columns.byKey.get(key);
  return at === undefined ? `column “${key}”` : `column ${at + 1} (${columns.header[at]?.trim() || key})`;
}

/** The row that has the most headings; a row with only one is none, unless nothing else could be one. */
function findHeader(rows: readonly (readonly string[])[]): number {
  let best = -1;
  let most = 1;
  for (const [at, cells] of rows.slice(0, HEADER_ROWS).entries()) {
    const keys = new Set(cells.map(headingKey).filter((key) => key !== null)).size;
    if (keys > most) [best, most] = [at, keys];
  }
  if (best >= 0) return best;
  // No row of headings: a first row that reads like any other is a tag, not a heading.
  const [first = [], ...others] = rows.slice(0, HEADER_ROWS);
  if (first.some((cell) => looksLike('address', cell.trim()))) return -1;
  return others.length > 0 && readsLike(first, others) ? -1 : 0;
}

/** Whether a row has numbers and types where the others have them: headings are words. */
function readsLike(first: readonly string[], others: readonly (readonly string[])[]): boolean {
  let alike = 0;
  for (const [at, cell] of first.entries()) {
    const kind = kindOf(cell);
    const same = others.filter((cells) => kindOf(cells[at] ?? '') === kind).length;
    if (kind !== 'number' && kind !== 'type') continue;
    if (same <= others.length / 2) return false;
    alike++;
  }
  return alike > 0;
}

function kindOf(cell: string): 'number' | 'type' | 'empty' | 'words' {
  const plain = cell.trim();
  if (plain === '') return 'empty';
  if (/^[+-]?(\d+([.,]\d+)*|0x[0-9a-f]+)$/i.test(plain)) return 'number';
  return looksLike('type', plain) ? 'type' : 'words';
}

function looksLike(key: 'address' | 'type' | 'name', cell: string): boolean {
  switch (key) {
    case 'address':
      return /^%[IQM][XBWDL]?\d/i.test(cell) || (!/^\d{1,4}$/.test(cell) && parseAddress(cell, 1).ok);
    case 'type':
      return readTypeWord(cell).ok || /^STRING$/i.test(cell);
    case 'name':
      return /^[\p{L}_][\p{L}\p{N}_.[\]-]*$/u.test(cell) && !parseDataType(cell).ok;
  }
}

/** How well what stands below a heading agrees with it: a heading alone is believed, less so against its contents. */
function agreement(key: ColumnKey, cells: readonly string[]): number {
  if (cells.length === 0 || (key !== 'address' && key !== 'type')) return 0.95;
  const fits = (cell: string): boolean => looksLike(key, cell) || (key === 'address' && plainNumber(cell) !== null);
  return 0.5 + cells.filter(fits).length / cells.length / 2;
}

function distinct(cells: readonly string[]): number {
  return new Set(cells).size / cells.length;
}
