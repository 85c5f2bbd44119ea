/** The report as PDF, in portions: thousands of rows take seconds. The fonts lie in the file. */
import { createRequire } from 'node:module';
import PDFDocument from 'pdfkit';
import { cellsOf, COLUMNS, HEAD_SAYS, headingOf, type CheckReport } from '@/core/check/report/report.ts';

const MARGIN = 36;
/** Parts of the width that the columns take. */
const WIDTHS = [0.13, 0.12, 0.08, 0.08, 0.31, 0.12, 0.07, 0.09];
const SIZE = 7.5;
const GAP = 4;
/** Height of a photo. */
const PHOTO = 170;

const fontFile = (name: string): string => createRequire(import.meta.url).resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`);

/** One page after the other is drawn as the rows are taken. */
export function* reportPdf(report: CheckReport, take: (bytes: Uint8Array) => void): Generator<void, void> {
  const pdf = new PDFDocument({
    size: 'A4',
    layout: 'landscape',
    margin: MARGIN,
    info: { Title: report.title, Producer: 'Mill Latch', CreationDate: new Date(report.madeAt) },
  });
  pdf.on('data', take);
  pdf.registerFont('plain', fontFile('DejaVuSans'));
  pdf.registerFont('bold', fontFile('DejaVuSans-Bold'));
  pdf.registerFont('mono', fontFile('DejaVuSansMono'));
  const width = pdf.page.width - 2 * MARGIN;
  pdf.font('bold').fontSize(15).text(report.title).moveDown(0.5);
  for (const [what, said] of headingOf(report)) {
    pdf.font('bold').fontSize(9).text(`${what}: `, { continued: true });
    pdf.font('plain').text(said);
  }
  pdf.moveDown(0.8);
  const line = (cells: readonly string[], font: 'plain' | 'bold'): void => {
    pdf.font(font).fontSize(SIZE);
    const room = (i: number): number => width * (WIDTHS[i] ?? 0) - GAP;
    const height = Math.max(...cells.map((cell, i) => pdf.heightOfString(cell || ' ', { width: room(i) })));
    if (pdf.y + height + GAP > pdf.page.height - MARGIN) {
      pdf.addPage();
      if (font === 'plain') line(COLUMNS, 'bold');
      pdf.font(font).fontSize(SIZE);
    }
    const top = pdf.y;
    let left = MARGIN;
    for (const [i, cell] of cells.entries()) {
      pdf.text(cell, left, top, { width: room(i) });
      left += width * (WIDTHS[i] ?? 0);
    }
    pdf.x = MARGIN;
    pdf.y = top + height + GAP / 2;
    pdf
      .moveTo(MARGIN, pdf.y)
      .lineTo(MARGIN + width, pdf.y)
      .lineWidth(0.4)
      .strokeColor('#bbbbbb')
      .stroke();
    pdf.y += GAP / 2;
  };
  line(COLUMNS, 'bold');
  for (const row of report.rows) {
    line(cellsOf(row), 'plain');
    if (row.open.length > 0)
      pdf
        .font('plain')
        .fontSize(SIZE - 1)
        .fillColor('#555555')
        .text(`Not ruled out by the values seen: ${row.open.join('; ')}`, MARGIN + 12, pdf.y, { width: width - 12 })
        .fillColor('black')
        .moveDown(0.3);
    for (const digest of row.photos) {
      const data = report.photos.get(digest);
      if (data === undefined) continue;
      if (pdf.y + PHOTO + GAP > pdf.page.height - MARGIN) pdf.addPage();
      const top = pdf.y;
      pdf.image(Buffer.from(data, 'base64'), MARGIN + 12, top, { fit: [PHOTO * 1.5, PHOTO] });
      pdf.y = top + PHOTO + GAP;
      pdf
        .font('mono')
        .fontSize(SIZE - 2)
        .text(`SHA-256 ${digest}`, MARGIN + 12, pdf.y)
        .moveDown(0.4);
      yield;
    }
    pdf.x = MARGIN;
    yield;
  }
  pdf.moveDown(1).font('bold').fontSize(10).text('Trail', MARGIN, pdf.y);
  pdf.font('plain').fontSize(8).text(`Head of ${report.head.records} records, in installation ${report.installation}:`);
  pdf.font('mono').text(report.head.hash);
  for (const said of HEAD_SAYS) pdf.moveDown(0.4).font('plain').text(said);
  pdf.end();
}
