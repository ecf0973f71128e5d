import { columnFrom } from '../columns/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';
import { eachSpread, eigenvalues, type Symmetric } from '../objects/covariance.js';

export interface SmoothSettings {
  readonly radius: number;
  /** How far a point moves at most. */
  readonly limit: number;
  /** Neighbours that scatter more about their plane are no hard surface, or lie to both sides of an edge. */
  readonly roughness: number;
}

const LEAST_NEIGHBOURS = 8;

/**
 * Moves points of hard surfaces onto the plane of their neighbours, along its normal. A point stays where the neighbours scatter, where they are few or lie
 * along a line, and where it is off the plane by more than the limit.
 * @param isAsked - 1 for points that may move; the others are neighbours only
 * @returns how far each moved along east, north, up
 */
export function smoothedPlaces(
  places: Places,
  isAsked: Uint8Array,
  { radius, limit, roughness }: SmoothSettings,
): {
  readonly moved: Uint32Array;
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly up: Float64Array;
} {
  const moved: number[] = [];
  const by: number[] = [];
  eachSpread(places, radius, isAsked, (i, { count: n, covariance, mean: [mx, my, mz] }) => {
    if (n < LEAST_NEIGHBOURS) return;
    const [least, middle] = eigenvalues(covariance);
    // A line of points has no plane, and a wide spread across it is no surface.
    if (middle < 4 * least || middle < (0.1 * radius) ** 2 || Math.sqrt((least * n) / (n - 3)) > roughness) return;
    const normal = normalOf(covariance, least);
    if (!normal) return;
    const off = -(mx * normal[0] + my * normal[1] + mz * normal[2]);
    if (Math.abs(off) > limit || off === 0) return;
    moved.push(i);
    by.push(-off * normal[0], -off * normal[1], -off * normal[2]);
  });
  const column = (axis: number): Float64Array => columnFrom(Float64Array, moved, (_, k) => by[3 * k + axis]!);
  return { moved: Uint32Array.from(moved), east: column(0), north: column(1), up: column(2) };
}

/** The direction across a plane: the longest cross product of two rows of the covariance less its least eigenvalue. */
function normalOf([xx, xy, xz, yy, yz, zz]: Symmetric, least: number): [number, number, number] | undefined {
  const rows = [
    [xx - least, xy, xz],
    [xy, yy - least, yz],
    [xz, yz, zz - least],
  ] as const;
  let best: [number, number, number] | undefined;
  let longest = 0;
  for (const [a, b] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ] as const) {
    const [p, q] = [rows[a], rows[b]];
    const cross: [number, number, number] = [
      p[1] * q[2] - p[2] * q[1],
      p[2] * q[0] - p[0] * q[2],
      p[0] * q[1] - p[1] * q[0],
    ];
    const length = Math.hypot(...cross);
    if (length > longest) [best, longest] = [cross, length];
  }
  return best && [best[0] / longest, best[1] / longest, best[2] / longest];
}
