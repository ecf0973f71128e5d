import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';

export interface IsolatedOptions {
  /** Neighbours are looked for this near, job units. */
  readonly radius: number;
  /** Fewer than this, and a point is isolated. */
  readonly leastNeighbours: number;
}

/**
 * Points with too few others within a radius (the usual radius outlier test; common practice, no source).
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 * @returns of each judged point 1 where it is isolated
 */
export function isolatedPoints(
  places: Places,
  { radius, leastNeighbours }: IsolatedOptions,
  count = places.count,
): Uint8Array {
  const out = new Uint8Array(count);
  if (leastNeighbours <= 0) return out;
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  for (let k = 0; k < places.count; k++) {
    const i = order[k]!;
    if (i >= count) continue;
    const px = x[k]!;
    const py = y[k]!;
    const pz = z[k]!;
    // The point itself is found too.
    let missing = leastNeighbours + 1;
    const used = grid.around(px, py, pz, ranges);
    search: for (let r = 0; r < used; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const dz = z[j]! - pz;
        if (dx * dx + dy * dy + dz * dz <= limit && --missing === 0) break search;
      }
    }
    if (missing > 0) out[i] = 1;
  }
  return out;
}
