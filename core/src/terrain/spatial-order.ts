/** Bits of a place along each axis: sixteen million cells. */
const BITS = 12;
const INDEX = 2 ** 29;

/**
 * Points in the order of a Z-shaped walk over the land (Morton 1966), so that neighbours on the ground are neighbours in memory:
 * a triangulation of millions of points waits for memory more than for anything else.
 * @param chosen - indices of points, at most 2^29 of them
 * @returns the same indices in another order, a new array
 */
export function spatialOrder(chosen: Uint32Array, easting: Float64Array, northing: Float64Array): Uint32Array {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const i of chosen) {
    if (easting[i]! < west) west = easting[i]!;
    if (easting[i]! > east) east = easting[i]!;
    if (northing[i]! < south) south = northing[i]!;
    if (northing[i]! > north) north = northing[i]!;
  }
  const scale = (2 ** BITS - 1) / Math.max(east - west, north - south, 1e-9);
  const keys = new Float64Array(chosen.length);
  for (let k = 0; k < chosen.length; k++) {
    const i = chosen[k]!;
    const code = spread((easting[i]! - west) * scale) | (spread((northing[i]! - south) * scale) << 1);
    keys[k] = code * INDEX + k;
  }
  keys.sort();
  return Uint32Array.from(keys, (key) => chosen[key % INDEX]!);
}

/** Puts a zero between every two of the lower twelve bits. */
function spread(value: number): number {
  let v = value & 0xfff;
  v = (v | (v << 8)) & 0x00ff00ff;
  v = (v | (v << 4)) & 0x0f0f0f0f;
  v = (v | (v << 2)) & 0x33333333;
  return (v | (v << 1)) & 0x55555555;
}
