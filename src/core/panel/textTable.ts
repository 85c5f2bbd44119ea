/**
 * The texts of a panel as a table for a translator: each text once, where it stands, what it is in each language, and what is
 * missing or too long. What comes back is compared with what is there.
 */
import { fail, ok, type Problem, type Result } from '../result.ts';
import type { Scene } from './scene.ts';
import { textsOf, type TextPlace } from './sceneWording.ts';
import { isTooLong } from './wordRoom.ts';
import { languageCode, languageName, translationOf, withPlainEnds } from './wording.ts';

export const TEXT_FORMATS = ['csv', 'xlsx'] as const;
export type TextFormat = (typeof TEXT_FORMATS)[number];

export interface TextRow {
  readonly source: string;
  /** In words: `Bagging: Start, Stop`. */
  readonly where: string;
  /** What it is in each language, in their order; empty where nobody has said it. */
  readonly said: readonly string[];
  readonly marks: readonly TextMark[];
}
export type TextMark = 'missing' | 'too long' | '';

const NAMED = 3;

/** Codes of the languages that a panel is translated into. */
export const otherLanguages = ({ panel }: Pick<Scene, 'panel'>): readonly string[] => panel.languages.slice(1).map(({ code }) => code);

/** @param extra texts that stand on no page, as those that a controller sends */
export function textRows(scene: Scene, codes: readonly string[], extra: Iterable<string> = []): readonly TextRow[] {
  const texts = textsOf(scene);
  const known = new Set(texts.map(({ source }) => source));
  const wordings = codes.map((code) => scene.wording(code));
  const row = (source: string, places: readonly TextPlace[], where: string): TextRow => {
    const said = wordings.map((wording) => wording.get(source) ?? '');
    return { source, where, said, marks: said.map((text) => markOf(source, text, places)) };
  };
  return [
    ...texts.map(({ source, where }) => row(source, where, whereInWords(scene, where))),
    ...[...new Set(extra)].filter((source) => !known.has(source)).map((source) => row(source, [], 'on no page')),
  ];
}

function markOf(source: string, text: string, places: readonly TextPlace[]): TextMark {
  if (text === '') return 'missing';
  return places.some(({ element }) => element !== null && isTooLong(element, source, text)) ? 'too long' : '';
}

function whereInWords({ pages }: Scene, places: readonly TextPlace[]): string {
  if (places.length === 0) return 'said by the program';
  const byPage = new Map<string, string[]>();
  for (const { pageId, element } of places) {
    const page = pages.find(({ id }) => id === pageId)?.name ?? '';
    byPage.set(page, [...(byPage.get(page) ?? []), ...(element ? [element.label || element.kind] : [])]);
  }
  const named = [...byPage].slice(0, NAMED).map(([page, elements]) => {
    const shown = [...new Set(elements)].slice(0, NAMED);
    return `${page}${shown.length === 0 ? '' : `: ${shown.join(', ')}`}${elements.length > shown.length ? ' …' : ''}`;
  });
  return `${named.join('; ')}${byPage.size > NAMED ? ' …' : ''}`;
}

const SOURCE = 'Text';
const WHERE = 'Where';
const noteOf = (code: string): string => `${code}: note`;

/** With its headings, as it goes out. */
export function tableOf(rows: readonly TextRow[], codes: readonly string[], own: string): readonly (readonly string[])[] {
  return [
    [SOURCE, WHERE, ...codes.flatMap((code) => [code, noteOf(code)])],
    ...rows.map(({ source, where, said, marks }) => [source, where, ...said.flatMap((text, i) => [text, marks[i] ?? ''])]),
    // A translator sees from what into what.
    ['', `${languageName(own, 'en')} into ${codes.map((code) => languageName(code, 'en')).join(', ')}`],
  ];
}

export interface TextChange {
  readonly language: string;
  readonly source: string;
  readonly before: string;
  readonly after: string;
}

export interface TextsRead {
  readonly changes: readonly TextChange[];
  /** What is not taken, each with its row. */
  readonly problems: readonly Problem[];
  /** Texts of the file that the panel does not have (any more). */
  readonly unknown: number;
  readonly languages: readonly string[];
}

const MOST_TOLD = 200;

/**
 * What a table that comes back changes. Cells that are empty say nothing; a text that would lose a value is not taken.
 * @param rows as {@link textRows} for the languages of the panel
 */
export function readTable(table: readonly (readonly string[])[], rows: readonly TextRow[], codes: readonly string[]): Result<TextsRead> {
  const headAt = table.findIndex((cells) => cells.some((cell) => cell.trim().toLowerCase() === SOURCE.toLowerCase()));
  const head = table[headAt]?.map((cell) => cell.trim());
  if (!head) return fail('headings', `There is no column “${SOURCE}” in the file.`, 'Send out the texts, fill in that file, and take it in again.');
  const sourceAt = head.findIndex((cell) => cell.toLowerCase() === SOURCE.toLowerCase());
  const columns = head.flatMap((cell, at) => {
    const code = languageCode(cell);
    const index = code.ok ? codes.indexOf(code.value) : -1;
    return index < 0 ? [] : [{ at, index, code: codes[index] ?? '' }];
  });
  if (columns.length === 0)
    return fail('languages', `No column of the file is a language of this panel: ${codes.join(', ') || 'it has none'}.`, 'Add the language to the panel first, or write its code above its column.'); // prettier-ignore
  const known = new Map(rows.map((row) => [row.source, row]));
  const changes = new Map<string, TextChange>();
  const problems: Problem[] = [];
  let unknown = 0;
  for (const [n, cells] of table.entries()) {
    const source = withPlainEnds(cells[sourceAt] ?? '');
    if (n <= headAt || source === '') continue;
    const row = known.get(source);
    if (!row) unknown++;
    for (const { at, index, code } of row ? columns : []) {
      const after = withPlainEnds(cells[at] ?? '');
      const before = row?.said[index] ?? '';
      if (after.trim() === '' || after === before) continue;
      const kept = translationOf(source, after);
      const key = `${code} ${source}`;
      if (!kept.ok) problems.push({ ...kept.problem, place: `row ${n + 1}, ${code}` });
      else if (changes.get(key) !== undefined && changes.get(key)?.after !== after)
        problems.push({ code: 'twice', message: `“${source.slice(0, 40)}” is there twice, and not the same.`, remedy: 'Leave one of them out.', place: `row ${n + 1}, ${code}` }); // prettier-ignore
      else changes.set(key, { language: code, source, before, after });
    }
  }
  return ok({ changes: [...changes.values()], problems: problems.slice(0, MOST_TOLD), unknown, languages: columns.map(({ code }) => code) });
}
