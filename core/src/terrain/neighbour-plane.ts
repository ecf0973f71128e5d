import { nextSide } from './half-edges.js';
import type { Tin } from './tin.js';

/**
 * Of each half-edge the share that the elevation at its end has in the plane through the neighbours of its start, by least squares,
 * nearer ones counting more: the middle of neighbours that lie unevenly would pull every slope up or down.
 */
export function planeShares({ easting, northing, facets }: Tin): Float64Array {
  const corners = easting.length;
  const [w, wx, wy, xx, xy, yy] = Array.from({ length: 6 }, () => new Float64Array(corners)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const weightOf = (dx: number, dy: number): number => 1 / Math.max(1e-12, dx * dx + dy * dy);
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    const [dx, dy] = [easting[b]! - easting[a]!, northing[b]! - northing[a]!];
    const weight = weightOf(dx, dy);
    w[a]! += weight;
    wx[a]! += weight * dx;
    wy[a]! += weight * dy;
    xx[a]! += weight * dx * dx;
    xy[a]! += weight * dx * dy;
    yy[a]! += weight * dy * dy;
  }
  const out = new Float64Array(facets.length);
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    const [dx, dy] = [easting[b]! - easting[a]!, northing[b]! - northing[a]!];
    // The first row of the inverse of the normal equations.
    const [c0, c1, c2] = [
      xx[a]! * yy[a]! - xy[a]! * xy[a]!,
      wy[a]! * xy[a]! - wx[a]! * yy[a]!,
      wx[a]! * xy[a]! - wy[a]! * xx[a]!,
    ];
    const determinant = w[a]! * c0 + wx[a]! * c1 + wy[a]! * c2;
    out[h] = (weightOf(dx, dy) * (c0 + c1 * dx + c2 * dy)) / determinant;
  }
  return out;
}
