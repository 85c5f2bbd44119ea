/** The report as one page of HTML that needs nothing else: for a browser, and for the machine's file. */
import { cellsOf, COLUMNS, HEAD_SAYS, headingOf, type CheckReport, type ReportRow } from './report.ts';

const STYLE = `body{font:14px/1.45 sans-serif;color:#1b2a2a;margin:2rem;max-width:75rem}h1{font-size:1.5rem;margin:0 0 1rem}
dl{display:grid;grid-template-columns:max-content 1fr;gap:.15rem 1rem;margin:0 0 1.5rem}dt{color:#555}dd{margin:0}
table{border-collapse:collapse;width:100%;font-size:12px}th,td{text-align:left;vertical-align:top;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #ccc}
thead{display:table-header-group}tr{break-inside:avoid}.failed td:nth-child(3){font-weight:bold}code{font-size:12px;word-break:break-all}
figure{display:inline-block;margin:.3rem 1rem .3rem 0;max-width:24rem}figure img{max-width:100%}figcaption{font-size:10px}.open{color:#555}section{margin-top:1.5rem}@media print{body{margin:0}}`;

export function* reportHtml(report: CheckReport): Generator<string> {
  yield `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${escaped(report.title)}</title><style>${STYLE}</style></head><body>`;
  yield `<h1>${escaped(report.title)}</h1><dl>`;
  for (const [what, said] of headingOf(report)) yield `<dt>${escaped(what)}</dt><dd>${escaped(said)}</dd>`;
  yield `</dl><table><thead><tr>${COLUMNS.map((column) => `<th>${escaped(column)}</th>`).join('')}</tr></thead><tbody>`;
  for (const row of report.rows) yield line(row) + photosOf(row, report);
  yield `</tbody></table><section><h2>Trail</h2><p>Head of ${report.head.records} records, in installation ${escaped(report.installation)}:<br><code data-head>${escaped(report.head.hash)}</code></p>`;
  for (const said of HEAD_SAYS) yield `<p>${escaped(said)}</p>`;
  yield '</section></body></html>';
}

function line(row: ReportRow): string {
  const cells = cellsOf(row)
    .map((cell) => `<td>${escaped(cell)}</td>`)
    .join('');
  const open =
    row.open.length === 0
      ? ''
      : `<tr class="open"><td></td><td colspan="7">Not ruled out by the values seen: ${escaped(row.open.join('; '))}</td></tr>`;
  return `<tr class="${escaped(row.state)}">${cells}</tr>${open}`;
}

function photosOf({ name, photos }: ReportRow, report: CheckReport): string {
  if (photos.length === 0) return '';
  const shown = photos.map((digest) => {
    const data = report.photos.get(digest);
    // Base64 of our own making: nothing in it ends the attribute.
    const picture = data === undefined ? 'No longer kept.' : `<img src="data:image/jpeg;base64,${data}" alt="Photo at ${escaped(name)}">`;
    return `<figure>${picture}<figcaption>SHA-256 <code>${escaped(digest)}</code></figcaption></figure>`;
  });
  return `<tr><td></td><td colspan="7">${shown.join('')}</td></tr>`;
}

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (sign) => ENTITIES[sign] ?? sign);
}
