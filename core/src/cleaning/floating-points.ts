import { columnFrom } from '../columns/index.js';
import { PlaneSums } from '../measuring/index.js';
import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';

export interface FloatingOptions {
  /** Surface about a point that it is held against, job units. */
  readonly radius: number;
  /** Nearer to the surface than this, a point belongs to it, job units. */
  readonly within: number;
  /** Share of the points about it that must lie on one plane, for the surface to be a hard one. */
  readonly hardness: number;
}

/** Points a plane is fitted to at least. */
const LEAST_POINTS = 8;
const REFITS = 3;

/**
 * Points that float about a hard surface, above or below: most of what lies about them is on one plane, and they are not. The
 * plane is fitted by least squares in height, three times, each time to what lay near the last (trimmed least squares; common
 * practice, no source).
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 * @returns of each judged point 1 where it floats
 */
export function floatingPoints(
  places: Places,
  { radius, within, hardness }: FloatingOptions,
  count = places.count,
): Uint8Array {
  const out = new Uint8Array(count);
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  const near = new Uint32Array(4096);
  const sums = new PlaneSums();
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (i >= count) continue;
    const px = x[k]!;
    const py = y[k]!;
    const pz = z[k]!;
    let found = 0;
    const used = grid.around(px, py, pz, ranges);
    for (let r = 0; r < used && found < near.length; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end && found < near.length; j++) {
        if (j === k) continue;
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const dz = z[j]! - pz;
        if (dx * dx + dy * dy + dz * dz <= limit) near[found++] = j;
      }
    }
    if (found < LEAST_POINTS) continue;
    let plane = { east: 0, north: 0, level: medianHeight(near, found, z) - pz };
    for (let fit = 0; fit < REFITS; fit++) {
      sums.clear();
      // The first fit takes a thicker layer, since the surface may slope.
      const reach = fit === 0 ? radius / 2 : within;
      for (let m = 0; m < found; m++) {
        const j = near[m]!;
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const dz = z[j]! - pz;
        if (Math.abs(dz - plane.level - plane.east * dx - plane.north * dy) <= reach) sums.add(dx, dy, dz);
      }
      if (sums.count < LEAST_POINTS) break;
      const fitted = sums.plane(1e-9 * limit * limit * sums.count * sums.count);
      if (!fitted) break;
      plane = fitted;
    }
    if (sums.count < LEAST_POINTS || sums.count < hardness * found) continue;
    const distance = Math.abs(plane.level) / Math.sqrt(1 + plane.east ** 2 + plane.north ** 2);
    if (distance > within) out[i] = 1;
  }
  return out;
}

function medianHeight(near: Uint32Array, found: number, z: Float64Array): number {
  const heights = columnFrom(Float64Array, { length: found }, (_, m) => z[near[m]!]!).sort();
  return heights[found >> 1]!;
}
