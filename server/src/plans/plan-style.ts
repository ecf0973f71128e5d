export const MM = 72 / 25.4;
/** Inks and widths, millimetres. */
export const PLAN_STYLE = {
  ink: '#1c262d',
  soft: '#5d6a70',
  contour: '#8a5a2b',
  control: '#b4231f',
  spot: '#22577a',
  index: 0.35,
  intermediate: 0.16,
  line: 0.32,
} as const;
export const DASHES: Readonly<Record<string, readonly number[]>> = {
  solid: [],
  dashed: [2.2, 1.3],
  dotted: [0.35, 1],
  'dash-dot': [3, 1, 0.5, 1],
};

/** A triangle for control, a ring for a check point, each about its place. */
export function drawControlMark(pdf: PDFKit.PDFDocument, x: number, y: number, role: 'control' | 'check'): void {
  pdf
    .undash()
    .lineWidth(0.3 * MM)
    .strokeColor(PLAN_STYLE.control);
  if (role === 'control')
    pdf.polygon([x, y - 1.5 * MM], [x - 1.3 * MM, y + 0.8 * MM], [x + 1.3 * MM, y + 0.8 * MM]).stroke();
  else pdf.circle(x, y, 1.1 * MM).stroke();
  pdf.circle(x, y, 0.22 * MM).fill(PLAN_STYLE.control);
}
