import { depressionTicks, type ContourSet } from '@pampero/core/contours';

/** Segments of contours by how they are drawn, about the scene's origin, single precision. */
export interface ContourSegments {
  readonly index: Float32Array;
  readonly between: Float32Array;
  /** Dashes where few points stand behind the line, and ticks in depressions. */
  readonly marks: Float32Array;
}

/**
 * @param metre - in job units: dashes are two and a half metres long; infinite for no dashes and ticks
 */
export function contourSegments(
  set: ContourSet,
  origin: readonly [number, number, number],
  metre: number,
): ContourSegments {
  const { level, isIndex, isObscured, starts, easting, northing } = set;
  const shiftE = set.origin[0] - origin[0];
  const shiftN = set.origin[1] - origin[1];
  const sizes = [0, 0];
  for (let l = 0; l < level.length; l++)
    if (isObscured[l] === 0) sizes[isIndex[l]!]! += Math.max(0, starts[l + 1]! - starts[l]! - 1);
  const out = sizes.map((segments) => new Float32Array(segments * 6)) as [Float32Array, Float32Array];
  const at = [0, 0];
  const marks: number[] = [];
  for (let l = 0; l < level.length; l++) {
    const z = level[l]! - origin[2];
    if (isObscured[l] === 1) {
      dash(l, z);
      continue;
    }
    const which = isIndex[l]!;
    const to = out[which]!;
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
  for (const [ae, an, be, bn, z] of Number.isFinite(metre) ? depressionTicks(set, metre, 5 * metre) : [])
    marks.push(ae + shiftE, an + shiftN, z - origin[2], be + shiftE, bn + shiftN, z - origin[2]);
  return { index: out[1], between: out[0], marks: Float32Array.from(marks) };

  function dash(l: number, z: number): void {
    const [on, period] = [2.5 * metre, 4 * metre];
    let along = 0;
    for (let v = starts[l]! + 1; v < starts[l + 1]!; v++) {
      const [ae, an] = [easting[v - 1]! + shiftE, northing[v - 1]! + shiftN];
      const [de, dn] = [easting[v]! - easting[v - 1]!, northing[v]! - northing[v - 1]!];
      const step = Math.hypot(de, dn);
      for (let from = Math.floor(along / period) * period; from < along + step && step > 0; from += period) {
        const [a, b] = [Math.max(0, from - along) / step, Math.min(step, from + on - along) / step];
        if (b > a) marks.push(ae + a * de, an + a * dn, z, ae + b * de, an + b * dn, z);
      }
      along += step;
    }
  }
}
