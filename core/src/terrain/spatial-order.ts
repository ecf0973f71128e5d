import { planBoundsOf } from '../raster/index.js';

/** Bits of a place along each axis: a million cells. */
const BITS = 10;

/**
 * Points in the order of a Z-shaped walk over the land (Morton 1966), so that neighbours on the ground are neighbours in memory:
 * a triangulation of millions of points waits for memory more than for anything else. Points of one cell keep their order.
 * @param chosen - indices of points
 * @returns the same indices in another order, a new array
 */
export function spatialOrder(chosen: Uint32Array, easting: Float64Array, northing: Float64Array): Uint32Array {
  const { west, south, east, north } = planBoundsOf(chosen, easting, northing);
  const scale = (2 ** BITS - 1) / Math.max(east - west, north - south, 1e-9);
  const codes = new Uint32Array(chosen.length);
  const next = new Uint32Array(4 ** BITS + 1);
  for (let k = 0; k < chosen.length; k++) {
    const i = chosen[k]!;
    const code = spread((easting[i]! - west) * scale) | (spread((northing[i]! - south) * scale) << 1);
    codes[k] = code;
    next[code + 1]!++;
  }
  for (let c = 0; c < 4 ** BITS; c++) next[c + 1]! += next[c]!;
  const out = new Uint32Array(chosen.length);
  for (let k = 0; k < chosen.length; k++) out[next[codes[k]!]!++] = chosen[k]!;
  return out;
}

/** Puts a zero between every two of the lower bits. */
function spread(value: number): number {
  let v = value & 0xfff;
  v = (v | (v << 8)) & 0x00ff00ff;
  v = (v | (v << 4)) & 0x0f0f0f0f;
  v = (v | (v << 2)) & 0x33333333;
  return (v | (v << 1)) & 0x55555555;
}
