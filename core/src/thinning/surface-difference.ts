import { ascending } from '../columns/index.js';
import Delaunator from 'delaunator';
import { spatialOrder } from '../terrain/spatial-order.js';
import type { SurfacePoints } from './key-points.js';
import { PlanGrid } from './plan-grid.js';

/** How a thinned surface differs from the points it was thinned from: thinned less given, job units. */
export interface SurfaceDifference {
  /** Points compared: those outside the thinned surface cannot be. */
  readonly compared: number;
  readonly outside: number;
  readonly mean: number;
  readonly rmse: number;
  /** 95 % of the points lie within; to a ten-thousandth of a unit, rounded up. */
  readonly within95: number;
  readonly worst: number;
}

/** The TIN of the points that stay. */
export interface ThinnedSurface extends SurfacePoints {
  /** Corners of the facets, three each. */
  readonly corners: Uint32Array;
}

/** @param points - those that stay, finite, in any order: facets come out in the order of the land */
export function thinnedSurface({ x, y, z }: SurfacePoints): ThinnedSurface {
  const all = new Uint32Array(x.length);
  for (let i = 0; i < all.length; i++) all[i] = i;
  const order = spatialOrder(all, x, y);
  const coords = new Float64Array(2 * order.length);
  for (let k = 0; k < order.length; k++) {
    coords[2 * k] = x[order[k]!]!;
    coords[2 * k + 1] = y[order[k]!]!;
  }
  const corners = order.length < 3 ? new Uint32Array() : new Delaunator(coords).triangles;
  for (let h = 0; h < corners.length; h++) corners[h] = order[corners[h]!]!;
  return { x, y, z, corners };
}

/**
 * Thinned less given at each of some points; NaN outside the surface.
 * @param facets - those to look at, each by its number; all that reach the points must be among them
 * @param east - added to the surface's coordinates to have the points'; likewise `north`
 */
export function differencesAt(
  points: SurfacePoints,
  surface: ThinnedSurface,
  facets: Uint32Array,
  east = 0,
  north = 0,
): Float32Array {
  const { x, y, z, corners } = surface;
  const off = new Float32Array(points.x.length).fill(NaN);
  if (off.length === 0) return off;
  const grid = new PlanGrid(points.x, points.y);
  let [za, zb, zc] = [0, 0, 0];
  const visit = (i: number, wb: number, wc: number): void => {
    off[i] = za + zb * wb + zc * wc - points.z[i]!;
  };
  for (let k = 0; k < facets.length; k++) {
    const f = 3 * facets[k]!;
    const a = corners[f]!;
    const b = corners[f + 1]!;
    const c = corners[f + 2]!;
    za = z[a]!;
    zb = z[b]! - za;
    zc = z[c]! - za;
    grid.inTriangle(x[a]! + east, y[a]! + north, x[b]! + east, y[b]! + north, x[c]! + east, y[c]! + north, visit);
  }
  return off;
}

/** Differences summed up; sums of parts can be merged in any order. */
export interface DifferenceSums {
  compared: number;
  outside: number;
  sum: number;
  squares: number;
  worst: number;
  /** How many are of each size, {@link STEP} by {@link STEP}; the last holds all larger ones. */
  readonly sizes: Uint32Array;
}

/** Job units: finer than any cloud. */
const STEP = 1e-4;
const STEPS = 100_000;

export function newDifferenceSums(): DifferenceSums {
  return { compared: 0, outside: 0, sum: 0, squares: 0, worst: 0, sizes: new Uint32Array(STEPS + 1) };
}

export function addDifferences(sums: DifferenceSums, differences: Float32Array): void {
  for (let i = 0; i < differences.length; i++) {
    const d = differences[i]!;
    if (Number.isNaN(d)) {
      sums.outside++;
      continue;
    }
    const size = Math.abs(d);
    sums.compared++;
    sums.sum += d;
    sums.squares += d * d;
    if (size > sums.worst) sums.worst = size;
    sums.sizes[Math.min(STEPS, Math.floor(size / STEP))]!++;
  }
}

export function mergeDifferences(sums: DifferenceSums, other: DifferenceSums): void {
  sums.compared += other.compared;
  sums.outside += other.outside;
  sums.sum += other.sum;
  sums.squares += other.squares;
  sums.worst = Math.max(sums.worst, other.worst);
  for (let k = 0; k <= STEPS; k++) sums.sizes[k]! += other.sizes[k]!;
}

export function summarise({ compared, outside, sum, squares, worst, sizes }: DifferenceSums): SurfaceDifference {
  const wanted = Math.ceil(0.95 * compared);
  let [step, seen] = [0, sizes[0]!];
  while (step < STEPS && seen < wanted) seen += sizes[++step]!;
  return {
    compared,
    outside,
    mean: compared === 0 ? 0 : sum / compared,
    rmse: compared === 0 ? 0 : Math.sqrt(squares / compared),
    within95: compared === 0 ? 0 : step === STEPS ? worst : Math.min(worst, (step + 1) * STEP),
    worst,
  };
}

/** Holds every point that was set aside against the TIN of those kept. */
export function surfaceDifference(points: SurfacePoints, isKept: Uint8Array): SurfaceDifference {
  const chosen = (wanted: 0 | 1): SurfacePoints => {
    const of = (values: Float64Array): Float64Array => values.filter((_, i) => isKept[i] === wanted);
    return { x: of(points.x), y: of(points.y), z: of(points.z) };
  };
  const surface = thinnedSurface(chosen(1));
  const sums = newDifferenceSums();
  addDifferences(sums, differencesAt(chosen(0), surface, ascending(surface.corners.length / 3))); // prettier-ignore
  return summarise(sums);
}
