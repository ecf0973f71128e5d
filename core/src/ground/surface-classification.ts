import type { RasterFrame } from '../raster/index.js';
import { GROUND, PointFlag, type Quantisation } from '../cloud/index.js';
import { heightAt, mayBeGround, type GroundBatch } from './ground-planes.js';

export interface GroundRule {
  /** A point within this of the surface, up or down, is ground; job units. */
  readonly classDistance: number;
  /** `takes[class]` is 1 for classes the filter may change. */
  readonly takes: Uint8Array;
}

/**
 * Gives each point the class a surface says: ground within the class distance, otherwise unclassified where it had been
 * ground. Only last returns can be ground; withheld points and classes not in `takes` stay as they are.
 * @param heights - of the frame's cells, at their centres, job units
 * @param doubt - 0 to 1 of each point, if known: the distance shrinks with it
 * @returns the new class column; a new array
 */
export function classifyAgainstSurface(
  batch: GroundBatch,
  { scale, offset }: Quantisation,
  frame: RasterFrame,
  heights: Float64Array,
  { classDistance, takes }: GroundRule,
  doubt?: Float32Array,
): Uint8Array {
  const { columns, rows, cell } = frame;
  const { x, y, z, classification, flags } = batch;
  const next = classification.slice();
  const ox = offset[0] - frame.east;
  const oy = offset[1] - frame.north;
  for (let i = 0; i < batch.count; i++) {
    const old = classification[i]!;
    if (takes[old] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
    let isGround = false;
    if (mayBeGround(batch, i, takes)) {
      const u = (x[i]! * scale[0] + ox) / cell;
      const v = (y[i]! * scale[1] + oy) / cell;
      const off = Math.abs(z[i]! * scale[2] + offset[2] - heightAt(heights, columns, rows, u, v));
      isGround = off <= (doubt ? classDistance * (1 - doubt[i]!) : classDistance);
    }
    if (isGround) next[i] = GROUND;
    else if (old === GROUND) next[i] = 1;
  }
  return next;
}
