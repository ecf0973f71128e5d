import { landPerMillimetre, roundUnder, type PaperBox, type PlanSheet } from '@pampero/core/plans';
import { formatNumber } from '@pampero/core/wording';
import type { PlanSetting } from './plan-setting.js';
import { DASHES, drawControlMark, MM, PLAN_STYLE } from './plan-style.js';

const ROW = 4.3;
const PAD = 2.5;
/** Widths of title block and scale at most, millimetres. */
const [TITLE, MIDDLE] = [110, 76];

/** Legend, scale bar and title block at the foot of a sheet. */
export function drawStrip(pdf: PDFKit.PDFDocument, setting: PlanSetting, sheet: PlanSheet): void {
  const { strip } = setting.layout.paper;
  const title = Math.min(TITLE, strip.width * 0.42);
  const middle = Math.min(MIDDLE, strip.width * 0.29);
  const [titleBox, middleBox, legendBox] = [
    { ...strip, x: strip.x + strip.width - title, width: title },
    { ...strip, x: strip.x + strip.width - title - middle, width: middle },
    { ...strip, width: strip.width - title - middle },
  ];
  pdf
    .undash()
    .lineWidth(0.5 * MM)
    .strokeColor(PLAN_STYLE.ink);
  for (const box of [titleBox, middleBox, legendBox])
    pdf.rect(box.x * MM, box.y * MM, box.width * MM, box.height * MM).stroke();
  drawLegend(pdf, setting, legendBox);
  drawScale(pdf, setting, sheet, middleBox);
  drawTitle(pdf, setting, sheet, titleBox);
}

interface Sample {
  readonly words: string;
  readonly draw: (x: number, y: number, width: number) => void;
}

function drawLegend(pdf: PDFKit.PDFDocument, { content, words }: PlanSetting, box: PaperBox): void {
  const stroke =
    (colour: string, width: number, dashes: readonly number[] = [], opacity = 1) =>
    (x: number, y: number, wide: number) => {
      pdf
        .strokeColor(colour)
        .strokeOpacity(opacity)
        .lineWidth(width * MM);
      if (dashes.length === 0) pdf.undash();
      else pdf.dash(dashes.map((length) => length * MM) as never, {});
      pdf
        .moveTo(x, y)
        .lineTo(x + wide, y)
        .stroke()
        .undash()
        .strokeOpacity(1);
    };
  const roles = new Set(content.control.map(({ role }) => role));
  const samples: Sample[] = [
    ...content.contours.flatMap(({ set, interval, decimals }) => [
      {
        words: `Contours every ${interval.toFixed(decimals)} ${words.unit}`,
        draw: stroke(PLAN_STYLE.contour, PLAN_STYLE.intermediate),
      },
      ...(set.isIndex.includes(1)
        ? [{ words: 'Index contours', draw: stroke(PLAN_STYLE.contour, PLAN_STYLE.index) }]
        : []),
      ...(set.isObscured.includes(1)
        ? [
            {
              words: 'Contours where few points lie',
              draw: stroke(PLAN_STYLE.contour, PLAN_STYLE.intermediate, [1.4, 0.9]),
            },
          ]
        : []),
    ]),
    ...content.lines
      .filter(({ lines }) => lines.length > 0)
      .map(({ of }) => ({
        words: of.meaning || of.code,
        draw: stroke(of.colour, PLAN_STYLE.line, DASHES[of.style], of.opacity),
      })),
    ...(['control', 'check'] as const)
      .filter((role) => roles.has(role))
      .map((role) => ({
        words: role === 'control' ? 'Control point' : 'Check point',
        draw: (x: number, y: number, wide: number) => drawControlMark(pdf, x + wide / 2, y, role),
      })),
    ...(content.spots.length > 0
      ? [
          {
            words: 'Point with elevation and number',
            draw: (x: number, y: number, wide: number) => {
              pdf.strokeColor(PLAN_STYLE.spot).lineWidth(0.15 * MM);
              const middle = x + wide / 2;
              pdf
                .moveTo(middle - MM, y)
                .lineTo(middle + MM, y)
                .moveTo(middle, y - MM)
                .lineTo(middle, y + MM)
                .stroke();
            },
          },
        ]
      : []),
  ];
  heading(pdf, 'Legend', box);
  const noteRows = words.note ? 3 : 0;
  const rows = Math.max(1, Math.floor((box.height - PAD - 5 - noteRows * 3.2) / ROW));
  const columns = Math.max(1, Math.min(Math.floor(box.width / 52), Math.ceil(samples.length / rows)));
  const room = rows * columns;
  const shown = samples.length > room ? samples.slice(0, room - 1) : samples;
  const wide = (box.width - 2 * PAD) / columns;
  const at = (k: number): [number, number] => [
    box.x + PAD + Math.floor(k / rows) * wide,
    box.y + PAD + 5.5 + (k % rows) * ROW,
  ];
  shown.forEach(({ words: said, draw }, k) => {
    const [x, y] = at(k);
    draw(x * MM, y * MM, 9 * MM);
    write(pdf, said, x + 11, y - 1.3, wide - 12, 7);
  });
  if (shown.length < samples.length) {
    const [x, y] = at(room - 1);
    write(pdf, `and ${samples.length - shown.length} more`, x + 11, y - 1.3, wide - 12, 7, PLAN_STYLE.soft);
  }
  if (words.note)
    paragraph(pdf, words.note, box.x + PAD, box.y + box.height - noteRows * 3.2 - 1, box.width - 2 * PAD, 6.8);
}

