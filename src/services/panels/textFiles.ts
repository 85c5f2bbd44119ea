/** The texts of a panel as a file for a translator, CSV or XLSX, and what comes back in one. */
import * as XLSX from '@e965/xlsx';
import Papa from 'papaparse';
import { FORMULA, withoutGuard } from '@/core/csvGuard.ts';
import { readTable, tableOf, type TextFormat, type TextsRead } from '@/core/panel/textTable.ts';
import { withPlainEnds } from '@/core/panel/wording.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { PanelTexts } from '@/mapping/panels/panelTexts.ts';
import type { PanelService } from '../panelService.ts';
import { decodeText } from '../lists/decodeText.ts';
import { looksLikeOldWorkbook, looksLikeWorkbook, readSheet } from '../lists/workbook.ts';

export interface TextFile {
  readonly name: string;
  readonly type: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

const CSV = 'text/csv; charset=utf-8';
const WORKBOOK = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
/** In characters. */
const WIDTHS = { source: 48, where: 32, text: 48, note: 12 };

export class TextFiles {
  readonly #panels: Pick<PanelService, 'texts'>;

  constructor(panels: Pick<PanelService, 'texts'>) {
    this.#panels = panels;
  }

  write(panelId: string, format: TextFormat): Result<TextFile> {
    const texts = this.#panels.texts(panelId);
    return texts.ok ? writeTexts(texts.value, format) : texts;
  }

  /** Changes nothing: what it would change is told. */
  read(panelId: string, bytes: Uint8Array): Result<TextsRead> {
    const texts = this.#panels.texts(panelId);
    return texts.ok ? readTexts(bytes, texts.value) : texts;
  }
}

function writeTexts({ scene, codes, rows }: PanelTexts, format: TextFormat): Result<TextFile> {
  const own = scene.panel.languages[0]?.code;
  if (own === undefined || codes.length === 0) return fail('languages', 'The panel speaks one language.', 'Give it another one first.');
  const table = tableOf(rows, codes, own);
  const name = `${scene.panel.name} texts.${format}`;
  if (format === 'csv') {
    const text = `\uFEFF${Papa.unparse(table as string[][], { newline: '\r\n', escapeFormulae: FORMULA })}`;
    return ok({ name, type: CSV, bytes: new TextEncoder().encode(text) });
  }
  const sheet = XLSX.utils.aoa_to_sheet(table as string[][]);
  sheet['!cols'] = [WIDTHS.source, WIDTHS.where, ...codes.flatMap(() => [WIDTHS.text, WIDTHS.note])].map((wch) => ({ wch }));
  const book = XLSX.utils.book_new(sheet, 'Texts');
  return ok({ name, type: WORKBOOK, bytes: new Uint8Array(XLSX.write(book, { type: 'array', bookType: 'xlsx' }) as ArrayBuffer) });
}

function readTexts(bytes: Uint8Array, { rows, codes }: PanelTexts): Result<TextsRead> {
  if (looksLikeOldWorkbook(bytes)) return fail('old-workbook', 'The file is a workbook in the format of before 2007.', 'Save it as XLSX or CSV.');
  if (looksLikeWorkbook(bytes)) {
    const sheet = readSheet(bytes);
    return sheet.ok ? readTable(sheet.value, rows, codes) : sheet;
  }
  const decoded = decodeText(bytes, null);
  if (!decoded.ok) return decoded;
  // Line ends of any computer, also inside a cell.
  const { data } = Papa.parse<string[]>(withPlainEnds(decoded.value.text), { newline: '\n', skipEmptyLines: true });
  return readTable(
    data.map((cells) => cells.map(withoutGuard)),
    rows,
    codes,
  );
}
