import type { Tin } from './tin.js';

/** What a surveyor asks of a surface first. Lengths and areas in job units. */
export interface TinFacts {
  readonly points: number;
  readonly facets: number;
  readonly areaInPlan: number;
  readonly areaOnSlope: number;
  readonly lowest: number;
  readonly highest: number;
  readonly longestEdge: number;
}

export function tinFacts(tin: Tin): TinFacts {
  const { easting, northing, elevation, facets } = tin;
  let areaInPlan = 0;
  let areaOnSlope = 0;
  let lowest = Infinity;
  let highest = -Infinity;
  let longest = 0;
  for (let f = 0; f < facets.length; f += 3) {
    const a = facets[f]!;
    const b = facets[f + 1]!;
    const c = facets[f + 2]!;
    const ux = easting[b]! - easting[a]!;
    const uy = northing[b]! - northing[a]!;
    const uz = elevation[b]! - elevation[a]!;
    const vx = easting[c]! - easting[a]!;
    const vy = northing[c]! - northing[a]!;
    const vz = elevation[c]! - elevation[a]!;
    const nz = ux * vy - uy * vx;
    areaInPlan += nz / 2;
    areaOnSlope += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, nz) / 2;
    longest = Math.max(longest, ux * ux + uy * uy, vx * vx + vy * vy, (ux - vx) ** 2 + (uy - vy) ** 2);
    lowest = Math.min(lowest, elevation[a]!, elevation[b]!, elevation[c]!);
    highest = Math.max(highest, elevation[a]!, elevation[b]!, elevation[c]!);
  }
  return {
    points: easting.length,
    facets: facets.length / 3,
    areaInPlan,
    areaOnSlope,
    lowest,
    highest,
    longestEdge: Math.sqrt(longest),
  };
}
