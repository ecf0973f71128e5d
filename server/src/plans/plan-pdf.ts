import type { FeatureCode } from '@pampero/core/lines';
import { contourLabels, type ContourLabel, type ContourSet } from '@pampero/core/contours';
import { clipLine, landPerMillimetre, roundPlaces, roundUnder, type PlanSheet } from '@pampero/core/plans';
import type { PlanBounds } from '@pampero/core/raster';
import { formatNumber } from '@pampero/core/wording';
import { PaperPdf } from '../products/pdf-document.js';
import { placePage } from './geo-page.js';
import type { PlanLayout } from './plan-layout.js';
import type { PlanSetting } from './plan-setting.js';
import { drawStrip } from './plan-strip.js';
import { DASHES, drawControlMark, MM, PLAN_STYLE } from './plan-style.js';

/** Of elevations along contours, and of numbers beside points, millimetres. */
const [CONTOUR_TEXT, POINT_TEXT] = [1.7, 1.6];
const LABELS_APART = 110;
/** Grid lines lie so far apart on paper or a little closer, millimetres. */
const GRID = 100;
const CROSS = 2.5;
/** Vertices nearer than this on paper are one, millimetres. */
const FINEST = 0.06;
const PALE = 0.62;

/** A plan to scale, a sheet a page. */
export async function planPdf(setting: PlanSetting): Promise<PDFKit.PDFDocument> {
  const { layout, content, words, system } = setting;
  const size: [number, number] = [layout.paper.width * MM, layout.paper.height * MM];
  const pdf = new PaperPdf({
    size,
    margin: 0,
    autoFirstPage: false,
    info: { Title: words.title, Creator: 'Pampero' },
  });
  const perMillimetre = landPerMillimetre(layout.scale, setting.metresPerUnit);
  const step = roundUnder(GRID * perMillimetre * 1.0001);
  const contours = content.contours.map(({ set, decimals }) => ({
    set,
    decimals,
    bounds: lineBounds(set),
    labels: contourLabels(set, {
      textHeight: CONTOUR_TEXT * perMillimetre,
      spacing: LABELS_APART * perMillimetre,
      decimals,
      reading: 'from-below',
    }),
  }));
  for (const sheet of layout.sheets) {
    pdf.addPage({ size, margin: 0 });
    const map = new SheetMap(pdf, layout, sheet);
    const jpeg = await setting.pictureOf(sheet.window);
    map.clipped(() => {
      if (jpeg) map.picture(jpeg);
      for (const each of contours) {
        map.contours(each.set, each.bounds);
        for (const label of each.labels) map.contourLabel(label, each.decimals);
      }
      for (const { of, lines } of content.lines)
        for (const { easting, northing, isClosed } of lines) map.line(easting, northing, isClosed, of);
      for (const { easting, northing, number, elevation } of content.spots)
        map.spot(easting, northing, number, elevation.toFixed(content.spotDecimals));
      for (const { easting, northing, number, elevation, role } of content.control)
        map.control(easting, northing, `${number}  ${elevation.toFixed(3)}`, role);
      map.grid(step);
    });
    map.frame(step);
    drawStrip(pdf, setting, sheet);
    if (system) placePage(pdf, layout.paper.map, sheet.window, system);
  }
  pdf.end();
  return pdf;
}

/** West, south, east and north of each line. */
function lineBounds({ level, starts, easting, northing }: ContourSet): Float64Array {
  const out = new Float64Array(4 * level.length);
  for (let l = 0; l < level.length; l++) {
    let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let v = starts[l]!; v < starts[l + 1]!; v++) {
      west = Math.min(west, easting[v]!);
      east = Math.max(east, easting[v]!);
      south = Math.min(south, northing[v]!);
      north = Math.max(north, northing[v]!);
    }
    out.set([west, south, east, north], 4 * l);
  }
  return out;
}

/** The map of one sheet: land to paper. */
class SheetMap {
  private readonly window: PlanBounds;
  private readonly perUnit: number;

  constructor(
    private readonly pdf: PDFKit.PDFDocument,
    private readonly layout: PlanLayout,
    { window }: PlanSheet,
  ) {
    this.window = window;
    this.perUnit = (layout.paper.map.width * MM) / (window.east - window.west);
  }

  private x(east: number): number {
    return this.layout.paper.map.x * MM + (east - this.window.west) * this.perUnit;
  }

