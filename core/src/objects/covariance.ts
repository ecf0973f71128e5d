import { NeighbourGrid, RANGES, type Places } from '../cleaning/neighbour-grid.js';

/** A symmetric 3 x 3 matrix. */
export type Symmetric = readonly [xx: number, xy: number, xz: number, yy: number, yz: number, zz: number];

/** How the points about a place are spread: their number and the covariance of their coordinates. */
export interface Spread {
  readonly count: number;
  readonly covariance: Symmetric;
  /** Their mean, from the place. */
  readonly mean: readonly [number, number, number];
}

/**
 * Visits the places asked about with the spread of the points within a radius of each, in the grid's order.
 * @param isAsked - 1 for places that are asked about
 */
export function eachSpread(
  places: Places,
  radius: number,
  isAsked: Uint8Array,
  visit: (index: number, spread: Spread) => void,
): void {
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (isAsked[i] === 0) continue;
    const px = x[k]!;
    const py = y[k]!;
    const pz = z[k]!;
    let [n, sx, sy, sz, xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0];
    const used = grid.around(px, py, pz, ranges);
    for (let r = 0; r < used; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const dz = z[j]! - pz;
        if (dx * dx + dy * dy + dz * dz > limit) continue;
        n++;
        sx += dx;
        sy += dy;
        sz += dz;
        xx += dx * dx;
        xy += dx * dy;
        xz += dx * dz;
        yy += dy * dy;
        yz += dy * dz;
        zz += dz * dz;
      }
    }
    visit(i, {
      count: n,
      mean: [sx / n, sy / n, sz / n],
      covariance: [
        xx / n - (sx / n) ** 2,
        xy / n - (sx * sy) / n / n,
        xz / n - (sx * sz) / n / n,
        yy / n - (sy / n) ** 2,
        yz / n - (sy * sz) / n / n,
        zz / n - (sz / n) ** 2,
      ],
    });
  }
}

/** Of a symmetric 3 x 3 matrix, least first (Smith 1961, Communications of the ACM 4(4), 168). */
export function eigenvalues([xx, xy, xz, yy, yz, zz]: Symmetric): [number, number, number] {
  const off = xy * xy + xz * xz + yz * yz;
  const mean = (xx + yy + zz) / 3;
  const spread = Math.sqrt(((xx - mean) ** 2 + (yy - mean) ** 2 + (zz - mean) ** 2 + 2 * off) / 6);
  if (spread === 0) return [mean, mean, mean];
  const [a, b, c] = [(xx - mean) / spread, (yy - mean) / spread, (zz - mean) / spread];
  const [d, e, f] = [xy / spread, xz / spread, yz / spread];
  const half = (a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)) / 2;
  const angle = Math.acos(Math.max(-1, Math.min(1, half))) / 3;
  const most = mean + 2 * spread * Math.cos(angle);
  const least = mean + 2 * spread * Math.cos(angle + (2 * Math.PI) / 3);
  return [Math.max(0, least), 3 * mean - most - least, most];
}
