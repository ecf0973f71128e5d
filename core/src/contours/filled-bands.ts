import { signedArea, type Corner } from '../measuring/plan-outline.js';
import { Outline } from '../selection/index.js';
import { nextSide, type Tin } from '../terrain/index.js';
import { facetRanges, levelNumbers, refuseTooMany, type Spacing } from './level-lines.js';

/** Land between two elevations. */
export interface FilledBand {
  readonly low: number;
  readonly high: number;
  /** Rings about the surface's origin, not closed by repeating: the first counter-clockwise, holes in it clockwise. */
  readonly polygons: readonly (readonly (readonly Corner[])[])[];
  /** In plan, square units. */
  readonly area: number;
}

/**
 * The land between each contour and the next as polygons that fill the surface without gap or overlap: along contours as they are
 * traced, along the rim as the surface has it. A corner at the very level counts as above it, as in tracing.
 * @throws TerrainError `interval-wrong`, `too-many-contours`
 */
export function filledBands(tin: Tin, options: Spacing): FilledBand[] {
  const { easting, northing, elevation, facets, twins } = tin;
  const { interval, base } = options;
  const numbers = levelNumbers(elevation, options);
  const { low, high } = facetRanges(facets, numbers);
  const count = low.length;
  if (count === 0) return [];
  const least = low.reduce((a, b) => Math.min(a, b));
  const most = high.reduce((a, b) => Math.max(a, b));
  refuseTooMany(most - least, interval);
  // Band k lies between levels k and k + 1. Of each the sides of its outline: where they begin, and where they lead.
  const outlines = Array.from({ length: most - least + 1 }, () => new Map<string, string[]>());
  const places = new Map<string, Corner>();
  const lead = (band: number, from: string, to: string): void => {
    if (from === to) return;
    const ways = outlines[band - least]!;
    // There and back again is no outline: a ridge just at a level has the same band on both sides.
    const back = ways.get(to);
    const at = back?.indexOf(from) ?? -1;
    if (at >= 0) {
      back!.splice(at, 1);
      return;
    }
    const there = ways.get(from);
    if (there) there.push(to);
    else ways.set(from, [to]);
  };
  /** Corners in one place are one: a level that passes through a corner crosses all sides there. */
  const placed = (e: number, n: number): string => {
    const key = keyOf([e, n]);
    if (!places.has(key)) places.set(key, [e, n]);
    return key;
  };
  const cornerAt = (i: number): string => placed(easting[i]!, northing[i]!);
  /** Where a level crosses a side: the same from both of its facets. */
  const crossingAt = (h: number, level: number): string => {
    let [a, b] = [facets[h]!, facets[nextSide(h)]!];
    if (a > b) [a, b] = [b, a];
    const share = (base + level * interval - elevation[a]!) / (elevation[b]! - elevation[a]!);
    return placed(
      easting[a]! + (easting[b]! - easting[a]!) * share,
      northing[a]! + (northing[b]! - northing[a]!) * share,
    );
  };
  for (let f = 0; f < count; f++)
    for (let level = low[f]! + 1; level <= high[f]!; level++) {
      const isAbove = [0, 1, 2].map((k) => numbers[facets[3 * f + k]!]! >= level);
      const rising = 3 * f + [0, 1, 2].find((k) => !isAbove[k] && isAbove[(k + 1) % 3])!;
      const falling = 3 * f + [0, 1, 2].find((k) => isAbove[k] && !isAbove[(k + 1) % 3])!;
      const [enter, leave] = [crossingAt(rising, level), crossingAt(falling, level)];
      // From the rising to the falling side the lower band lies to the left, the upper one to the right.
      lead(level - 1, enter, leave);
      lead(level, leave, enter);
    }
  for (let h = 0; h < facets.length; h++) {
    if (twins[h]! >= 0) continue;
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    const [from, to] = [numbers[a]!, numbers[b]!];
    let at = cornerAt(a);
    let band = from;
    while (band !== to) {
      const level = to > from ? band + 1 : band;
      const crossing = crossingAt(h, level);
      lead(band, at, crossing);
      at = crossing;
      band += to > from ? 1 : -1;
    }
    lead(band, at, cornerAt(b));
  }
  return outlines.flatMap((ways, k): FilledBand[] => {
    const rings = ringsOf(ways, places);
    if (rings.length === 0) return [];
    const area = rings.reduce((sum, ring) => sum + signedArea(ring), 0);
    const from = base + (least + k) * interval;
    return [{ low: from, high: from + interval, polygons: nested(rings), area }];
  });
}