  private y(north: number): number {
    return this.layout.paper.map.y * MM + (this.window.north - north) * this.perUnit;
  }

  private isInside(east: number, north: number): boolean {
    const { west, south, east: e, north: n } = this.window;
    return east >= west && east <= e && north >= south && north <= n;
  }

  clipped(draw: () => void): void {
    const { x, y, width, height } = this.layout.paper.map;
    this.pdf.save();
    this.pdf.rect(x * MM, y * MM, width * MM, height * MM).clip();
    draw();
    this.pdf.restore();
  }

  picture(jpeg: Buffer): void {
    const { x, y, width, height } = this.layout.paper.map;
    this.pdf.save();
    this.pdf.opacity(PALE).image(jpeg, x * MM, y * MM, { width: width * MM, height: height * MM });
    this.pdf.restore();
  }

  contours({ level, starts, easting, northing, isIndex, isObscured }: ContourSet, bounds: Float64Array): void {
    const { west, south, east, north } = this.window;
    for (let l = 0; l < level.length; l++) {
      const [w, s, e, n] = bounds.subarray(4 * l, 4 * l + 4) as unknown as [number, number, number, number];
      if (e < west || w > east || n < south || s > north) continue;
      this.pen(
        PLAN_STYLE.contour,
        isIndex[l] === 1 ? PLAN_STYLE.index : PLAN_STYLE.intermediate,
        isObscured[l] === 1 ? [1.4, 0.9] : [],
      );
      this.path(easting, northing, starts[l]!, starts[l + 1]!);
    }
  }

  contourLabel({ easting, northing, level, degrees }: ContourLabel, decimals: number): void {
    if (!this.isInside(easting, northing)) return;
    const text = level.toFixed(decimals);
    const size = CONTOUR_TEXT * MM;
    this.pdf.font('Helvetica').fontSize(size / 0.72); // figures are 0.72 of the size high
    const width = this.pdf.widthOfString(text);
    this.pdf.save();
    this.pdf.translate(this.x(easting), this.y(northing)).rotate(-degrees);
    this.pdf.rect(-width / 2 - 0.5 * MM, -size * 0.62, width + MM, size * 1.24).fill('#ffffff');
    this.pdf.fillColor(PLAN_STYLE.contour).text(text, -width / 2, -size * 0.62, { lineBreak: false });
    this.pdf.restore();
  }

  line(
    easting: ArrayLike<number>,
    northing: ArrayLike<number>,
    isClosed: boolean,
    { colour, style, opacity }: Pick<FeatureCode, 'colour' | 'style' | 'opacity'>,
  ): void {
    this.pen(colour, PLAN_STYLE.line, DASHES[style] ?? [], opacity);
    const count = easting.length;
    this.path(easting, northing, 0, count);
    if (isClosed && count > 2)
      this.path([easting[count - 1]!, easting[0]!], [northing[count - 1]!, northing[0]!], 0, 2);
  }

  spot(east: number, north: number, number: string, elevation: string): void {
    if (!this.isInside(east, north)) return;
    const [x, y] = [this.x(east), this.y(north)];
    this.pen(PLAN_STYLE.spot, 0.15, []);
    this.pdf.moveTo(x - MM / 2, y).lineTo(x + MM / 2, y).moveTo(x, y - MM / 2).lineTo(x, y + MM / 2).stroke(); // prettier-ignore
    this.text(elevation, x + 0.8 * MM, y - 1.7 * MM, POINT_TEXT, PLAN_STYLE.spot);
    this.text(number, x + 0.8 * MM, y + 0.2 * MM, POINT_TEXT * 0.8, PLAN_STYLE.soft);
  }

  control(east: number, north: number, said: string, role: 'control' | 'check'): void {
    if (!this.isInside(east, north)) return;
    const [x, y] = [this.x(east), this.y(north)];
    this.pdf.save();
    drawControlMark(this.pdf, x, y, role);
    this.pdf.restore();
    this.text(said, x + 1.8 * MM, y - 2.6 * MM, POINT_TEXT * 1.1, PLAN_STYLE.control, true);
  }

