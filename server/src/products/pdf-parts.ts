import { rampColour } from '@pampero/core/tints';
import type { RasterFrame } from '@pampero/core/raster';

export const INK = '#1c262d';
export const SOFT = '#5d6a70';
export const RULE = '#cfc8b8';
export const BAR = '#0f6a75';

export interface PdfBox {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const MOST_COLUMNS = 140;

/** Differences in plan, coloured to either side of nothing up to `far`; white where there are none. */
export function drawDifferenceMap(
  pdf: PDFKit.PDFDocument,
  values: Float32Array,
  { columns, rows }: RasterFrame,
  far: number,
  { x, y, width, height }: PdfBox,
): void {
  const step = Math.max(1, Math.ceil(Math.max(columns, rows) / MOST_COLUMNS));
  const scale = Math.min(width / columns, height / rows);
  for (let row = 0; row < rows; row += step)
    for (let column = 0; column < columns; column += step) {
      // Of several cells that make one on paper the one furthest off speaks.
      let value = NaN;
      for (let r = row; r < Math.min(rows, row + step); r++)
        for (let c = column; c < Math.min(columns, column + step); c++) {
          const at = values[r * columns + c]!;
          if (!(Math.abs(value) >= Math.abs(at)) && !Number.isNaN(at)) value = at;
        }
      if (Number.isNaN(value)) continue;
      const share = Math.max(0, Math.min(1, (value / far + 1) / 2));
      const side = step * scale;
      pdf
        .rect(x + column * scale, y + (rows - row - step) * scale, side + 0.15, side + 0.15)
        .fill(rampColour('either-side', share));
    }
  pdf
    .rect(x, y, columns * scale, rows * scale)
    .lineWidth(0.5)
    .strokeColor(RULE)
    .stroke();
}

export function drawHistogram(
  pdf: PDFKit.PDFDocument,
  bins: readonly number[],
  far: number,
  unit: string,
  { x, y, width, height }: PdfBox,
): void {
  const tallest = Math.max(1, ...bins);
  bins.forEach((count, k) => {
    const tall = (count / tallest) * (height - 14);
    pdf.rect(x + (k * width) / bins.length, y + height - 12 - tall, width / bins.length - 0.6, tall).fill(BAR);
  });
  pdf.fontSize(8).fillColor(SOFT);
  pdf.text(`-${far}`, x, y + height - 9, { lineBreak: false });
  pdf.text(`+${far} ${unit}`, x + width - 60, y + height - 9, { width: 60, align: 'right', lineBreak: false });
}

const BOTTOM = 770;

/** Rows of cells one under the other, over as many pages as it takes. */
export class PdfTable {
  constructor(
    private readonly pdf: PDFKit.PDFDocument,
    private readonly left: number,
    private y: number,
    public widths: readonly number[],
  ) {}

  head(cells: readonly string[]): void {
    this.write(cells, 'Helvetica-Bold');
  }

  row(cells: readonly string[]): void {
    this.write(cells, 'Helvetica');
  }

  space(): void {
    this.y += 12;
  }

  signature(): void {
    this.turn(60);
    this.pdf
      .moveTo(this.left, this.y + 34)
      .lineTo(this.left + 220, this.y + 34)
      .lineWidth(0.6)
      .strokeColor(INK)
      .stroke();
    this.pdf.font('Helvetica').fontSize(9).fillColor(SOFT);
    this.pdf.text('Surveyor, date', this.left, this.y + 39, { lineBreak: false });
  }

  private write(cells: readonly string[], font: string): void {
    this.turn(13);
    this.pdf.font(font).fontSize(8.5).fillColor(INK);
    let x = this.left;
    cells.forEach((text, k) => {
      const width = this.widths[k] ?? 60;
      this.pdf.text(text, x, this.y, {
        width: width - 6,
        align: k === 0 ? 'left' : 'right',
        lineBreak: false,
        ellipsis: true,
      });
      x += width;
    });
    this.y += 13;
  }

  private turn(height: number): void {
    if (this.y + height <= BOTTOM) return;
    this.pdf.addPage();
    this.y = 54;
  }
}
