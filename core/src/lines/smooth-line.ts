import { cornerAt, cornerBetween, shapeOf, sourceNumber, type Corner, type LineShape } from './line-shape.js';

/**
 * Rounds corners: each is replaced by a parabola (a quadratic Bézier curve) from a place on the leg before it to one on the leg after
 * it, as far out as the curve stays within the tolerance of the corner, half the shorter leg at most. Ends stay. In plan and in
 * elevation alike.
 * @param tolerance - how far the curve may leave a corner; job units
 * @param chord - how far a leg of what comes out may lie from the curve; job units
 */
export function smoothLine(line: LineShape, tolerance: number, chord = tolerance / 5): LineShape {
  const count = line.easting.length;
  if (count < 3) return line;
  const out: Corner[] = [];
  for (let k = 0; k < count; k++) {
    const here = cornerAt(line, k);
    if (!line.isClosed && (k === 0 || k === count - 1)) {
      out.push(here);
      continue;
    }
    const [before, after] = [cornerAt(line, (k + count - 1) % count), cornerAt(line, (k + 1) % count)];
    out.push(...rounded(before, here, after, tolerance, chord));
  }
  return shapeOf(out, line.isClosed);
}

function rounded(before: Corner, here: Corner, after: Corner, tolerance: number, chord: number): Corner[] {
  const lengths = [before, after].map(({ e, n }) => Math.hypot(e - here.e, n - here.n)) as [number, number];
  const shorter = Math.min(...lengths) / 2;
  if (shorter === 0) return [here];
  const place = (reach: number): [Corner, Corner] => [
    cornerBetween(here, before, reach / lengths[0]),
    cornerBetween(here, after, reach / lengths[1]),
  ];
  // The curve passes the corner at (a + b − 2c) / 4, which grows evenly with the reach.
  const off = ([a, b]: readonly [Corner, Corner]): number =>
    Math.hypot(a.e + b.e - 2 * here.e, a.n + b.n - 2 * here.n, zOff(a, b, here)) / 4;
  const most = off(place(shorter));
  if (most < 1e-9) return [here];
  const reach = Math.min(shorter, (shorter * tolerance) / most);
  const [a, b] = place(reach);
  // A chord of one of m equal pieces lies |a + b − 2c| / 4 m² from a parabola at most.
  const pieces = Math.max(2, Math.ceil(Math.sqrt(off([a, b]) / chord)));
  return Array.from({ length: pieces + 1 }, (_, p) => {
    const t = p / pieces;
    const at = (one: number, two: number, three: number): number =>
      (1 - t) ** 2 * one + 2 * t * (1 - t) * two + t ** 2 * three;
    const z = at(a.z, here.z, b.z);
    return { e: at(a.e, here.e, b.e), n: at(a.n, here.n, b.n), z, source: sourceNumber('between') };
  });
}

function zOff(a: Corner, b: Corner, here: Corner): number {
  const dz = a.z + b.z - 2 * here.z;
  return Number.isNaN(dz) ? 0 : dz;
}
