export type Corner = readonly [x: number, y: number];
export interface Plane {
  /** z = a x + b y + c, about the first surface's origin. */
  readonly a: number;
  readonly b: number;
  readonly c: number;
}

import type { Tin } from '../terrain/index.js';

/** The plane of a facet, about a place; undefined where the facet has no area. */
export function planeOf(
  { easting: e, northing: n, elevation: z, facets }: Tin,
  f: number,
  shift: readonly [number, number],
): Plane | undefined {
  const [p, q, r] = [facets[f]!, facets[f + 1]!, facets[f + 2]!];
  const [ux, uy, uz] = [e[q]! - e[p]!, n[q]! - n[p]!, z[q]! - z[p]!];
  const [vx, vy, vz] = [e[r]! - e[p]!, n[r]! - n[p]!, z[r]! - z[p]!];
  const det = ux * vy - uy * vx;
  if (det === 0) return undefined;
  const a = (uz * vy - vz * uy) / det;
  const b = (ux * vz - vx * uz) / det;
  return { a, b, c: z[p]! - a * (e[p]! + shift[0]) - b * (n[p]! + shift[1]) };
}
