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

/**
 * The same lines told by fewer legs, for pictures while the view moves: legs that follow each other are joined until their end lies a
 * span from their beginning, in plan. A ring that is smaller than that is one leg to its farthest vertex.
 */
export function coarserSegments(positions: Float32Array, span: number): Float32Array {
  const out = new Float32Array(positions.length);
  const enough = span * span;
  let at = 0;
  /** How far the end of the leg being put together is from its beginning, and the farthest that it has been; squares. */
  let [reached, farthest] = [Infinity, 0];
  let far = 0;
  const close = (): void => {
    if (at > 0 && reached < farthest) out.set(positions.subarray(far, far + 3), at - 3);
  };
  for (let k = 0; k + 5 < positions.length; k += 6) {
    const goesOn =
      reached < enough &&
      positions[k] === positions[k - 3] &&
      positions[k + 1] === positions[k - 2] &&
      positions[k + 2] === positions[k - 1];
    if (goesOn) out.set(positions.subarray(k + 3, k + 6), at - 3);
    else {
      // A line that came back to where it began before it was long enough.
      if (reached === 0) close();
      out.set(positions.subarray(k, k + 6), at);
      at += 6;
      farthest = 0;
    }
    reached = (out[at - 3]! - out[at - 6]!) ** 2 + (out[at - 2]! - out[at - 5]!) ** 2;
    if (reached > farthest) {
      farthest = reached;
      far = k + 3;
    }
  }
  if (reached === 0) close();
  return out.slice(0, at);
}
