/** Reads a list from the bytes of a file, whatever it is written in; what it is, its contents say. */
import type { TextLayout } from '@/core/value/dataType.ts';
import { ok, type Result } from '@/core/result.ts';
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import { declaredRows, type Declarations } from '@/core/taglist/declared.ts';
import { looksDeclared, parseDeclarations } from '@/core/taglist/declarations/parse.ts';
import { readDelimited } from '@/core/taglist/delimited.ts';
import { looksLikeJson, parseOwnJson } from '@/core/taglist/ownJson.ts';
import { looksLikeNodeSet, readNodeSet } from '@/core/taglist/nodeSetList.ts';
import { parsePlcOpen } from '@/core/taglist/plcopen.ts';
import { looksLikeXml } from '@/core/taglist/xmlNodes.ts';
import { listOfRows, unreadable, type ListRow, type ReadList } from '@/core/taglist/readList.ts';
import type { ListFormat } from '@/core/taglist/written.ts';
import { accentedLines, decodeText } from './decodeText.ts';
import { looksLikeOldWorkbook, looksLikeWorkbook, readWorkbook } from './workbook.ts';

const ACCENTED = 6;

export type AnyList = ReadList & Pick<DraftSummary, 'encoding' | 'encodingConfidence' | 'accented'>;

/** @param texts how the device lays out texts of which only the length is said */
export function readAny(bytes: Uint8Array, choices: DraftChoices, texts: TextLayout = 'zero-ended'): Result<AnyList> {
  if (looksLikeWorkbook(bytes)) return ok({ ...readWorkbook(bytes, choices), encoding: 'utf-8', encodingConfidence: 1, accented: [] });
  if (looksLikeOldWorkbook(bytes))
    return {
      ok: false,
      problem: {
        code: 'old-workbook',
        message: 'The file is a workbook in the format of before 2007.',
        remedy: 'Save it as XLSX, or the sheet as CSV.',
      },
    };
  const decoded = decodeText(bytes, choices.encoding ?? null);
  if (!decoded.ok) return decoded;
  const { text, encoding, confidence } = decoded.value;
  return ok({ ...readText(text, choices, texts), encoding, encodingConfidence: confidence, accented: accentedLines(text, ACCENTED) });
}

function readText(text: string, choices: DraftChoices, texts: TextLayout): ReadList {
  const declared = (format: ListFormat, declarations: Declarations): ReadList =>
    listOfDeclarations(format, declaredRows(declarations, choices.layout ?? 'none', texts), declarations);
  if (looksLikeXml(text)) return looksLikeNodeSet(text) ? readNodeSet(text) : declared('plcopen', parsePlcOpen(text));
  if (looksLikeJson(text)) {
    const read = parseOwnJson(text);
    return read.ok ? listOfRows('json', read.value.rows, [], read.value.version) : unreadable('json', read.problem);
  }
  if (looksDeclared(text)) return declared('declarations', parseDeclarations(text, choices.panelMark ?? ''));
  return readDelimited(text, choices);
}

/** A mistake costs the declaration that it stands in: it is a row that is not understood, beside those that are. */
function listOfDeclarations(format: ListFormat, rows: readonly ListRow[], { problems, version }: Declarations): ReadList {
  if (rows.length === 0) return listOfRows(format, rows, problems, version);
  const wrong = problems.map((problem): ListRow => {
    const line = Number(/\d+/.exec(problem.place ?? '')?.[0] ?? 0);
    return { row: line, ...(problem.place ? { place: problem.place } : {}), cells: {}, surplus: 0, problems: [problem] };
  });
  return listOfRows(format, [...wrong, ...rows], [], version);
}
