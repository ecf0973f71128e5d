import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';

export interface LowPointOptions {
  /** Land about a point that it is held against, job units in plan. */
  readonly radius: number;
  /** How far under its surroundings a low point lies, job units. */
  readonly drop: number;
  /** At most this many low points together. */
  readonly largestCluster: number;
}

/** The land must lie above a point on so many of its four sides: a sparse water surface between banks is no low point. */
const LEAST_SIDES = 3;
/** So many points at about its level on a side, and it is land that lies there. */
const LAND_FROM = 3;

/** One point in so many is few to look about widely. */
const FEW_OF = 20;

/** The land may fall away this steeply about a point without seeming to lie under it: three in ten. */
const FALL = 0.3;

/**
 * Points under the land in small clusters: within a radius in plan few others, itself among them, lie lower than `drop` above
 * it, less what land may fall away over the distance; and on three sides at least all lies higher (common practice, no source).
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 * @returns of each judged point 1 where it is low
 */
export function lowPoints(
  places: Places,
  { radius, drop, largestCluster }: LowPointOptions,
  count = places.count,
): Uint8Array {
  const out = new Uint8Array(count);
  // Most points have company at their level close by; the few others are held against all that lies about them.
  const near = Math.min(radius, drop / FALL);
  const close = new NeighbourGrid(places, near, true);
  const doubtful = fewBeside(close, near, drop, largestCluster, count);
  const few = doubtful.reduce((sum, bit) => sum + bit, 0);
  if (few === 0) return out;
  // Sorting all of them anew pays where many are asked.
  const reach = close.canReachFar && few * FEW_OF < count ? Math.ceil(radius / near) : 1;
  const grid = reach > 1 || near === radius ? close : new NeighbourGrid(places, radius, true);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  const alike = new Uint32Array(4);
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (i >= count || doubtful[i] === 0) continue;
    const px = x[k]!;
    const py = y[k]!;
    const level = z[k]! + drop;
    let below = 0;
    let higher = 0;
    alike.fill(0);
    const about = reach > 1 ? grid.aroundWide(px, py, 0, reach) : ranges;
    const used = reach > 1 ? about.length : grid.around(px, py, 0, ranges);
    search: for (let r = 0; r < used; r += 2) {
      const end = about[r + 1]!;
      for (let j = about[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const d = dx * dx + dy * dy;
        if (d > limit) continue;
        const height = z[j]!;
        const side = (dx >= 0 ? 0 : 2) + (dy >= 0 ? 0 : 1);
        if (height >= level) higher |= 1 << side;
        else if (height >= level - FALL * Math.sqrt(d)) alike[side]!++;
        else if (++below > largestCluster) break search;
      }
    }
    let sides = 0;
    for (let side = 0; side < 4; side++) if (higher & (1 << side) && alike[side]! < LAND_FROM) sides++;
    if (below <= largestCluster && sides >= LEAST_SIDES) out[i] = 1;
  }
  return out;
}

/** Points that have no more than a cluster of others at or under their level close by. */
function fewBeside(
  grid: NeighbourGrid,
  radius: number,
  drop: number,
  largestCluster: number,
  count: number,
): Uint8Array {
  const out = new Uint8Array(count);
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
    // Most points are told by those of their own square.
    grid.own(px, py, 0, ranges);
    for (let j = ranges[0]!; j < ranges[1]! && below <= largestCluster; j++) {
      const dx = x[j]! - px;
      const dy = y[j]! - py;
      const d = dx * dx + dy * dy;
      if (d <= limit && z[j]! < level - FALL * Math.sqrt(d)) below++;
    }
    if (below > largestCluster) continue;
    below = 0;
    const used = grid.around(px, py, 0, ranges);
    search: for (let r = 0; r < used; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const d = dx * dx + dy * dy;
        if (d <= limit && z[j]! < level - FALL * Math.sqrt(d) && ++below > largestCluster) break search;
      }
    }
    if (below <= largestCluster) out[i] = 1;
  }
  return out;
}
