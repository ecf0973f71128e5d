import type { ContourSet } from '@pampero/core/contours';

/** Segments of the index and of the other contours, about the scene's origin, single precision. */
export function contourSegments(
  set: ContourSet,
  origin: readonly [number, number, number],
): { index: Float32Array; between: Float32Array } {
  const { level, isIndex, starts, easting, northing } = set;
  const sizes = [0, 0];
  for (let l = 0; l < level.length; l++) sizes[isIndex[l]!]! += Math.max(0, starts[l + 1]! - starts[l]! - 1);
  const out = sizes.map((segments) => new Float32Array(segments * 6)) as [Float32Array, Float32Array];
  const at = [0, 0];
  const shiftE = set.origin[0] - origin[0];
  const shiftN = set.origin[1] - origin[1];
  for (let l = 0; l < level.length; l++) {
    const which = isIndex[l]!;
    const to = out[which]!;
    const z = level[l]! - origin[2];
    let k = at[which]!;
    for (let v = starts[l]! + 1; v < starts[l + 1]!; v++) {
      to[k++] = easting[v - 1]! + shiftE;
      to[k++] = northing[v - 1]! + shiftN;
      to[k++] = z;
      to[k++] = easting[v]! + shiftE;
      to[k++] = northing[v]! + shiftN;
      to[k++] = z;
    }
    at[which] = k;
  }
  return { index: out[1], between: out[0] };
}
