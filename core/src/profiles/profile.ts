import { valueAlong } from '../measuring/index.js';
import type { Tin } from '../terrain/index.js';
import { FacetIndex } from '../volumes/facet-index.js';

/** A surface cut along a line. Stations are plan distances along the line; where the surface ends the elevation is NaN. */
export interface Profile {
  readonly station: Float64Array;
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/** Cuts nearer than this are one, by share of a side of the line. */
const SAME = 1e-10;
/** Sides are looked at in pieces: the box about a long slanting one would hold most of the surface. */
const PIECES = 256;

/**
 * The profile of a surface along a line in plan, exact: a corner wherever the line crosses a side of a facet, nothing sampled
 * between. A stretch without surface is closed off by a NaN at its beginning.
 * @param line - corners in full coordinates, two at least
 */
export function profileOf(
  tin: Tin,
  line: readonly (readonly [number, number])[],
  index = new FacetIndex(tin, tin.origin),
): Profile {
  const out: [station: number, e: number, n: number, z: number][] = [];
  let begun = 0;
  for (let k = 0; k + 1 < line.length; k++) {
    const [ae, an] = [line[k]![0] - tin.origin[0], line[k]![1] - tin.origin[1]];
    const [be, bn] = [line[k + 1]![0] - tin.origin[0], line[k + 1]![1] - tin.origin[1]];
    const length = Math.hypot(be - ae, bn - an);
    if (length === 0) continue;
    const pieces = Math.min(PIECES, Math.max(1, Math.ceil(length / index.cellSize / 2)));
    const touched = new Set<number>();
    for (let p = 0; p < pieces; p++) {
      const at = (t: number): [number, number] => [ae + t * (be - ae), an + t * (bn - an)];
      for (const f of index.touching([at(p / pieces), at((p + 1) / pieces)])) touched.add(f);
    }
    const spans: { from: number; to: number; zFrom: number; zTo: number }[] = [];
    for (const f of touched) {
      const span = within(index, f, ae, an, be, bn);
      if (span) spans.push(span);
    }
    spans.sort((a, b) => a.from - b.from || a.to - b.to);
    let reached = 0;
    const put = (t: number, z: number): void => {
      out.push([begun + t * length, line[k]![0] + t * (be - ae), line[k]![1] + t * (bn - an), z]);
    };
    for (const { from, to, zFrom, zTo } of spans) {
      if (to - reached < SAME && out.length > 0) continue; // along a side: its neighbour has said it
      if (from - reached > SAME * 10 || (out.length === 0 && from > SAME)) put(reached, NaN);
      const last = out.at(-1);
      if (!last || Number.isNaN(last[3]) || begun + from * length - last[0] > SAME * length)
        put(Math.max(from, reached), zFrom);
      put(to, zTo);
      reached = Math.max(reached, to);
    }
    if (1 - reached > SAME * 10) {
      put(reached, NaN);
      put(1, NaN);
    }
    begun += length;
  }
  const column = (of: 0 | 1 | 2 | 3): Float64Array => Float64Array.from(out, (corner) => corner[of]);
  return { station: column(0), easting: column(1), northing: column(2), elevation: column(3) };
}

/** Which share of a side of the line lies in a facet, with the elevations at its ends. */
function within(
  index: FacetIndex,
  f: number,
  ae: number,
  an: number,
  be: number,
  bn: number,
): { from: number; to: number; zFrom: number; zTo: number } | undefined {
  let [from, to] = [0, 1];
  const corners = index.corners(f);
  for (let k = 0; k < 3; k++) {
    const [px, py] = corners[k]!;
    const [qx, qy] = corners[(k + 1) % 3]!;
    // On the left of each side, corners being counter-clockwise.
    const a = (qx - px) * (an - py) - (qy - py) * (ae - px);
    const b = (qx - px) * (bn - py) - (qy - py) * (be - px);
    if (a < 0 && b < 0) return undefined;
    if (a < 0) from = Math.max(from, a / (a - b));
    else if (b < 0) to = Math.min(to, a / (a - b));
  }
  if (to - from <= SAME) return undefined;
  const { a, b, c } = index.plane(f);
  const z = (t: number): number => a * (ae + t * (be - ae)) + b * (an + t * (bn - an)) + c;
  return { from, to, zFrom: z(from), zTo: z(to) };
}

/** Elevation at a station, linear between corners; NaN where there is no surface. */
export function elevationAt({ station, elevation }: Profile, at: number): number {
  return valueAlong(station, elevation, at);
}

/** The profile told by few corners: Douglas and Peucker 1973 (Cartographica 10(2), 112-122), within a tolerance of elevation. */
export function simplified(profile: Profile, tolerance: number): Profile {
  const { station, elevation } = profile;
  const keep = new Uint8Array(station.length);
  const runs: [number, number][] = [];
  let start = -1;
  for (let i = 0; i <= station.length; i++) {
    const isGap = i === station.length || Number.isNaN(elevation[i]!);
    if (i < station.length && isGap) keep[i] = 1;
    if (!isGap && start < 0) start = i;
    else if (isGap && start >= 0) {
      runs.push([start, i - 1]);
      start = -1;
    }
  }
  while (runs.length > 0) {
    const [a, b] = runs.pop()!;
    keep[a] = keep[b] = 1;
    let [worst, at] = [tolerance, -1];
    const span = station[b]! - station[a]! || 1;
    for (let i = a + 1; i < b; i++) {
      const off = Math.abs(
        elevation[i]! - elevation[a]! - ((elevation[b]! - elevation[a]!) * (station[i]! - station[a]!)) / span,
      );
      if (off > worst) [worst, at] = [off, i];
    }
    if (at >= 0) runs.push([a, at], [at, b]);
  }
  const chosen = (column: Float64Array): Float64Array => column.filter((_, i) => keep[i] === 1);
  return {
    station: chosen(profile.station),
    easting: chosen(profile.easting),
    northing: chosen(profile.northing),
    elevation: chosen(profile.elevation),
  };
}
