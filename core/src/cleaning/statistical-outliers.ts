import { columnFrom } from '../columns/index.js';
import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';
import { planBounds } from '../raster/index.js';

export interface StatisticalOptions {
  /** Neighbours whose distances are averaged. */
  readonly neighbours: number;
  /** A point lies out where its mean distance is over the mean of all by this many standard deviations. */
  readonly deviations: number;
}

/** Sums of mean distances, to be added over tiles. */
export interface DistanceSums {
  count: number;
  sum: number;
  squares: number;
}

/**
 * Mean distance of each point to its k nearest neighbours (Rusu et al. 2008, "Towards 3D point cloud based object maps for
 * household environments", Robotics and Autonomous Systems 56(11), 927-941, section 4.1).
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 * @param margin - how far round the judged points the others reach: no neighbour further off is known. A point with fewer than
 * k neighbours so near gets `margin` for each one missing, and so counts as far off as can be said.
 */
export function meanNeighbourDistances(
  places: Places,
  neighbours: number,
  margin: number,
  count = places.count,
): Float32Array {
  const out = new Float32Array(count);
  if (places.count === 0) return out;
  // A side that finds a few more than are wanted about most points; the others look further.
  let side = Math.min(margin, spacingOf(places) * Math.sqrt(((neighbours + 1) * 2.2) / Math.PI));
  let pending: Uint32Array | undefined;
  for (;;) {
    const left = searchIn(new NeighbourGrid(places, side), neighbours, count, pending, out, margin);
    if (left.length === 0) return out;
    pending = left;
    side = Math.min(margin, side * 3);
  }
}

/** Cubes to every side that are looked through before a coarser grid is the better way. */
const MOST_REACH = 12;

/** Answers what can be answered with the grid; gives back the points whose k nearest lie too far beyond its side. */
function searchIn(
  grid: NeighbourGrid,
  k: number,
  count: number,
  wanted: Uint32Array | undefined,
  out: Float32Array,
  margin: number,
): Uint32Array {
  const { x, y, z, order, side } = grid;
  const limit = side * side;
  const ranges = new Uint32Array(RANGES);
  const nearest = new NearestFew(k);
  const only = wanted && new Uint8Array(count);
  if (wanted) for (const i of wanted) only![i] = 1;
  const left: number[] = [];
  for (let at = 0; at < order.length; at++) {
    const i = order[at]!;
    if (i >= count || (only && only[i] === 0)) continue;
    const px = x[at]!;
    const py = y[at]!;
    const pz = z[at]!;
    nearest.clear(limit);
    const used = grid.around(px, py, pz, ranges);
    for (let r = 0; r < used; r += 2) {
      const end = ranges[r + 1]!;
      for (let j = ranges[r]!; j < end; j++) {
        const dx = x[j]! - px;
        const dy = y[j]! - py;
        const dz = z[j]! - pz;
        const d = dx * dx + dy * dy + dz * dz;
        if (d <= nearest.worst && j !== at) nearest.add(d);
      }
    }
    let reach = 1;
    while (nearest.found < k && reach * side < margin && reach < MOST_REACH && grid.canReachFar) {
      reach *= 2;
      const far = Math.min(margin, reach * side);
      nearest.clear(far * far);
      const wide = grid.aroundWide(px, py, pz, reach);
      for (let r = 0; r < wide.length; r += 2)
        for (let j = wide[r]!; j < wide[r + 1]!; j++) {
          const d = (x[j]! - px) ** 2 + (y[j]! - py) ** 2 + (z[j]! - pz) ** 2;
          if (d <= nearest.worst && j !== at) nearest.add(d);
        }
    }
    if (nearest.found < k && reach * side < margin) left.push(i);
    else out[i] = (nearest.sum() + (k - nearest.found) * margin) / k;
  }
  return Uint32Array.from(left);
}

/** The least few squared distances met so far, in order: few enough that moving them up beats a heap. */
class NearestFew {
  private readonly squares: Float64Array;
  found = 0;
  /** What lies beyond this is of no use. */
  worst = Infinity;

  constructor(private readonly k: number) {
    this.squares = new Float64Array(k);
  }

  clear(limit: number): void {
    this.found = 0;
    this.worst = limit;
  }

  add(square: number): void {
    const { squares, k } = this;
    let place = this.found < k ? this.found++ : k - 1;
    while (place > 0 && squares[place - 1]! > square) {
      squares[place] = squares[place - 1]!;
      place--;
    }
    squares[place] = square;
    if (this.found === k) this.worst = squares[k - 1]!;
  }

  /** Of the distances themselves. */
  sum(): number {
    let sum = 0;
    for (let n = 0; n < this.found; n++) sum += Math.sqrt(this.squares[n]!);
    return sum;
  }
}

/** The usual distance between neighbours, from how many points fall into cells of plan. */
function spacingOf({ count, x, y }: Places): number {
  const { west, south, east, north } = planBounds(x, y, count);
  const area = Math.max(1e-6, east - west) * Math.max(1e-6, north - south);
  const cell = Math.sqrt(area / Math.max(1, count)) * 4;
  // Holes must not make the rest seem sparse: only cells with points count.
  const columns = Math.max(1, Math.min(4096, Math.ceil((east - west) / cell)));
  const rows = Math.max(1, Math.min(4096, Math.ceil((north - south) / cell)));
  const isFull = new Uint8Array(columns * rows);
  let full = 0;
  for (let i = 0; i < count; i++) {
    const column = Math.min(columns - 1, Math.floor(((x[i]! - west) / Math.max(1e-9, east - west)) * columns));
    const row = Math.min(rows - 1, Math.floor(((y[i]! - south) / Math.max(1e-9, north - south)) * rows));
    const at = row * columns + column;
    full += 1 - isFull[at]!;
    isFull[at] = 1;
  }
  return Math.max(1e-6, Math.sqrt((area * full) / (columns * rows) / Math.max(1, count)));
}

export function sumDistances(distances: Float32Array): DistanceSums {
  let [sum, squares] = [0, 0];
  for (const d of distances) {
    sum += d;
    squares += d * d;
  }
  return { count: distances.length, sum, squares };
}

export function addDistanceSums(a: DistanceSums, b: DistanceSums): DistanceSums {
  return { count: a.count + b.count, sum: a.sum + b.sum, squares: a.squares + b.squares };
}

/** The mean distance above which a point lies out: μ + α σ over all points. */
export function outlierThreshold({ count, sum, squares }: DistanceSums, deviations: number): number {
  const mean = sum / Math.max(1, count);
  return mean + deviations * Math.sqrt(Math.max(0, squares / Math.max(1, count) - mean * mean));
}

/** Over one piece of land alone. */
export function statisticalOutliers(
  places: Places,
  { neighbours, deviations }: StatisticalOptions,
  margin: number,
  count = places.count,
): Uint8Array {
  const distances = meanNeighbourDistances(places, neighbours, margin, count);
  const threshold = outlierThreshold(sumDistances(distances), deviations);
  return columnFrom(Uint8Array, distances, (d) => (d > threshold ? 1 : 0));
}
