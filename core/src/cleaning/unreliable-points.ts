import { NeighbourGrid, RANGES, type Places } from './neighbour-grid.js';

export interface UnreliableOptions {
  /** Less confidence than this is low. */
  readonly below: number;
  /** Better points must lie this near, or the point stays: a bad one is better than a hole. */
  readonly radius: number;
}

/**
 * Points of low confidence that better points of the same surface stand in for: one with enough confidence lies within the
 * radius (common practice, no source). Points whose confidence is not known are left.
 * @param count - points to be judged: the first of `places`; the others are the margin about them
 */
export function unreliablePoints(
  places: Places,
  { below, radius }: UnreliableOptions,
  count = places.count,
): Uint8Array {
  const out = new Uint8Array(count);
  const { confidence } = places;
  if (!confidence) return out;
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const limit = radius * radius;
  const ranges = new Uint32Array(RANGES);
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (i >= count || !(confidence[i]! < below)) continue;
    const used = grid.around(x[k]!, y[k]!, z[k]!, ranges);
    search: for (let r = 0; r < used; r += 2)
      for (let j = ranges[r]!; j < ranges[r + 1]!; j++)
        if (
          confidence[order[j]!]! >= below &&
          (x[j]! - x[k]!) ** 2 + (y[j]! - y[k]!) ** 2 + (z[j]! - z[k]!) ** 2 <= limit
        ) {
          out[i] = 1;
          break search;
        }
  }
  return out;
}
