import type { Job, ProductOf } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { PaperPdf } from './pdf-document.js';
import { csvTable } from './csv-table.js';
import { BAR, INK, RULE, SOFT } from './pdf-parts.js';

type Statement = ProductOf<'accuracy'>;
type StatedPoint = Statement['facts']['points'][number];

const [UP, DOWN] = [BAR, '#c2410c'];

/** Every check point with the surface's elevation, the difference and what it counts for. */
export function accuracyCsv({ facts: { points } }: Statement): string {
  const rows = points.map((p) => [
    p.number,
    p.northing.toFixed(3),
    p.easting.toFixed(3),
    p.elevation.toFixed(3),
    p.code,
    p.surface?.toFixed(3) ?? '',
    p.surface === undefined ? '' : (p.surface - p.elevation).toFixed(3),
    countsFor(p),
  ]);
  return csvTable([
    ['point', 'northing', 'easting', 'elevation', 'code', 'surface', 'difference', 'counts for'],
    ...rows,
  ]);
}

function countsFor({ excluded, surface, isVegetated }: StatedPoint): string {
  if (excluded !== undefined) return `left out: ${excluded}`;
  if (surface === undefined) return 'off the surface';
  return isVegetated ? 'VVA' : 'NVA';
}

/** The statement as a page or two that can be signed. */
export function accuracyPdf(job: Job, product: Statement): PDFKit.PDFDocument {
  const { statement, figures, surfaceName, surveyError, points } = product.facts;
  const { short } = lengthUnits[job.unit];
  const pdf = new PaperPdf({ size: 'A4', margin: 54, info: { Title: product.name, Creator: 'Pampero' } });
  const [left, width] = [54, 487];
  pdf.font('Helvetica-Bold').fontSize(17).fillColor(INK).text('Statement of vertical accuracy');
  pdf.font('Helvetica').fontSize(10).fillColor(SOFT).moveDown(0.3);
  const system = job.crs.epsg === undefined ? (job.crs.name ?? 'no coordinate system') : `EPSG:${job.crs.epsg}`;
  pdf.text(`${job.name}: ${surfaceName}. ${system}, elevations in ${lengthUnits[job.unit].name}.`);
  pdf.text(
    `Made ${product.madeAt.slice(0, 10)} with Pampero${product.isStale ? '; the surface has changed since' : ''}.`,
  );
  pdf.moveDown(0.8);
  let y = pdf.y;
  figures.forEach(({ label, value }, k) => {
    const [column, row] = [k % 2, Math.floor(k / 2)];
    const x = left + column * (width / 2 + 8);
    const at = y + row * 17;
    pdf.fontSize(9.5).fillColor(SOFT).text(label, x, at, { lineBreak: false });
    pdf
      .font('Helvetica-Bold')
      .fillColor(INK)
      .text(String(value), x + 130, at, { width: 105, align: 'right', lineBreak: false });
    pdf.font('Helvetica');
    pdf
      .moveTo(x, at + 13)
      .lineTo(x + 235, at + 13)
      .lineWidth(0.4)
      .strokeColor(RULE)
      .stroke();
  });
  y += Math.ceil(figures.length / 2) * 17 + 10;
  const counted = points.filter((p) => p.surface !== undefined && p.excluded === undefined);
  const errors = counted.map((p) => p.surface! - p.elevation);
  pdf.fontSize(9).fillColor(SOFT);
  pdf.text(
    `NVA is 1.96 RMSEz, VVA the 95th percentile (ASPRS Positional Accuracy Standards, edition 1, 2014). The check points’ own error of ${surveyError} ${short} is taken in quadrature, and at least 30 are asked for (edition 2, 2023). The contour interval supported is 3 RMSEz; 3.2898 RMSEz by the National Map Accuracy Standards.`,
    left,
    y,
    { width },
  );
  y = pdf.y + 14;
  if (errors.length > 0) {
    histogram(pdf, errors, short, left, y, 225, 130);
    residualMap(pdf, counted, left + 255, y, 232, 130);
    y += 158;
  }
  const columns = [
    ['Point', 44],
    ['Northing', 78],
    ['Easting', 78],
    ['Surveyed', 58],
    ['Surface', 58],
    ['Difference', 58],
    ['Code', 44],
    ['Counts for', 69],
  ] as const;
  const line = (cells: readonly string[], isHead: boolean): void => {
    if (y > 770) {
      pdf.addPage();
      y = 54;
    }
    let x = left;
    pdf
      .font(isHead ? 'Helvetica-Bold' : 'Helvetica')
      .fontSize(8.5)
      .fillColor(INK);
    cells.forEach((text, k) => {
      const isNumber = k >= 1 && k <= 5;
      pdf.text(text, x, y, {
        width: columns[k]![1] - 6,
        align: isNumber ? 'right' : 'left',
        lineBreak: false,
        ellipsis: true,
      });
      x += columns[k]![1];
    });
    y += 13;
  };
  line(
    columns.map(([title]) => title),
    true,
  );
  for (const p of points)
    line(
      [
        p.number,
        p.northing.toFixed(3),
        p.easting.toFixed(3),
        p.elevation.toFixed(3),
        p.surface?.toFixed(3) ?? '–',
        p.surface === undefined ? '–' : signed(p.surface - p.elevation),
        p.code,
        p.excluded ?? (p.surface === undefined ? 'off' : p.isVegetated ? 'VVA' : 'NVA'),
      ],
      false,
    );
  y += 26;
  if (y > 740) {
    pdf.addPage();
    y = 80;
  }
  pdf
    .moveTo(left, y + 20)
    .lineTo(left + 220, y + 20)
    .lineWidth(0.6)
    .strokeColor(INK)
    .stroke();
  pdf
    .fontSize(9)
    .fillColor(SOFT)
    .text('Surveyor, date', left, y + 25, { lineBreak: false });
  if (!statement.hasEnough)
    pdf.fillColor(DOWN).text('Fewer than 30 check points on open ground.', left + 255, y + 25, { lineBreak: false });
  pdf.end();
  return pdf;
}

