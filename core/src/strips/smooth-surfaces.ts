import { NeighbourGrid, RANGES, type Places } from '../cleaning/neighbour-grid.js';
import { eigenvalues, type Symmetric } from '../objects/covariance.js';

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
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const square = radius * radius;
  const ranges = new Uint32Array(RANGES);
  const moved: number[] = [];
  const by: number[] = [];
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (isAsked[i] === 0) continue;
    const [px, py, pz] = [x[k]!, y[k]!, z[k]!];
    let [n, sx, sy, sz, xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0];
    const used = grid.around(px, py, pz, ranges);
    for (let r = 0; r < used; r += 2)
      for (let j = ranges[r]!; j < ranges[r + 1]!; j++) {
        const [dx, dy, dz] = [x[j]! - px, y[j]! - py, z[j]! - pz];
        if (dx * dx + dy * dy + dz * dz > square) continue;
        n++;
        sx += dx;
        sy += dy;
        sz += dz;
        xx += dx * dx;
        xy += dx * dy;
        xz += dx * dz;
        yy += dy * dy;
        yz += dy * dz;
        zz += dz * dz;
      }
    if (n < LEAST_NEIGHBOURS) continue;
    const [mx, my, mz] = [sx / n, sy / n, sz / n];
    const spread: Symmetric = [
      xx / n - mx * mx,
      xy / n - mx * my,
      xz / n - mx * mz,
      yy / n - my * my,
      yz / n - my * mz,
      zz / n - mz * mz,
    ];
    const [least, middle] = eigenvalues(spread);
    // A line of points has no plane, and a wide spread across it is no surface.
    if (middle < 4 * least || middle < (0.1 * radius) ** 2 || Math.sqrt((least * n) / (n - 3)) > roughness) continue;
    const normal = normalOf(spread, least);
    if (!normal) continue;
    const off = -(mx * normal[0] + my * normal[1] + mz * normal[2]);
    if (Math.abs(off) > limit || off === 0) continue;
    moved.push(i);
    by.push(-off * normal[0], -off * normal[1], -off * normal[2]);
  }
  const column = (axis: number): Float64Array => Float64Array.from(moved, (_, k) => by[3 * k + axis]!);
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
