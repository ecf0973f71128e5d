import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';

export interface LowPointOptions {
  /** Land about a point that it is held against, job units in plan. */
  readonly radius: number;
  /** How far under its surroundings a low point lies, job units. */
  readonly drop: number;
  /** At most this many low points together. */
  readonly largestCluster: number;
}

/** Fewer points than this above it say nothing of where the land is. */
const LEAST_SURROUNDINGS = 3;

/** The land may fall away this steeply about a point without seeming to lie under it: three in ten. */
const FALL = 0.3;

/**
 * Points under the land in small clusters: within a radius in plan few others, itself among them, lie lower than `drop` above
 * it, less what land may fall away over the distance; the rest all lie higher (common practice, no source).
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 * @returns of each judged point 1 where it is low
 */
export function lowPoints(
  places: Places,
  { radius, drop, largestCluster }: LowPointOptions,
  count = places.count,
): Uint8Array {
  const out = new Uint8Array(count);
  const grid = new NeighbourGrid(places, radius, true);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (i >= count) continue;
    const px = x[k]!;
    const py = y[k]!;
    const level = z[k]! + drop;
    let below = 0;
    let above = 0;
    const used = grid.around(px, py, 0, ranges);
    search: for (let r = 0; r < used; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const d = dx * dx + dy * dy;
        if (d > limit) continue;
        if (z[j]! >= level - FALL * Math.sqrt(d)) above++;
        else if (++below > largestCluster) break search;
      }
    }
    if (below <= largestCluster && above >= LEAST_SURROUNDINGS) out[i] = 1;
  }
  return out;
}