function signed(value: number): string {
  return `${value > 0 ? '+' : ''}${value.toFixed(3)}`;
}

function histogram(
  pdf: PDFKit.PDFDocument,
  errors: readonly number[],
  unit: string,
  x: number,
  y: number,
  width: number,
  height: number,
): void {
  const most = Math.max(1e-6, ...errors.map(Math.abs));
  const bins = 15;
  const counts = new Array<number>(bins).fill(0);
  for (const e of errors) counts[Math.min(bins - 1, Math.floor(((e + most) / (2 * most)) * bins))]!++;
  const tallest = Math.max(...counts);
  counts.forEach((n, k) => {
    const h = (n / tallest) * (height - 18);
    pdf.rect(x + (k * width) / bins + 1, y + height - 14 - h, width / bins - 2, h).fill(UP);
  });
  pdf
    .moveTo(x + width / 2, y)
    .lineTo(x + width / 2, y + height - 14)
    .lineWidth(0.6)
    .strokeColor(INK)
    .stroke();
  pdf.fontSize(8).fillColor(SOFT);
  pdf.text(`-${most.toFixed(3)}`, x, y + height - 10, { lineBreak: false });
  pdf.text(`+${most.toFixed(3)} ${unit}`, x + width - 60, y + height - 10, {
    width: 60,
    align: 'right',
    lineBreak: false,
  });
  pdf.text('surface minus survey', x + width / 2 - 38, y + height - 10, { lineBreak: false });
}

/** Where the surface is too high and where too low: circles by size. */
function residualMap(
  pdf: PDFKit.PDFDocument,
  points: readonly StatedPoint[],
  x: number,
  y: number,
  width: number,
  height: number,
): void {
  const span = (of: 'easting' | 'northing'): [number, number] => [
    Math.min(...points.map((p) => p[of])),
    Math.max(...points.map((p) => p[of])),
  ];
  const [[west, east], [south, north]] = [span('easting'), span('northing')];
  const scale = Math.min((width - 24) / Math.max(1e-6, east - west), (height - 24) / Math.max(1e-6, north - south));
  const most = Math.max(1e-6, ...points.map((p) => Math.abs(p.surface! - p.elevation)));
  pdf.rect(x, y, width, height).lineWidth(0.6).strokeColor(RULE).stroke();
  for (const p of points) {
    const e = p.surface! - p.elevation;
    pdf
      .circle(
        x + width / 2 + (p.easting - (west + east) / 2) * scale,
        y + height / 2 - (p.northing - (south + north) / 2) * scale,
        1.5 + 7 * Math.sqrt(Math.abs(e) / most),
      )
      .lineWidth(1.2)
      .strokeColor(e >= 0 ? UP : DOWN)
      .stroke();
  }
  pdf
    .fontSize(8)
    .fillColor(UP)
    .text('surface too high', x + 6, y + height - 12, { lineBreak: false });
  pdf.fillColor(DOWN).text('too low', x + 76, y + height - 12, { lineBreak: false });
}
