import type { Bounds } from './bounds.js';
import type { Quantisation } from './point-batch.js';

/** Bits of a place in the root cube, an axis: levels and cells are shifts, whatever the axes' scales are. */
export const CODE_BITS = 21;

/** The root cube of an octree, and how scaled integers become places in it. */
export interface OctreeCube {
  /** The cube's least corner as scaled integers. */
  readonly low: readonly [number, number, number];
  /** Places to one integer step, an axis. */
  readonly steps: readonly [number, number, number];
  /** Length of its sides in coordinates. */
  readonly side: number;
}

/** The cube over points with these bounds (scaled integers, not coordinates). */
export function octreeCube(bounds: Bounds, { scale }: Quantisation): OctreeCube {
  let side = 0;
  for (let axis = 0; axis < 3; axis++) side = Math.max(side, (bounds.max[axis]! - bounds.min[axis]!) * scale[axis]!);
  // A little over, so that the farthest point still has a place; one step where all points coincide.
  side = Math.max(side * (1 + 2 ** -CODE_BITS), Math.min(...scale));
  const steps = scale.map((s) => (2 ** CODE_BITS * s) / side) as [number, number, number];
  return { low: [...bounds.min], steps, side };
}

/** Places of n integers along one axis, 0 to 2^21 − 1; what lies outside the cube is put at its rim. */
export function cubeCodes(
  values: Int32Array,
  cube: OctreeCube,
  axis: 0 | 1 | 2,
  out = new Int32Array(values.length),
): Int32Array {
  const low = cube.low[axis];
  const steps = cube.steps[axis];
  const most = 2 ** CODE_BITS - 1;
  for (let i = 0; i < values.length; i++) {
    const code = (values[i]! - low) * steps;
    out[i] = code < 0 ? 0 : code > most ? most : code;
  }
  return out;
}
