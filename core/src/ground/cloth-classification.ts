import { GROUND, PointFlag, type PointBatch, type Quantisation } from '../cloud/index.js';
import type { RasterFrame } from './lowest-raster.js';

export interface GroundRule {
  /** A point within this of the cloth, up or down, is ground; job units. */
  readonly classDistance: number;
  /** `takes[class]` is 1 for classes the filter may change. */
  readonly takes: Uint8Array;
}

/**
 * Gives each point the class the cloth says: ground within the class distance, otherwise unclassified where it had been
 * ground. Only last returns can be ground; withheld points and classes not in `takes` stay as they are.
 * @param cloth - resting heights of the frame's cells, job units
 * @returns the new class column; a new array
 */
export function classifyAgainstCloth(
  batch: Pick<PointBatch, 'count' | 'x' | 'y' | 'z' | 'classification' | 'flags' | 'returns'>,
  { scale, offset }: Quantisation,
  frame: RasterFrame,
  cloth: Float64Array,
  { classDistance, takes }: GroundRule,
): Uint8Array {
  const { columns, rows, cell } = frame;
  const { x, y, z, classification, flags, returns } = batch;
  const next = classification.slice();
  const [sx, sy, sz] = scale;
  const ox = offset[0] - frame.east;
  const oy = offset[1] - frame.north;
  for (let i = 0; i < batch.count; i++) {
    const old = classification[i]!;
    if (takes[old] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
    const isLast = (returns[i]! & 0x0f) >= returns[i]! >> 4;
    let isGround = false;
    if (isLast) {
      // Bilinear between cell centres, held at the edge.
      const u = Math.min(columns - 1, Math.max(0, (x[i]! * sx + ox) / cell - 0.5));
      const v = Math.min(rows - 1, Math.max(0, (y[i]! * sy + oy) / cell - 0.5));
      const c = Math.min(Math.max(0, columns - 2), u | 0);
      const r = Math.min(Math.max(0, rows - 2), v | 0);
      const fu = u - c;
      const fv = v - r;
      const at = r * columns + c;
      const right = columns > 1 ? 1 : 0;
      const up = rows > 1 ? columns : 0;
      const south = cloth[at]! + (cloth[at + right]! - cloth[at]!) * fu;
      const north = cloth[at + up]! + (cloth[at + up + right]! - cloth[at + up]!) * fu;
      isGround = Math.abs(z[i]! * sz + offset[2] - (south + (north - south) * fv)) <= classDistance;
    }
    if (isGround) next[i] = GROUND;
    else if (old === GROUND) next[i] = 1;
  }
  return next;
}
