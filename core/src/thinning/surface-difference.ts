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
  /** 95 % of the points lie within. */
  readonly within95: number;
  readonly worst: number;
}

/** Holds every point that was set aside against the TIN of those kept. */
export function surfaceDifference(points: SurfacePoints, isKept: Uint8Array): SurfaceDifference {
  const { x, y, z } = points;
  const all = new Uint32Array(x.length);
  let found = 0;
  for (let i = 0; i < x.length; i++) if (isKept[i] === 1) all[found++] = i;
  const kept = spatialOrder(all.subarray(0, found), x, y);
  const coords = new Float64Array(2 * kept.length);
  kept.forEach((i, k) => {
    coords[2 * k] = x[i]!;
    coords[2 * k + 1] = y[i]!;
  });
  const triangles = kept.length < 3 ? new Uint32Array() : new Delaunator(coords).triangles;
  const grid = new PlanGrid(x, y);
  const off = new Float32Array(x.length).fill(NaN);
  for (let f = 0; f < triangles.length; f += 3) {
    const [a, b, c] = [kept[triangles[f]!]!, kept[triangles[f + 1]!]!, kept[triangles[f + 2]!]!];
    grid.inTriangle(x[a]!, y[a]!, x[b]!, y[b]!, x[c]!, y[c]!, (i, wb, wc) => {
      if (isKept[i] === 0) off[i] = z[a]! + (z[b]! - z[a]!) * wb + (z[c]! - z[a]!) * wc - z[i]!;
    });
  }
  let [sum, squares, worst, outside] = [0, 0, 0, 0];
  const sizes = new Float32Array(off.length);
  let compared = 0;
  for (let i = 0; i < off.length; i++) {
    if (isKept[i] === 1) continue;
    const d = off[i]!;
    if (Number.isNaN(d)) {
      outside++;
      continue;
    }
    sum += d;
    squares += d * d;
    worst = Math.max(worst, Math.abs(d));
    sizes[compared++] = Math.abs(d);
  }
  const sorted = sizes.subarray(0, compared).sort();
  return {
    compared,
    outside,
    mean: compared === 0 ? 0 : sum / compared,
    rmse: compared === 0 ? 0 : Math.sqrt(squares / compared),
    within95: compared === 0 ? 0 : sorted[Math.max(0, Math.ceil(0.95 * compared) - 1)]!,
    worst,
  };
}
