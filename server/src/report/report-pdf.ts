import { PaperPdf } from '../products/pdf-document.js';
import { INK, RULE, SOFT } from '../products/pdf-parts.js';
import type { Report, ReportBlock } from './report-model.js';

const [LEFT, WIDTH, TOP, BOTTOM] = [54, 487, 54, 770];
const TALLEST_PICTURE = 420;

/** The report as pages that can be signed, numbered at the foot. */
export function reportPdf(report: Report): PDFKit.PDFDocument {
  const { title, subtitle, surveyor, logo, sections } = report;
  const pdf = new PaperPdf({
    size: 'A4',
    margin: TOP,
    bufferPages: true,
    info: { Title: title, Creator: 'Pampero' },
  });
  if (logo) pdf.image(logo, LEFT + WIDTH - 120, TOP - 6, { fit: [120, 50], align: 'right' });
  pdf.font('Helvetica-Bold').fontSize(20).fillColor(INK);
  pdf.text(title, LEFT, TOP, { width: logo ? WIDTH - 140 : WIDTH });
  pdf.font('Helvetica').fontSize(9.5).fillColor(SOFT).moveDown(0.3);
  pdf.text(subtitle, { width: logo ? WIDTH - 140 : WIDTH });
  for (const { heading, blocks } of sections) {
    pdf.moveDown(1);
    if (heading) {
      // A heading stays with what comes first under it.
      room(pdf, 44 + leastHeight(pdf, blocks[0]));
      pdf
        .moveTo(LEFT, pdf.y)
        .lineTo(LEFT + WIDTH, pdf.y)
        .lineWidth(0.6)
        .strokeColor(RULE)
        .stroke();
      pdf.moveDown(0.4);
      pdf.font('Helvetica-Bold').fontSize(14).fillColor(INK).text(heading, LEFT, pdf.y, { width: WIDTH });
      pdf.moveDown(0.3);
    }
    for (const block of blocks) draw(pdf, block);
  }
  room(pdf, 80);
  const y = pdf.y + 44;
  pdf
    .moveTo(LEFT, y)
    .lineTo(LEFT + 240, y)
    .lineWidth(0.6)
    .strokeColor(INK)
    .stroke();
  pdf.font('Helvetica').fontSize(9).fillColor(SOFT);
  pdf.text(`${surveyor || 'Surveyor'}, date`, LEFT, y + 5, { lineBreak: false });
  const { count } = pdf.bufferedPageRange();
  for (let page = 0; page < count; page++) {
    pdf.switchToPage(page);
    // The foot lies in the margin, where text would begin a page of its own.
    pdf.page.margins.bottom = 0;
    pdf.font('Helvetica').fontSize(8).fillColor(SOFT);
    pdf.text(`${title}, page ${page + 1} of ${count}`, LEFT, 806, {
      width: WIDTH,
      align: 'right',
      lineBreak: false,
    });
  }
  pdf.end();
  return pdf;
}

function leastHeight(pdf: PDFKit.PDFDocument, block: ReportBlock | undefined): number {
  return block?.kind === 'picture' ? sizeOf(pdf, block.image).height + 24 : 24;
}

function sizeOf(pdf: PDFKit.PDFDocument, image: Buffer): { readonly width: number; readonly height: number } {
  const opened = (pdf as unknown as { openImage(source: Buffer): { width: number; height: number } }).openImage(image);
  const scale = Math.min(WIDTH / opened.width, TALLEST_PICTURE / opened.height);
  return { width: opened.width * scale, height: opened.height * scale };
}

function room(pdf: PDFKit.PDFDocument, height: number): void {
  if (pdf.y + height > BOTTOM) pdf.addPage();
}

function draw(pdf: PDFKit.PDFDocument, block: ReportBlock): void {
  switch (block.kind) {
    case 'text':
      room(pdf, 20);
      pdf
        .font(block.isHeading ? 'Helvetica-Bold' : 'Helvetica')
        .fontSize(block.isHeading ? 11 : 9.5)
        .fillColor(INK);
      pdf.text(block.text, LEFT, pdf.y, { width: WIDTH });
      pdf.moveDown(0.5);
      return;
    case 'list':
      pdf.font('Helvetica').fontSize(9.5).fillColor(INK);
      for (const item of block.items) {
        room(pdf, 16);
        const { y } = pdf;
        pdf.circle(LEFT + 4, y + 5, 1.4).fill(INK);
        pdf.fillColor(INK).text(item, LEFT + 14, y, { width: WIDTH - 14 });
        pdf.moveDown(0.2);
      }
      pdf.moveDown(0.3);
      return;
    case 'picture': {
      const { width, height } = sizeOf(pdf, block.image);
      room(pdf, height + 24);
      pdf.image(block.image, LEFT, pdf.y, { width, height });
      pdf.y += height + 4;
      pdf.font('Helvetica').fontSize(8.5).fillColor(SOFT).text(block.caption, LEFT, pdf.y, { width: WIDTH });
      pdf.moveDown(0.8);
      return;
    }
    case 'table':
      drawTable(pdf, block);
  }
}

/** Rows as tall as their fullest cell; the head again on every page. */
function drawTable(pdf: PDFKit.PDFDocument, { head, rows, widths }: Extract<ReportBlock, { kind: 'table' }>): void {
  const whole = widths.reduce((sum, width) => sum + width, 0);
  const wide = widths.map((width) => (width / whole) * WIDTH);
  const write = (cells: readonly string[], isHead: boolean): void => {
    pdf.font(isHead ? 'Helvetica-Bold' : 'Helvetica').fontSize(8);
    const height = Math.max(...cells.map((cell, k) => pdf.heightOfString(cell || ' ', { width: wide[k]! - 6 })));
    if (pdf.y + height + 4 > BOTTOM) {
      pdf.addPage();
      if (!isHead) write(head, true);
    }
    const { y } = pdf;
    pdf
      .font(isHead ? 'Helvetica-Bold' : 'Helvetica')
      .fontSize(8)
      .fillColor(INK);
    let x = LEFT;
    cells.forEach((cell, k) => {
      pdf.text(cell, x, y, { width: wide[k]! - 6 });
      x += wide[k]!;
    });
    pdf
      .moveTo(LEFT, y + height + 2)
      .lineTo(LEFT + WIDTH, y + height + 2)
      .lineWidth(isHead ? 0.8 : 0.3)
      .strokeColor(isHead ? INK : RULE)
      .stroke();
    pdf.y = y + height + 5;
    pdf.x = LEFT;
  };
  room(pdf, 40);
  write(head, true);
  for (const row of rows) write(row, false);
  pdf.moveDown(0.6);
}