/** A millionth of a unit: nearer corners are in one place. */
function keyOf([e, n]: Corner): string {
  return `${e.toFixed(6)} ${n.toFixed(6)}`;
}

/** Follows the sides from one to the next until each ring closes, keeping the band on the left where several meet. */
function ringsOf(ways: Map<string, string[]>, places: ReadonlyMap<string, Corner>): Corner[][] {
  const rings: Corner[][] = [];
  for (const [start, leads] of ways)
    while (leads.length > 0) {
      const ring: Corner[] = [];
      let before: Corner | undefined;
      let at = start;
      do {
        const place = places.get(at)!;
        ring.push(place);
        const leadsOn = ways.get(at)!;
        const chosen = leadsOn.length > 1 && before ? leftmost(before, place, leadsOn, places) : leadsOn.length - 1;
        before = place;
        at = leadsOn.splice(chosen, 1)[0]!;
      } while (at !== start);
      for (const part of apart(ring)) if (part.length > 2 && Math.abs(signedArea(part)) > 1e-9) rings.push(part);
    }
  return rings;
}

/** Of the ways on from a place, the first one met turning right from where it was come from: between them lies the band. */
function leftmost(
  [fromE, fromN]: Corner,
  [e, n]: Corner,
  leadsOn: readonly string[],
  places: ReadonlyMap<string, Corner>,
): number {
  const back = Math.atan2(fromN - n, fromE - e);
  const turns = leadsOn.map((to) => {
    const [toE, toN] = places.get(to)!;
    const turn = back - Math.atan2(toN - n, toE - e);
    return turn > 0 ? turn : turn + 2 * Math.PI;
  });
  return turns.indexOf(Math.min(...turns));
}

/** A ring that comes back to a place is two that touch there. */
function apart(ring: readonly Corner[]): Corner[][] {
  const out: Corner[][] = [];
  const way: Corner[] = [];
  const seenAt = new Map<string, number>();
  for (const corner of ring) {
    const key = keyOf(corner);
    const before = seenAt.get(key);
    if (before !== undefined) {
      const loop = way.splice(before);
      for (const gone of loop) seenAt.delete(keyOf(gone));
      out.push(loop);
    }
    seenAt.set(key, way.length);
    way.push(corner);
  }
  out.push(way);
  return out;
}

/** Outer rings with the holes that lie in them: each in the smallest that holds it. */
function nested(rings: readonly Corner[][]): Corner[][][] {
  const outer = rings
    .filter((ring) => signedArea(ring) > 0)
    .map((ring) => ({ polygon: [ring], outline: new Outline(ring), area: signedArea(ring) }))
    .sort((a, b) => a.area - b.area);
  for (const hole of rings) {
    if (signedArea(hole) > 0) continue;
    // Its corners may lie on the outer ring; the middle of one of its sides hardly does.
    const middle = (k: number): Corner => [(hole[k]![0] + hole[k + 1]![0]) / 2, (hole[k]![1] + hole[k + 1]![1]) / 2];
    const tries = Array.from({ length: Math.min(7, hole.length - 1) }, (_, k) => middle(k));
    const home = outer.find(
      ({ outline, area }) =>
        area > -signedArea(hole) && 2 * tries.filter(([x, y]) => outline.contains(x, y)).length > tries.length,
    );
    home?.polygon.push(hole);
  }
  return outer.map(({ polygon }) => polygon);
}