/** Scale as a ratio and as a bar, north, the coordinate system, and where the sheet lies among the others. */
function drawScale(pdf: PDFKit.PDFDocument, setting: PlanSetting, sheet: PlanSheet, box: PaperBox): void {
  const { layout, words, metresPerUnit } = setting;
  const perMillimetre = landPerMillimetre(layout.scale, metresPerUnit);
  write(
    pdf,
    `1 : ${formatNumber(layout.scale, 0)}`,
    box.x + PAD,
    box.y + PAD,
    box.width * 0.5,
    13,
    PLAN_STYLE.ink,
    'Helvetica-Bold',
  );
  write(pdf, `at ${words.paper}`, box.x + PAD, box.y + PAD + 5.4, box.width * 0.5, 6.8, PLAN_STYLE.soft);
  // Bar of four pieces.
  const length = roundUnder((box.width - 16) * perMillimetre);
  const [x, y, wide] = [box.x + PAD + 1, box.y + 15.5, length / perMillimetre];
  for (let k = 0; k < 4; k++) {
    pdf.lineWidth(0.2 * MM).strokeColor(PLAN_STYLE.ink);
    pdf.rect((x + (k * wide) / 4) * MM, y * MM, (wide / 4) * MM, 1.6 * MM);
    if (k % 2 === 0) pdf.fillAndStroke(PLAN_STYLE.ink, PLAN_STYLE.ink);
    else pdf.fillAndStroke('#ffffff', PLAN_STYLE.ink);
  }
  const decimals = length >= 4 ? (Number.isInteger(length / 2) ? 0 : 1) : 2;
  for (const share of [0, 0.5, 1])
    centred(
      pdf,
      `${formatNumber(length * share, decimals)}${share === 1 ? ` ${words.unit}` : ''}`,
      x + wide * share,
      y + 2.3,
      6.2,
    );
  drawNorth(pdf, box.x + box.width - 9, box.y + 3);
  paragraph(
    pdf,
    `${words.system}\nCoordinates and elevations in ${words.unit}. North is grid north.`,
    box.x + PAD,
    box.y + 23.5,
    box.width - 2 * PAD - (layout.sheets.length > 1 ? 20 : 0),
    6.4,
  );
  if (layout.sheets.length > 1) drawKey(pdf, setting, sheet, box);
}

/** All sheets as small boxes, this one filled. */
function drawKey(pdf: PDFKit.PDFDocument, { layout }: PlanSetting, sheet: PlanSheet, box: PaperBox): void {
  const { columns, rows, sheets, paper } = layout;
  const ratio = paper.map.width / paper.map.height;
  const wide = Math.min(18 / columns, (17 / rows) * ratio);
  const high = wide / ratio;
  const [left, top] = [box.x + box.width - PAD - columns * wide, box.y + box.height - PAD - rows * high];
  sheets.forEach((each, k) => {
    const [x, y] = [left + (k % columns) * wide, top + Math.floor(k / columns) * high];
    pdf
      .lineWidth(0.2 * MM)
      .strokeColor(PLAN_STYLE.ink)
      .rect(x * MM, y * MM, wide * MM, high * MM);
    if (each.name === sheet.name) pdf.fillAndStroke(PLAN_STYLE.ink, PLAN_STYLE.ink);
    else pdf.stroke();
  });
}

