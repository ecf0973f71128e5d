import type { Figure, SectionsResource } from '@pampero/contract';
import { formatNumber, GAP } from '@pampero/core/wording';
import { PaperPdf } from './pdf-document.js';
import { INK, RULE, SOFT } from './pdf-parts.js';

interface SheetFacts {
  readonly job: string;
  readonly name: string;
  readonly unit: string;
  readonly exaggeration: number;
  readonly figures: readonly Figure[];
  readonly isStale: boolean;
}

type Section = SectionsResource['sections'][number];

const MARGIN = 42;
/** Sections on a page of A4: two columns of four. */
const [ACROSS, DOWN] = [2, 4];
const COLOURS = ['#6b4a1f', '#0f6a75'] as const;

/** Cross sections on sheets of A4, eight a page, all at one scale, with the areas of each and the volumes on the first. */
export function sectionSheets(body: SectionsResource, facts: SheetFacts): NodeJS.ReadableStream {
  const pdf = new PaperPdf({ size: 'A4', margin: MARGIN, info: { Title: facts.name, Creator: 'Pampero' } });
  const width = pdf.page.width - 2 * MARGIN;
  const perPage = ACROSS * DOWN;
  const scale = scaleOf(body, { width: width / ACROSS - 40, height: HEIGHT - 34 }, facts.exaggeration);
  for (let from = 0; from < Math.max(1, body.sections.length); from += perPage) {
    if (from > 0) pdf.addPage();
    title(pdf, body, facts, from === 0, scale);
    body.sections.slice(from, from + perPage).forEach((section, k) => {
      const x = MARGIN + (k % ACROSS) * (width / ACROSS);
      const y = MARGIN + 96 + Math.floor(k / ACROSS) * (HEIGHT + 14);
      drawSection(pdf, section, { x, y, width: width / ACROSS - 14 }, facts, scale);
    });
  }
  pdf.end();
  return pdf;
}

const HEIGHT = 148;

/** The fonts of a PDF have no thin space. */
const plain = (value: number, decimals: number): string => formatNumber(value, decimals).replaceAll(GAP, ' ');

/** Points of paper a unit, the same for all sections. */
function scaleOf(
  { sections }: SectionsResource,
  room: { width: number; height: number },
  exaggeration: number,
): number {
  let scale = Infinity;
  for (const section of sections) {
    const { low, high, left, right } = extentOf(section);
    if (right > left) scale = Math.min(scale, room.width / (right - left));
    if (high > low) scale = Math.min(scale, room.height / ((high - low) * exaggeration));
  }
  return Number.isFinite(scale) ? scale : 1;
}

function extentOf({ profiles }: Section): { low: number; high: number; left: number; right: number } {
  const heights = profiles.flatMap(({ elevation }) => elevation.filter((z): z is number => z !== null));
  const offsets = profiles.flatMap(({ offset }) => offset);
  const [low, high] = [heights.reduce((a, b) => Math.min(a, b), Infinity), heights.reduce((a, b) => Math.max(a, b), -Infinity)]; // prettier-ignore
  return {
    low: Number.isFinite(low) ? low : 0,
    high: Number.isFinite(high) ? high : 0,
    left: offsets.reduce((a, b) => Math.min(a, b), 0),
    right: offsets.reduce((a, b) => Math.max(a, b), 0),
  };
}

function title(
  pdf: PDFKit.PDFDocument,
  { surfaces }: SectionsResource,
  facts: SheetFacts,
  isFirst: boolean,
  scale: number,
): void {
  // 72 points an inch, 0.0254 m: a unit of the job on paper, where the job is in metres.
  const ratio = Math.round(72 / 0.0254 / scale);
  pdf.font('Helvetica-Bold').fontSize(15).fillColor(INK).text(facts.name, MARGIN, MARGIN);
  pdf.font('Helvetica').fontSize(9).fillColor(SOFT);
  pdf.text(`${facts.job}. ${surfaces.join(' against ')}.${facts.isStale ? ' Stale: what it was made from has changed since.' : ''}`, MARGIN, MARGIN + 20); // prettier-ignore
  pdf.text(`Lengths in ${facts.unit}${facts.unit === 'm' ? `, 1 : ${plain(ratio, 0)} across` : ''}, heights drawn out ${facts.exaggeration} times.`); // prettier-ignore
  if (!isFirst) return;
  const volumes = facts.figures.filter(({ quantity }) => quantity === 'volume');
  pdf.fillColor(INK).text(volumes.map(({ label, value }) => `${label} ${plain(Number(value), 1)} ${facts.unit}³`).join('   ')); // prettier-ignore
}

function drawSection(
  pdf: PDFKit.PDFDocument,
  section: Section,
  { x, y, width }: { x: number; y: number; width: number },
  { unit, exaggeration }: SheetFacts,
  scale: number,
): void {
  const { low, left, right } = extentOf(section);
  const level = Math.floor(low);
  const base = y + HEIGHT - 16;
  const centre = x + width / 2 - ((left + right) / 2) * scale;
  const px = (offset: number): number => centre + offset * scale;
  const py = (z: number): number => base - (z - level) * scale * exaggeration;
  pdf.lineWidth(0.4).strokeColor(RULE);
  pdf.moveTo(x, base).lineTo(x + width, base).stroke(); // prettier-ignore
  pdf.dash(2, { space: 2 }).moveTo(px(0), y + 12).lineTo(px(0), base).stroke().undash(); // prettier-ignore
  section.profiles.forEach(({ offset, elevation }, s) => {
    pdf.lineWidth(s === 0 ? 0.9 : 0.7).strokeColor(COLOURS[s % COLOURS.length]!);
    let isDown = false;
    offset.forEach((at, k) => {
      const z = elevation[k];
      if (z === null || z === undefined) isDown = false;
      else {
        if (isDown) pdf.lineTo(px(at), py(z));
        else pdf.moveTo(px(at), py(z));
        isDown = true;
      }
    });
    pdf.stroke();
  });
  pdf
    .font('Helvetica-Bold')
    .fontSize(9)
    .fillColor(INK)
    .text(`${section.station.toFixed(2)}`, x, y, { lineBreak: false });
  const areas = section.cut === undefined || section.fill === undefined ? '' : `cut ${section.cut.toFixed(2)}  fill ${section.fill.toFixed(2)} ${unit}²`; // prettier-ignore
  pdf
    .font('Helvetica')
    .fontSize(8)
    .fillColor(SOFT)
    .text(areas, x + 60, y + 1, { width: width - 60, align: 'right', lineBreak: false });
  pdf.fontSize(7).text(`${level}`, x, base - 8, { lineBreak: false });
  for (const at of [left, 0, right])
    pdf.text(at.toFixed(0), px(at) - 15, base + 3, { width: 30, align: 'center', lineBreak: false });
}
