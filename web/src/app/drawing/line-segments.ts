import type { LineShape, LineStyle } from '@pampero/core/lines';

/** Dashes and the gaps after them, metres on the land; a solid line has none. */
const DASHES: Readonly<Record<LineStyle, readonly number[]>> = {
  solid: [],
  dashed: [2.4, 1.6],
  dotted: [0.4, 1.2],
  'dash-dot': [3, 1, 0.4, 1],
};

/**
 * Segments of lines about the scene's origin. Corners without an elevation lie at that of the corner before them that has one, else on
 * the origin.
 * @param metre - in job units
 */
export function shapeSegments(
  lines: readonly LineShape[],
  origin: readonly [number, number, number],
  style: LineStyle,
  metre: number,
): Float32Array {
  const dashes = DASHES[style].map((length) => length * metre);
  if (dashes.length > 0) return dashedSegments(lines, origin, dashes);
  let legs = 0;
  for (const { easting, isClosed } of lines) legs += Math.max(0, easting.length - (isClosed ? 0 : 1));
  const out = new Float32Array(6 * legs);
  let at = 0;
  for (const line of lines)
    for (const [ae, an, az, be, bn, bz] of legsOf(line, origin)) {
      out[at++] = ae;
      out[at++] = an;
      out[at++] = az;
      out[at++] = be;
      out[at++] = bn;
      out[at++] = bz;
    }
  return out.subarray(0, at);
}

type Leg = readonly [ae: number, an: number, az: number, be: number, bn: number, bz: number];

function* legsOf(
  { easting, northing, elevation, isClosed }: LineShape,
  [oe, on, oz]: readonly [number, number, number],
): Generator<Leg> {
  const count = easting.length;
  let level = elevation.find((z) => !Number.isNaN(z)) ?? oz;
  for (let k = 0; k < count - (isClosed ? 0 : 1); k++) {
    const next = (k + 1) % count;
    const az = Number.isNaN(elevation[k]!) ? level : (level = elevation[k]!);
    const bz = Number.isNaN(elevation[next]!) ? level : elevation[next]!;
    yield [easting[k]! - oe, northing[k]! - on, az - oz, easting[next]! - oe, northing[next]! - on, bz - oz];
  }
}

function dashedSegments(
  lines: readonly LineShape[],
  origin: readonly [number, number, number],
  dashes: readonly number[],
): Float32Array {
  const out: number[] = [];
  for (const line of lines) {
    let [which, left] = [0, dashes[0]!];
    for (const [ae, an, az, be, bn, bz] of legsOf(line, origin)) {
      const length = Math.hypot(be - ae, bn - an);
      for (let along = 0; along < length;) {
        const to = Math.min(length, along + left);
        if (which % 2 === 0) {
          const [s, t] = [along / length, to / length];
          out.push(ae + (be - ae) * s, an + (bn - an) * s, az + (bz - az) * s, ae + (be - ae) * t, an + (bn - an) * t, az + (bz - az) * t); // prettier-ignore
        }
        left -= to - along;
        along = to;
        if (left <= 1e-9) {
          which = (which + 1) % dashes.length;
          left = dashes[which]!;
        }
      }
    }
  }
  return Float32Array.from(out);
}

/** The same lines told by fewer legs, so many together each time; ends stay. For pictures while the view moves. */
export function coarserSegments(positions: Float32Array, together: number): Float32Array {
  const out = new Float32Array(positions.length);
  let at = 0;
  let joined = 0;
  for (let k = 0; k + 5 < positions.length; k += 6) {
    const goesOn =
      joined > 0 &&
      joined < together &&
      positions[k] === positions[k - 3] &&
      positions[k + 1] === positions[k - 2] &&
      positions[k + 2] === positions[k - 1];
    if (goesOn) {
      out.set(positions.subarray(k + 3, k + 6), at - 3);
      joined++;
      continue;
    }
    out.set(positions.subarray(k, k + 6), at);
    at += 6;
    joined = 1;
  }
  return out.slice(0, at);
}
