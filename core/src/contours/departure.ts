import type { Tin } from '../terrain/index.js';
import type { TracedContours } from './contour-set.js';

/** How far smoothed contours lie from where the measured surface has their elevation. Job units. */
export interface Departure {
  /** In elevation: the largest, and what 95 % of the corners keep to. */
  readonly worst: number;
  readonly p95: number;
  /** In plan, elevation over the slope there: what 95 % of the corners keep to. */
  readonly planP95: number;
}

/** Corners looked at: enough for a percentile, however many there are. */
const LOOKED_AT = 400_000;

/**
 * @param tin - the surface the contours were traced on
 * @param measured - elevations of its corners on the measured surface
 */
export function departureOf({ contours, facetOf }: TracedContours, tin: Tin, measured: Float64Array): Departure {
  const { easting, northing, elevation, facets } = tin;
  const { level, starts } = contours;
  const total = contours.easting.length;
  const stride = Math.max(1, Math.ceil(total / LOOKED_AT));
  const size = Math.ceil(total / stride);
  const [off, plan] = [new Float64Array(size), new Float64Array(size)];
  let [line, k] = [0, 0];
  for (let v = 0; v < total; v += stride, k++) {
    while (starts[line + 1]! <= v) line++;
    const f = 3 * facetOf[v]!;
    const [a, b, c] = [facets[f]!, facets[f + 1]!, facets[f + 2]!];
    const [ux, uy] = [easting[b]! - easting[a]!, northing[b]! - northing[a]!];
    const [vx, vy] = [easting[c]! - easting[a]!, northing[c]! - northing[a]!];
    const twice = ux * vy - uy * vx;
    const [dx, dy] = [contours.easting[v]! - easting[a]!, contours.northing[v]! - northing[a]!];
    const [wb, wc] = [(dx * vy - dy * vx) / twice, (ux * dy - uy * dx) / twice];
    const there = measured[a]! + wb * (measured[b]! - measured[a]!) + wc * (measured[c]! - measured[a]!);
    off[k] = twice > 1e-12 ? Math.abs(there - level[line]!) : 0;
    const [uz, vz] = [elevation[b]! - elevation[a]!, elevation[c]! - elevation[a]!];
    const slope = Math.hypot(uz * vy - vz * uy, ux * vz - vx * uz) / Math.max(1e-12, twice);
    plan[k] = off[k]! / Math.max(1e-6, slope);
  }
  if (k === 0) return { worst: 0, p95: 0, planP95: 0 };
  off.sort();
  plan.sort();
  const at = Math.floor(0.95 * (k - 1));
  return { worst: off[k - 1]!, p95: off[at]!, planP95: plan[at]! };
}
