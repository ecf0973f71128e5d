import { nextSide, type Tin } from '../terrain/index.js';

/** The land along one line of the grid of squares: stretches of a surface's boundary that lie on it, one after the other. */
export interface EdgeProfile {
  /** Four values a stretch: where it begins along the line, its elevation there, where it ends, its elevation there. */
  readonly stretches: Float64Array;
}

/** Places nearer to a line than this lie on it, job units. */
const ON_LINE = 1e-7;

/**
 * @param axis - "east" for a line of one easting, which runs north; "north" for the other
 * @param at - the line's coordinate in full
 */
export function edgeProfile(tin: Tin, axis: 'east' | 'north', at: number): EdgeProfile {
  const [across, along] = axis === 'east' ? [tin.easting, tin.northing] : [tin.northing, tin.easting];
  const [shiftAcross, shiftAlong] = axis === 'east' ? [tin.origin[0], tin.origin[1]] : [tin.origin[1], tin.origin[0]];
  const isOn = (i: number): boolean => Math.abs(across[i]! + shiftAcross - at) <= ON_LINE;
  const found: [number, number, number, number][] = [];
  for (let h = 0; h < tin.facets.length; h++) {
    if (tin.twins[h]! >= 0) continue;
    let [a, b] = [tin.facets[h]!, tin.facets[nextSide(h)]!];
    if (!isOn(a) || !isOn(b)) continue;
    if (along[a]! > along[b]!) [a, b] = [b, a];
    found.push([along[a]! + shiftAlong, tin.elevation[a]!, along[b]! + shiftAlong, tin.elevation[b]!]);
  }
  return { stretches: Float64Array.from(found.sort((p, q) => p[0] - q[0]).flat()) };
}

export interface SeamDifference {
  /** Along which both have land, job units. */
  readonly shared: number;
  /** Along which one of the two alone has. */
  readonly oneSided: number;
  /** Largest difference of elevation where both have land. */
  readonly worst: number;
  /** Along which they differ by more than the tolerance. */
  readonly differing: number;
}

/** How two surfaces that meet along a line differ on it. */
export function profilesDiffer(one: EdgeProfile, other: EdgeProfile, tolerance: number): SeamDifference {
  const places = new Set<number>();
  for (const { stretches } of [one, other]) for (let k = 0; k < stretches.length; k += 2) places.add(stretches[k]!);
  const stations = [...places].sort((a, b) => a - b);
  let [shared, oneSided, worst, differing] = [0, 0, 0, 0];
  const [atOne, atOther] = [reader(one), reader(other)];
  for (let k = 0; k + 1 < stations.length; k++) {
    const [from, to] = [stations[k]!, stations[k + 1]!];
    const length = to - from;
    // Corners that are one but for the last digits of their coordinates.
    if (length <= ON_LINE) continue;
    const [p, q] = [atOne(from, to), atOther(from, to)];
    if (p && q) {
      const most = Math.max(Math.abs(p[0] - q[0]), Math.abs(p[1] - q[1]));
      shared += length;
      worst = Math.max(worst, most);
      if (most > tolerance) differing += length;
    } else if (p || q) oneSided += length;
  }
  return { shared, oneSided, worst, differing };
}

/** Elevations at both ends of a stretch, asked from south to north or west to east; none where there is no land. */
function reader({ stretches }: EdgeProfile): (from: number, to: number) => [number, number] | undefined {
  let at = 0;
  return (from, to) => {
    const middle = (from + to) / 2;
    while (at < stretches.length && stretches[at + 2]! < middle) at += 4;
    if (at >= stretches.length || stretches[at]! > middle) return undefined;
    const [begin, low, end, high] = stretches.subarray(at, at + 4) as unknown as [number, number, number, number];
    const of = (place: number): number => low + ((high - low) * (place - begin)) / (end - begin);
    return [of(from), of(to)];
  };
}
