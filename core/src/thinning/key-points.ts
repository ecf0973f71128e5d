import Delaunator from 'delaunator';
import { hullCorners } from '../measuring/plan-outline.js';
import { planBounds } from '../raster/index.js';
import { checkCancelled, noProgress, type Progress } from '../task/index.js';
import { PlanGrid } from './plan-grid.js';

export interface SurfacePoints {
  /** About a local origin, job units; likewise `y`, `z`. */
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
}

/** Points in job units, or in whole steps of a cloud's scale, which must be the same east and north. */
export type PointsToThin = SurfacePoints | Readonly<Record<'x' | 'y' | 'z', Int32Array>>;

export interface KeyPoints {
  /** 1 for points that are kept. */
  readonly isKept: Uint8Array;
  /** Points that lie in one place in plan with a kept one and off it by more than the tolerance: no surface holds both. */
  readonly unheld: number;
}

const MOST_ROUNDS = 400;

type Values = Float64Array | Int32Array;

/**
 * Model key points: few points whose TIN lies within `tolerance` of every point, above or below, at every point. Dense where
 * the land curves, thin where it is even.
 *
 * Greedy insertion (Garland and Heckbert 1995, "Fast polygonal approximation of terrains and height fields", CMU-CS-95-181), in
 * rounds: the hull first, then of each facet the point that lies furthest off it, all facets at once, so that the outcome does
 * not depend on the order of the points. Facets that stand from round to round are not looked at again; at the end all are.
 */
export function keyPoints(
  { x, y, z }: PointsToThin,
  tolerance: number,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): KeyPoints {
  const count = x.length;
  const isKept = new Uint8Array(count);
  if (count < 3) return { isKept: isKept.fill(1), unheld: 0 };
  const grid = new PlanGrid(x, y);
  let kept = hullOf(x, y);
  for (const i of kept) isKept[i] = 1;
  // A long thin first facet is slow to scan and says little: a point here and there beside the hull.
  for (const i of scattered(x, y)) {
    if (isKept[i] === 1) continue;
    isKept[i] = 1;
    kept.push(i);
  }
  const sound = new Set<number>();
  const refused = new Uint8Array(count);
  let unheld = 0;
  let isFinal = false;
  for (let round = 0; round < MOST_ROUNDS; round++) {
    checkCancelled(signal);
    // In one order whatever the order of the points: facets of points on one circle would turn otherwise.
    kept.sort((a, b) => x[a]! - x[b]! || y[a]! - y[b]! || z[a]! - z[b]!);
    const coords = new Float64Array(2 * kept.length);
    for (let k = 0; k < kept.length; k++) {
      coords[2 * k] = x[kept[k]!]!;
      coords[2 * k + 1] = y[kept[k]!]!;
    }
    const { triangles } = new Delaunator(coords);
    const added: number[] = [];
    for (let f = 0; f < triangles.length; f += 3) {
      const a = kept[triangles[f]!]!;
      const b = kept[triangles[f + 1]!]!;
      const c = kept[triangles[f + 2]!]!;
      const key = facetKey(a, b, c);
      if (!isFinal && sound.has(key)) continue;
      const za = z[a]!;
      const zb = z[b]! - za;
      const zc = z[c]! - za;
      let worst = -1;
      let furthest = tolerance;
      grid.inTriangle(x[a]!, y[a]!, x[b]!, y[b]!, x[c]!, y[c]!, (i, wb, wc) => {
        const off = Math.abs(z[i]! - (za + zb * wb + zc * wc));
        if (off < furthest || isKept[i] === 1 || refused[i] === 1) return;
        if (off === furthest && (worst < 0 || !comesFirst(i, worst))) return;
        worst = i;
        furthest = off;
      });
      if (worst < 0) {
        sound.add(key);
        continue;
      }
      if (isKept[worst] === 1) continue; // two facets share it
      if (isInPlace(worst, a) || isInPlace(worst, b) || isInPlace(worst, c)) {
        refused[worst] = 1;
        unheld++;
        continue;
      }
      isKept[worst] = 1;
      added.push(worst);
    }
    progress(Math.min(0.98, 1 - 0.8 ** (round + 1)));
    if (added.length > 0) {
      kept = kept.concat(added);
      isFinal = false;
    } else if (isFinal) break;
    else isFinal = true;
  }
  progress(1);
  return { isKept, unheld };

  function isInPlace(i: number, corner: number): boolean {
    return x[i] === x[corner] && y[i] === y[corner];
  }

  function comesFirst(i: number, j: number): boolean {
    return x[i]! - x[j]! < 0 || (x[i] === x[j] && (y[i]! < y[j]! || (y[i] === y[j] && z[i]! < z[j]!)));
  }
}

/** A number for three corners in any order. Two facets that share one are told apart by the last round, which trusts none. */
function facetKey(a: number, b: number, c: number): number {
  const low = Math.min(a, b, c);
  const high = Math.max(a, b, c);
  const middle = a + b + c - low - high;
  return (low * 4_093_082_899 + middle * 69_069 + high) % 9_007_199_254_740_881;
}

/** Of each of some hundred squares the point furthest to the south-west. */
function scattered(x: Values, y: Values): number[] {
  const { west, south, east, north } = planBounds(x, y);
  const side = Math.max(east - west, north - south, 1e-9) / 24;
  const best = new Map<number, number>();
  for (let i = 0; i < x.length; i++) {
    const key = Math.floor((x[i]! - west) / side) * 64 + Math.floor((y[i]! - south) / side);
    const held = best.get(key);
    if (held === undefined || x[i]! < x[held]! || (x[i] === x[held] && y[i]! < y[held]!)) best.set(key, i);
  }
  return [...best.values()];
}

/** Corners of the convex hull, after points inside a polygon of extremes are left out. */
function hullOf(x: Values, y: Values): number[] {
  const directions = 32;
  const extremes: number[] = [];
  for (let d = 0; d < directions; d++) {
    const [u, v] = [Math.cos((2 * Math.PI * d) / directions), Math.sin((2 * Math.PI * d) / directions)];
    let best = 0;
    let most = -Infinity;
    for (let i = 0; i < x.length; i++) {
      const reach = x[i]! * u + y[i]! * v;
      if (reach > most) {
        most = reach;
        best = i;
      }
    }
    if (extremes.at(-1) !== best) extremes.push(best);
  }
  const outside: number[] = [];
  for (let i = 0; i < x.length; i++) {
    let isInside = extremes.length > 2;
    for (let k = 0; k < extremes.length && isInside; k++) {
      const a = extremes[k]!;
      const b = extremes[(k + 1) % extremes.length]!;
      if (a !== b && turn(a, b, i) <= 0) isInside = false;
    }
    if (!isInside) outside.push(i);
  }
  return [...new Set(hullCorners(outside, x, y))];

  function turn(a: number, b: number, c: number): number {
    return (x[b]! - x[a]!) * (y[c]! - y[a]!) - (y[b]! - y[a]!) * (x[c]! - x[a]!);
  }
}
