/** The same tags written in every format that lists come in; the workbook by another library than the one that reads it. */
import writeXlsxFile from 'write-excel-file/node';

export interface WrittenTag {
  readonly name: string;
  /** Word of the controller's memory. */
  readonly word: number;
  readonly type: 'INT' | 'REAL' | `STRING(${number})`;
  readonly comment: string;
}

export const WRITTEN_FORMATS = ['csv', 'xlsx', 'st', 'xml', 'json'] as const;
export type WrittenFormat = (typeof WRITTEN_FORMATS)[number];

export async function listFile(format: WrittenFormat, tags: readonly WrittenTag[], version = '1'): Promise<Uint8Array> {
  if (format === 'xlsx') return workbook(tags);
  return new TextEncoder().encode(
    format === 'csv' ? csv(tags) : format === 'json' ? json(tags, version) : format === 'st' ? declarations(tags, version) : plcOpen(tags, version),
  );
}

/** The reference of a word: counted from 1, behind a 4. */
const reference = ({ word }: WrittenTag): string => String(40001 + word);
const location = ({ word, type }: WrittenTag): string => `%M${type === 'REAL' ? 'D' : 'W'}${word}`;

function csv(tags: readonly WrittenTag[]): string {
  return `Name;Address;Data type;Comment\r\n${tags.map((t) => `${t.name};${reference(t)};${t.type};"${t.comment}"\r\n`).join('')}`;
}

async function workbook(tags: readonly WrittenTag[]): Promise<Uint8Array> {
  const text = (value: string) => ({ value, type: String });
  const about = [[text('Made for the mill')], [text('and nothing else')]];
  const rows = [
    [text('Tags of the controller')],
    ['Symbol', 'Address', 'Data type', 'Comment'].map(text),
    ...tags.map((t) => [text(t.name), text(reference(t)), text(t.type), text(t.comment)]),
  ];
  return new Uint8Array(
    await writeXlsxFile([
      { data: about, sheet: 'About' },
      { data: rows, sheet: 'Tags' },
    ]).toBuffer(),
  );
}

function declarations(tags: readonly WrittenTag[], version: string): string {
  const lines = tags.map((t) => `  ${t.name} AT ${location(t)} : ${t.type.replace(/\((\d+)\)/, '[$1]')}; // ${t.comment}`);
  return `{VERSION ${version}}\nVAR_GLOBAL\n${lines.join('\n')}\nEND_VAR\n`;
}

function plcOpen(tags: readonly WrittenTag[], version: string): string {
  const type = (t: WrittenTag): string => (t.type.startsWith('STRING') ? `<string length="${t.type.slice(7, -1)}"/>` : `<${t.type}/>`);
  const variables = tags.map(
    (t) =>
      `<variable name="${t.name}" address="${location(t)}"><type>${type(t)}</type><documentation><xhtml xmlns="http://www.w3.org/1999/xhtml">${t.comment}</xhtml></documentation></variable>`,
  );
  return `<?xml version="1.0" encoding="utf-8"?>
<project xmlns="http://www.plcopen.org/xml/tc6_0201">
<fileHeader companyName="Quern Hollow" productName="mill" productVersion="1" creationDateTime="2026-03-01T06:30:00"/>
<contentHeader name="mill" version="${version}"/>
<types><dataTypes/><pous/></types>
<instances><configurations><configuration name="c"><resource name=""><globalVars>
${variables.join('\n')}
</globalVars></resource></configuration></configurations></instances>
</project>
`;
}

function json(tags: readonly WrittenTag[], version: string): string {
  return JSON.stringify({
    format: 'mill-latch-tags',
    version: 1,
    program: { version },
    tags: tags.map((t) => ({ name: t.name, address: reference(t), type: t.type, comment: t.comment })),
  });
}