  /** Crosses at round coordinates. */
  grid(step: number): void {
    const { west, south, east, north } = this.window;
    this.pen(PLAN_STYLE.ink, 0.13, []);
    const arm = CROSS * MM;
    for (const e of roundPlaces(west, east, step))
      for (const n of roundPlaces(south, north, step)) {
        const [x, y] = [this.x(e), this.y(n)];
        this.pdf.moveTo(x - arm, y).lineTo(x + arm, y).moveTo(x, y - arm).lineTo(x, y + arm).stroke(); // prettier-ignore
      }
  }

  /** The edge of the map, with the coordinates of the grid along it. */
  frame(step: number): void {
    const { map } = this.layout.paper;
    const { west, south, east, north } = this.window;
    const decimals = step >= 1 ? 0 : 1;
    for (const e of roundPlaces(west, east, step)) {
      const x = this.x(e);
      this.tick(x, map.y * MM, x, (map.y + 2) * MM);
      this.tick(x, (map.y + map.height) * MM, x, (map.y + map.height - 2) * MM);
      if (e - west > step * 0.08 && east - e > step * 0.08)
        this.label(`${formatNumber(e, decimals)} E`, x, (map.y + map.height - 3.6) * MM, 0);
    }
    for (const n of roundPlaces(south, north, step)) {
      const y = this.y(n);
      this.tick(map.x * MM, y, (map.x + 2) * MM, y);
      this.tick((map.x + map.width) * MM, y, (map.x + map.width - 2) * MM, y);
      if (n - south > step * 0.12 && north - n > step * 0.12)
        this.label(`${formatNumber(n, decimals)} N`, (map.x + 3.6) * MM, y, -90);
    }
    this.pdf
      .undash()
      .lineWidth(0.5 * MM)
      .strokeColor(PLAN_STYLE.ink);
    this.pdf.rect(map.x * MM, map.y * MM, map.width * MM, map.height * MM).stroke();
  }

  private tick(x1: number, y1: number, x2: number, y2: number): void {
    this.pen(PLAN_STYLE.ink, 0.25, []);
    this.pdf.moveTo(x1, y1).lineTo(x2, y2).stroke();
  }

  /** Words in the middle of a place, on white, turned. */
  private label(words: string, x: number, y: number, degrees: number): void {
    const text = words;
    this.pdf.font('Helvetica').fontSize(6.2);
    const width = this.pdf.widthOfString(text);
    this.pdf.save();
    this.pdf.translate(x, y).rotate(degrees);
    this.pdf
      .rect(-width / 2 - 1.5, -3.6, width + 3, 7.2)
      .fillOpacity(0.85)
      .fill('#ffffff')
      .fillOpacity(1);
    this.pdf.fillColor(PLAN_STYLE.ink).text(text, -width / 2, -2.8, { lineBreak: false });
    this.pdf.restore();
  }

  private text(words: string, x: number, y: number, millimetres: number, colour: string, onWhite = false): void {
    const text = words;
    this.pdf.font('Helvetica').fontSize((millimetres * MM) / 0.72);
    if (onWhite) {
      const width = this.pdf.widthOfString(text);
      this.pdf
        .rect(x - 1, y, width + 2, millimetres * MM * 1.3)
        .fillOpacity(0.75)
        .fill('#ffffff')
        .fillOpacity(1);
    }
    this.pdf.fillColor(colour).text(text, x, y, { lineBreak: false });
  }

  private pen(colour: string, width: number, dashes: readonly number[], opacity = 1): void {
    this.pdf
      .strokeColor(colour)
      .strokeOpacity(opacity)
      .lineWidth(width * MM)
      .lineJoin('round')
      .lineCap('butt');
    if (dashes.length === 0) this.pdf.undash();
    else this.pdf.dash(dashes.map((length) => length * MM) as never, {});
  }

  private path(easting: ArrayLike<number>, northing: ArrayLike<number>, from: number, to: number): void {
    const pieces = clipLine(easting, northing, this.window, from, to);
    for (const piece of pieces) {
      let [lastX, lastY] = [this.x(piece[0]!), this.y(piece[1]!)];
      this.pdf.moveTo(lastX, lastY);
      for (let v = 2; v < piece.length; v += 2) {
        const [x, y] = [this.x(piece[v]!), this.y(piece[v + 1]!)];
        if (v + 2 < piece.length && Math.hypot(x - lastX, y - lastY) < FINEST * MM) continue;
        this.pdf.lineTo(x, y);
        [lastX, lastY] = [x, y];
      }
    }
    if (pieces.length > 0) this.pdf.stroke();
  }
}