function drawNorth(pdf: PDFKit.PDFDocument, x: number, y: number): void {
  const [cx, top] = [x * MM, y * MM];
  pdf.lineWidth(0.25 * MM).strokeColor(PLAN_STYLE.ink);
  pdf.moveTo(cx, top + 3.2 * MM).lineTo(cx - 1.7 * MM, top + 10 * MM).lineTo(cx, top + 8.4 * MM).closePath().fillAndStroke(PLAN_STYLE.ink, PLAN_STYLE.ink); // prettier-ignore
  pdf.moveTo(cx, top + 3.2 * MM).lineTo(cx + 1.7 * MM, top + 10 * MM).lineTo(cx, top + 8.4 * MM).closePath().stroke(); // prettier-ignore
  centred(pdf, 'N', x, y - 0.4, 8, 'Helvetica-Bold');
}

function drawTitle(pdf: PDFKit.PDFDocument, { words, layout }: PlanSetting, sheet: PlanSheet, box: PaperBox): void {
  const [x, wide] = [box.x + PAD, box.width - 2 * PAD];
  paragraph(pdf, words.title, x, box.y + PAD, wide, 13, PLAN_STYLE.ink, 'Helvetica-Bold', 11);
  if (words.job !== words.title) write(pdf, words.job, x, box.y + 14, wide, 8, PLAN_STYLE.soft);
  const cells: readonly (readonly [string, string])[] = [
    ['Client', words.client],
    ['Drawing', words.number],
    ['Drawn by', words.drawnBy],
    ['Drawn on', words.drawnOn],
    ['Checked, signed', ''],
    [
      'Sheet',
      layout.sheets.length === 1
        ? '1 of 1'
        : `${sheet.name}, ${layout.sheets.indexOf(sheet) + 1} of ${layout.sheets.length}`,
    ],
  ];
  const top = box.y + 18.5;
  const high = (box.height - 18.5 - 4.6) / 3;
  pdf.lineWidth(0.18 * MM).strokeColor(PLAN_STYLE.ink);
  cells.forEach(([label, value], k) => {
    const [cx, cy] = [box.x + (k % 2) * (box.width / 2), top + Math.floor(k / 2) * high];
    pdf.rect(cx * MM, cy * MM, (box.width / 2) * MM, high * MM).stroke();
    write(pdf, label, cx + 1.2, cy + 0.7, box.width / 2 - 2, 5.2, PLAN_STYLE.soft);
    write(pdf, value, cx + 1.2, cy + high / 2 - 0.6, box.width / 2 - 2, 8);
  });
  write(
    pdf,
    `${words.isStale ? 'STALE: what it was drawn from has changed. ' : ''}${words.source}`,
    x,
    box.y + box.height - 3.4,
    wide,
    5.2,
    PLAN_STYLE.soft,
  );
}

function heading(pdf: PDFKit.PDFDocument, words: string, box: PaperBox): void {
  write(pdf, words, box.x + PAD, box.y + 1.6, box.width - 2 * PAD, 6.8, PLAN_STYLE.soft, 'Helvetica-Bold');
}

/** One line, cut where it has no room. Places and widths in millimetres, sizes in points. */
function write(
  pdf: PDFKit.PDFDocument,
  words: string,
  x: number,
  y: number,
  width: number,
  size: number,
  colour: string = PLAN_STYLE.ink,
  font = 'Helvetica',
): void {
  pdf.font(font).fontSize(size).fillColor(colour);
  let text = words;
  if (pdf.widthOfString(text) > width * MM) {
    while (text.length > 1 && pdf.widthOfString(`${text}…`) > width * MM) text = text.slice(0, -1);
    text = `${text.trimEnd()}…`;
  }
  pdf.text(text, x * MM, y * MM, { lineBreak: false });
}

function centred(pdf: PDFKit.PDFDocument, words: string, x: number, y: number, size: number, font = 'Helvetica'): void {
  const text = words;
  pdf.font(font).fontSize(size).fillColor(PLAN_STYLE.ink);
  pdf.text(text, x * MM - pdf.widthOfString(text) / 2, y * MM, { lineBreak: false });
}

/** Several lines; `height` cuts what has no room. */
function paragraph(
  pdf: PDFKit.PDFDocument,
  words: string,
  x: number,
  y: number,
  width: number,
  size: number,
  colour: string = PLAN_STYLE.ink,
  font = 'Helvetica',
  height?: number,
): void {
  pdf.font(font).fontSize(size).fillColor(colour);
  pdf.text(words, x * MM, y * MM, {
    width: width * MM,
    ...(height !== undefined && { height: height * MM, ellipsis: true }),
  });
}
