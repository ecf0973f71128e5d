import type { Places } from '../cleaning/neighbour-grid.js';

/** Metres. Where no source is named these are sizes of made things as met in practice, no source. */
const POLE_WIDTH = 3;
export const TOWER_WIDTH = 14;
/** Shaft of a pole, seen by a beam some centimetres wide, root mean square about its axis. */
const SHAFT = 0.35;
/** A wire this near the top of something is carried by it. */
const CARRIES_WITHIN = 1.8;
/**
 * Half way up, between these shares of its height, a mast or a lattice tower keeps within this share of it, root mean square about its
 * axis; a tree that a wire passes is as wide there as anywhere.
 */
const [WAIST, WAIST_WIDTH] = [[0.35, 0.65], 0.16] as const;
/** Within these shares of its height there is nothing on a pole but its shaft; above, what lies further from its axis than an arm is wire. */
const BARE_SHAFT = [0.3, 0.65] as const;
const ARM = 0.75;

/** Points of a slender pole that lie away from its axis near its top: ends of the spans it carries. None of a tower, which is wide; all where there is no pole. */
export function spanEnds({ x, y }: Places, heights: Float32Array, points: readonly number[], metre: number): number[] {
  const top = points.reduce((most, i) => Math.max(most, heights[i]!), 0);
  const upper = points.filter((i) => heights[i]! >= BARE_SHAFT[1] * top);
  if (upper.length === points.length) return upper; // nothing holds it up: a piece of a span
  const shaft = points.filter((i) => heights[i]! >= BARE_SHAFT[0] * top && heights[i]! < BARE_SHAFT[1] * top);
  if (shaft.length === 0) return [];
  const [east, north] = axisOf({ x, y }, shaft);
  const off = (i: number): number => Math.hypot(x[i]! - east, y[i]! - north);
  if (shaft.some((i) => off(i) > (POLE_WIDTH / 2) * metre)) return [];
  return upper.filter((i) => off(i) > ARM * metre);
}

/** The middle of points in plan. */
function axisOf({ x, y }: Pick<Places, 'x' | 'y'>, points: readonly number[]): [number, number] {
  const mean = (values: Float64Array): number => points.reduce((sum, i) => sum + values[i]!, 0) / points.length;
  return [mean(x), mean(y)];
}

/** Whether points make a pole, and whether as one that carries wires. */
export function poleKind(
  { x, y, z }: Places,
  heights: Float32Array,
  points: readonly number[],
  leastHeight: number,
  metre: number,
  wires: readonly number[],
): 'carries' | 'slender' | undefined {
  let [west, south, east, north, top, topZ] = [Infinity, Infinity, -Infinity, -Infinity, -Infinity, -Infinity];
  for (const i of points) {
    west = Math.min(west, x[i]!);
    east = Math.max(east, x[i]!);
    south = Math.min(south, y[i]!);
    north = Math.max(north, y[i]!);
    top = Math.max(top, heights[i]!);
    topZ = Math.max(topZ, z[i]!);
  }
  const width = Math.hypot(east - west, north - south);
  if (top < leastHeight || points.length < 3) return undefined;
  const isNarrow = width <= POLE_WIDTH * metre && top >= 2 * width;
  if (!isNarrow && (width > TOWER_WIDTH * metre || top < width)) return undefined;
  if (carries(west, south, east, north, topZ) && (isNarrow || hasWaist(x, y, heights, points, top))) return 'carries';
  if (!isNarrow) return undefined;
  // Its shaft: what is under the top fifth, about a line that may lean.
  const shaft = points.filter((i) => heights[i]! < 0.8 * top);
  if (shaft.length < 4) return undefined;
  const spread = (v: Float64Array): number => {
    let [n, sh, sv, hh, hv, vv] = [0, 0, 0, 0, 0, 0];
    for (const i of shaft) {
      const [h, value] = [heights[i]!, v[i]! - v[shaft[0]!]!];
      n++;
      sh += h;
      sv += value;
      hh += h * h;
      hv += h * value;
      vv += value * value;
    }
    const across = hh / n - (sh / n) ** 2;
    const along = hv / n - (sh / n) * (sv / n);
    return Math.max(0, vv / n - (sv / n) ** 2 - (across > 0 ? (along * along) / across : 0));
  };
  return Math.sqrt(spread(x) + spread(y)) <= SHAFT * metre ? 'slender' : undefined;

  function carries(w: number, s: number, e: number, n: number, level: number): boolean {
    const reach = CARRIES_WITHIN * metre;
    return wires.some(
      (i) =>
        x[i]! > w - reach &&
        x[i]! < e + reach &&
        y[i]! > s - reach &&
        y[i]! < n + reach &&
        Math.abs(z[i]! - level) < reach,
    );
  }
}

/** Whether points are as narrow half way up as what is built to carry is. */
function hasWaist(
  x: Float64Array,
  y: Float64Array,
  heights: Float32Array,
  points: readonly number[],
  top: number,
): boolean {
  const waist = points.filter((i) => heights[i]! > WAIST[0] * top && heights[i]! < WAIST[1] * top);
  const [east, north] = axisOf({ x, y }, waist);
  const square = waist.reduce((sum, i) => sum + (x[i]! - east) ** 2 + (y[i]! - north) ** 2, 0) / waist.length;
  return waist.length > 0 && Math.sqrt(square) <= WAIST_WIDTH * top;
}
