/** The cloud's elevation at a place, from a plane through the points near it. */
export interface LocalElevation {
  readonly elevation: number;
  /** Points the plane rests on. */
  readonly points: number;
  /** Scatter of those points about the plane, job units. */
  readonly scatter: number;
}

const LEAST_POINTS = 4;
/** Points further off the plane than this many times their scatter are left out, twice over: grass, a passing car. */
const TRIM = 2;

/**
 * Fits a plane by least squares to points about a place and gives its height there. In each of two rounds points well off
 * the plane are left out.
 * @param east - offsets from the place, job units; likewise `north`; `elevation` in full
 * @returns `undefined` where fewer than four points are near, or all lie in a line
 */
export function localElevation(
  east: ArrayLike<number>,
  north: ArrayLike<number>,
  elevation: ArrayLike<number>,
): LocalElevation | undefined {
  let kept = Array.from({ length: east.length }, (_, i) => i);
  for (let round = 0; ; round++) {
    if (kept.length < LEAST_POINTS) return undefined;
    const plane = fitPlane(kept, east, north, elevation);
    if (!plane) return undefined;
    const off = (i: number): number => elevation[i]! - (plane[0] + plane[1] * east[i]! + plane[2] * north[i]!);
    const scatter = Math.sqrt(kept.reduce((sum, i) => sum + off(i) ** 2, 0) / Math.max(1, kept.length - 3));
    if (round === 2) return { elevation: plane[0], points: kept.length, scatter };
    const limit = Math.max(TRIM * scatter, 1e-9);
    const trimmed = kept.filter((i) => Math.abs(off(i)) <= limit);
    // Of a few points none can be told to be off.
    if (trimmed.length < LEAST_POINTS) return { elevation: plane[0], points: kept.length, scatter };
    kept = trimmed;
  }
}

/** z = a + b·e + c·n by the normal equations, solved about the points' mean. */
function fitPlane(
  kept: readonly number[],
  east: ArrayLike<number>,
  north: ArrayLike<number>,
  elevation: ArrayLike<number>,
): [number, number, number] | undefined {
  const mean = (values: ArrayLike<number>): number => kept.reduce((sum, i) => sum + values[i]!, 0) / kept.length;
  const [me, mn, mz] = [mean(east), mean(north), mean(elevation)];
  let ee = 0,
    en = 0,
    nn = 0,
    ez = 0,
    nz = 0;
  for (const i of kept) {
    const e = east[i]! - me;
    const n = north[i]! - mn;
    const z = elevation[i]! - mz;
    ee += e * e;
    en += e * n;
    nn += n * n;
    ez += e * z;
    nz += n * z;
  }
  const determinant = ee * nn - en * en;
  if (!(determinant > 1e-9 * ee * nn)) return undefined;
  const b = (ez * nn - nz * en) / determinant;
  const c = (nz * ee - ez * en) / determinant;
  return [mz - b * me - c * mn, b, c];
}
