import { cornerAt, cornerBetween, legCount, shapeOf, type Corner, type LineShape } from './line-shape.js';

/** Puts corners in so that no leg is longer than a step in plan; elevations between are interpolated. */
export function densifyLine(line: LineShape, step: number): LineShape {
  const out: Corner[] = [];
  const count = line.easting.length;
  for (let leg = 0; leg < legCount(line); leg++) {
    const [a, b] = [cornerAt(line, leg), cornerAt(line, (leg + 1) % count)];
    const pieces = Math.max(1, Math.ceil(Math.hypot(b.e - a.e, b.n - a.n) / step - 1e-9));
    for (let p = 0; p < pieces; p++) out.push(cornerBetween(a, b, p / pieces));
  }
  if (!line.isClosed && count > 0) out.push(cornerAt(line, count - 1));
  return shapeOf(out, line.isClosed);
}
