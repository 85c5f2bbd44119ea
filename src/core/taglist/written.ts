/** How the text of a list may be written. */

/** Labels of the WHATWG Encoding Standard, with the words they go by. */
export const ENCODINGS = [
  ['utf-8', 'UTF-8'],
  ['utf-16le', 'UTF-16, low byte first'],
  ['utf-16be', 'UTF-16, high byte first'],
  ['windows-1252', 'Western Europe (Windows-1252, ISO-8859-1)'],
  ['iso-8859-15', 'Western Europe with € (ISO-8859-15)'],
  ['windows-1250', 'Central Europe (Windows-1250)'],
  ['iso-8859-2', 'Central Europe (ISO-8859-2)'],
  ['windows-1251', 'Cyrillic (Windows-1251)'],
  ['iso-8859-5', 'Cyrillic (ISO-8859-5)'],
  ['koi8-r', 'Cyrillic (KOI8-R)'],
  ['windows-1253', 'Greek (Windows-1253)'],
  ['iso-8859-7', 'Greek (ISO-8859-7)'],
  ['windows-1254', 'Turkish (Windows-1254, ISO-8859-9)'],
  ['windows-1255', 'Hebrew (Windows-1255)'],
  ['windows-1256', 'Arabic (Windows-1256)'],
  ['windows-1257', 'Baltic (Windows-1257)'],
  ['shift_jis', 'Japanese (Shift-JIS)'],
  ['euc-jp', 'Japanese (EUC-JP)'],
  ['gb18030', 'Chinese (GBK, GB 18030)'],
  ['big5', 'Chinese (Big5)'],
  ['euc-kr', 'Korean (EUC-KR)'],
] as const;
export type Encoding = (typeof ENCODINGS)[number][0];

export const DELIMITERS = [',', ';', '\t', '|'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

/** What a list is written in. */
export const LIST_FORMATS = ['delimited', 'workbook', 'declarations', 'plcopen', 'nodeset', 'json'] as const;
export type ListFormat = (typeof LIST_FORMATS)[number];
export const FORMAT_WORDS: Readonly<Record<ListFormat, string>> = {
  delimited: 'delimited text',
  workbook: 'a workbook (XLSX)',
  declarations: 'declarations (IEC 61131-3)',
  plcopen: 'PLCopen XML',
  nodeset: 'a node set (UANodeSet)',
  json: 'Mill Latch JSON',
};
