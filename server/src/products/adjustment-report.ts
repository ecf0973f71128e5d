import type { Job, ProductOf } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { PaperPdf } from './pdf-document.js';
import { csvTable } from './csv-table.js';
import { differenceRows } from './difference-rows.js';
import { drawDifferenceMap, drawHistogram, INK, PdfTable, SOFT } from './pdf-parts.js';

type Adjusted = ProductOf<'adjustment'>;
type Unknown = Adjusted['facts']['unknowns'][number];

const figureOf = ({ unit, value, standardDeviation, isHeld }: Unknown): [string, string] => {
  const decimals = unit === '°' ? 5 : unit === 'ppm' ? 1 : 4;
  return isHeld ? ['held', ''] : [value.toFixed(decimals), standardDeviation.toFixed(decimals)];
};

/** Everything of the adjustment as rows. */
export function adjustmentCsv(job: Job, { name, madeAt, facts }: Adjusted): string {
  const { short } = lengthUnits[job.unit];
  return csvTable([
    ['Adjustment', name],
    ['Job', job.name],
    ['Made', madeAt],
    ['Lengths', short],
    [],
    ['before'],
    ...differenceRows(facts.before),
    [],
    ['after'],
    ...differenceRows(facts.after),
    [],
    ['what ranging noise leaves', facts.expected.toFixed(4)],
    ['limit between strips, RMSDz', facts.limits.between.toFixed(4)],
    ['holds', facts.after.all.rmsd <= facts.limits.between ? 'yes' : 'no'],
    [],
    ['correction', 'value', 'standard deviation', 'unit'],
    ...facts.unknowns.map((unknown) => [unknown.label, ...figureOf(unknown), unknown.unit]),
    [],
    ['point', 'strip', 'before', 'after', 'kept out'],
    ...facts.control.map((c) => [
      c.number,
      c.strip,
      c.before.toFixed(4),
      c.after.toFixed(4),
      c.isKeptOut ? 'yes' : 'no',
    ]),
  ]);
}

const rmsOf = (values: readonly number[]): number =>
  values.length === 0 ? NaN : Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);

/** The adjustment as a report that can be signed: differences with their maps, corrections, residuals at control, limits. */
export function adjustmentPdf(
  job: Job,
  product: Adjusted,
  maps: { readonly before: Float32Array; readonly after: Float32Array },
): PDFKit.PDFDocument {
  const { facts, name } = product;
  const { short } = lengthUnits[job.unit];
  const pdf = new PaperPdf({ size: 'A4', margin: 54, info: { Title: name, Creator: 'Pampero' } });
  const [left, width] = [54, 487];
  pdf.font('Helvetica-Bold').fontSize(17).fillColor(INK).text('Strip adjustment');
  pdf.font('Helvetica').fontSize(10).fillColor(SOFT).moveDown(0.3);
  const system = job.crs.epsg === undefined ? (job.crs.name ?? 'no coordinate system') : `EPSG:${job.crs.epsg}`;
  pdf.text(`${job.name}: ${name}. ${system}, lengths in ${lengthUnits[job.unit].name}.`);
  pdf.text(`Made ${product.madeAt.slice(0, 10)} with Pampero. Strips used: ${facts.stripNames.join(', ')}.`);
  pdf.moveDown(0.5);
  const holds = facts.after.all.rmsd <= facts.limits.between && facts.after.all.percentile95 <= facts.limits.largest;
  pdf.fontSize(11).fillColor(INK);
  pdf.text(
    `RMSDz between strips ${facts.before.all.rmsd.toFixed(3)} ${short} before, ${facts.after.all.rmsd.toFixed(3)} ${short} after, over ${facts.after.all.count} smooth patches; the ranging noise alone leaves ${facts.expected.toFixed(3)} ${short}. The limit of the class, ${facts.limits.between.toFixed(3)} ${short} (ASPRS 2014), ${holds ? 'holds' : 'does not hold'}.`,
    left,
    pdf.y,
    { width },
  );
  const out = facts.control.filter(({ isKeptOut }) => isKeptOut);
  const used = facts.control.filter(({ isKeptOut }) => !isKeptOut);
  if (facts.control.length > 0)
    pdf.text(
      [
        used.length > 0 &&
          `At the control used, RMSEz ${rmsOf(used.map((c) => c.before)).toFixed(3)} before and ${rmsOf(used.map((c) => c.after)).toFixed(3)} ${short} after.`,
        out.length > 0 &&
          `At points kept out, RMSEz ${rmsOf(out.map((c) => c.before)).toFixed(3)} before and ${rmsOf(out.map((c) => c.after)).toFixed(3)} ${short} after.`,
      ]
        .filter(Boolean)
        .join(' '),
      { width },
    );
  for (const remark of facts.remarks) pdf.fontSize(9.5).fillColor(SOFT).text(remark, { width });
  let y = pdf.y + 12;
  const half = (width - 16) / 2;
  const far = facts.before.histogram.halfWidth;
  const tall = Math.min(230, (half * facts.map.rows) / facts.map.columns);
  pdf.fontSize(9).fillColor(SOFT);
  pdf.text('before', left, y, { lineBreak: false });
  pdf.text('after', left + half + 16, y, { lineBreak: false });
  y += 13;
  drawDifferenceMap(pdf, maps.before, facts.map, far, { x: left, y, width: half, height: tall });
  drawDifferenceMap(pdf, maps.after, facts.map, far, { x: left + half + 16, y, width: half, height: tall });
  y += tall + 8;
  drawHistogram(pdf, facts.before.histogram.bins, far, short, { x: left, y, width: half, height: 70 });
  drawHistogram(pdf, facts.after.histogram.bins, far, short, { x: left + half + 16, y, width: half, height: 70 });
  y += 86;
  const pairs = new PdfTable(pdf, left, y, [150, 50, 55, 55, 60, 55, 60]);
  pairs.head(['Strips', 'patches', 'median', 'mean', 'RMSDz', '95 %', 'largest']);
  for (const row of differenceRows(facts.after).slice(1)) pairs.row(row);
  pairs.space();
  pairs.widths = [220, 90, 110, 60];
  pairs.head(['Correction', 'value', 'standard deviation', 'unit']);
  for (const unknown of facts.unknowns.slice(0, 200)) pairs.row([unknown.label, ...figureOf(unknown), unknown.unit]);
  if (facts.control.length > 0) {
    pairs.space();
    pairs.widths = [100, 100, 90, 90, 100];
    pairs.head(['Surveyed point', 'strip', 'before', 'after', 'used']);
    for (const c of facts.control)
      pairs.row([c.number, c.strip, c.before.toFixed(3), c.after.toFixed(3), c.isKeptOut ? 'kept out' : 'yes']);
  }
  pairs.space();
  pairs.signature();
  pdf.end();
  return pdf;
}
