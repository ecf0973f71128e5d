import { shapeOf, sourceNumber, type LineShape } from '../lines/index.js';
import { signedArea, upperMedian, valueAlong } from '../measuring/index.js';
import { waterLines, type WaterOptions } from '../terrain/index.js';
import { fallingLevels } from './falling-levels.js';

interface Points {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/** The edge of a pond or of a reach of a river. */
export interface WaterEdge {
  readonly isFlowing: boolean;
  /** The outer edge first, then islands. */
  readonly rings: readonly LineShape[];
  /** Of a pond its level; of a reach where it comes in and where it leaves. */
  readonly high: number;
  readonly low: number;
  readonly area: number;
  /** Corners beside which land lies lower than the water: there the outline or the classes are wrong. */
  readonly lowBanks: number;
}

export interface WaterEdgeOptions extends WaterOptions {
  /** Water that falls by more from end to end flows; less is one level. Job units. */
  readonly leastFall: number;
  /** How far a bank may lie under the water's level before it is told; job units. */
  readonly bankTolerance: number;
}

/** Pieces that levels of a reach are taken over, along its longer axis. */
const STRETCHES = 24;
const LEAST_POINTS = 3;

/**
 * Edges of water with the levels they are laid at: a pond has one, a reach levels that only fall the way the water runs (hydro-flattening
 * as in the USGS Lidar Base Specification), along the longer axis of the piece.
 */
export function waterEdges(water: Points, land: Points, options: WaterEdgeOptions): WaterEdge[] {
  const lowestLand = lowestByCell(land, options.cell);
  return waterLines(water, land, 'water', options).map(({ lines, level, area }): WaterEdge => {
    const outer = lines.filter(({ isIsland }) => !isIsland);
    const axis = longerAxis(
      outer.flatMap(({ easting, northing }) => easting.map((e, k) => [e, northing[k]!] as const)),
    );
    const levels = levelsAlong(water, outer, axis);
    const [high, low] = [levels.at(0), levels.at(-1)];
    const isFlowing = high - low > options.leastFall;
    const levelOf = (e: number, n: number): number => (isFlowing ? levels.of(e, n) : level);
    // Specks of land are points that were classed wrong, not islands.
    const kept = lines.filter((line) => !line.isIsland || areaOf(line) >= options.minimumArea / 4);
    const rings = kept.map(({ easting, northing }) =>
      shapeOf(
        easting.map((e, k) => ({ e, n: northing[k]!, z: levelOf(e, northing[k]!), source: sourceNumber('found') })),
        true,
      ),
    );
    let lowBanks = 0;
    for (const { easting, northing, elevation } of rings)
      for (let k = 0; k < easting.length; k++) {
        const beside = lowestLand(easting[k]!, northing[k]!);
        if (beside !== undefined && beside < elevation[k]! - options.bankTolerance) lowBanks++;
      }
    return { isFlowing, rings, high: isFlowing ? high : level, low: isFlowing ? low : level, area, lowBanks };
  });
}

interface Axis {
  readonly middle: readonly [number, number];
  readonly along: readonly [number, number];
  readonly from: number;
  readonly length: number;
}

/** The direction in which places lie furthest apart, and how far: that of the larger spread about their middle. */
function longerAxis(places: readonly (readonly [number, number])[]): Axis {
  const count = places.length;
  const middle = [0, 1].map((axis) => places.reduce((sum, place) => sum + place[axis]!, 0) / count) as [number, number];
  let [ee, en, nn] = [0, 0, 0];
  for (const [e, n] of places) {
    const [x, y] = [e - middle[0], n - middle[1]];
    ee += x * x;
    en += x * y;
    nn += y * y;
  }
  const angle = 0.5 * Math.atan2(2 * en, ee - nn);
  const along = [Math.cos(angle), Math.sin(angle)] as const;
  let [from, to] = [Infinity, -Infinity];
  for (const [e, n] of places) {
    const station = (e - middle[0]) * along[0] + (n - middle[1]) * along[1];
    from = Math.min(from, station);
    to = Math.max(to, station);
  }
  return { middle, along, from, length: to - from };
}

interface Levels {
  /** Of the first and the last stretch down the water. */
  at(end: 0 | -1): number;
  of(e: number, n: number): number;
}

function levelsAlong(
  water: Points,
  rings: readonly { readonly easting: readonly number[]; readonly northing: readonly number[] }[],
  { middle, along, from, length }: Axis,
): Levels {
  const box = boxOf(rings);
  const stationOf = (e: number, n: number): number =>
    Math.max(0, Math.min(1, ((e - middle[0]) * along[0] + (n - middle[1]) * along[1] - from) / (length || 1)));
  const heights = Array.from({ length: STRETCHES }, (): number[] => []);
  for (let i = 0; i < water.easting.length; i++) {
    const [e, n] = [water.easting[i]!, water.northing[i]!];
    if (e < box[0] || e > box[2] || n < box[1] || n > box[3]) continue;
    heights[Math.min(STRETCHES - 1, Math.floor(stationOf(e, n) * STRETCHES))]!.push(water.elevation[i]!);
  }
  const known = heights.flatMap((of, k) => {
    if (of.length < LEAST_POINTS) return [];
    return [{ k, level: upperMedian(of)!, weight: of.length }];
  });
  if (known.length === 0) return { at: () => NaN, of: () => NaN };
  // Which way it falls: the slope of levels over stretches, by all of them.
  const mean = (pick: (of: (typeof known)[number]) => number): number => known.reduce((sum, of) => sum + pick(of) * of.weight, 0) / known.reduce((sum, { weight }) => sum + weight, 0); // prettier-ignore
  const [km, zm] = [mean(({ k }) => k), mean(({ level }) => level)];
  const falls = mean(({ k, level }) => (k - km) * (level - zm)) <= 0;
  const down = falls ? known : [...known].reverse();
  const levels = fallingLevels(down.map(({ level }) => level), down.map(({ weight }) => weight)); // prettier-ignore
  // Down the water, as the levels are.
  const stations = down.map(({ k }) => (falls ? k + 0.5 : STRETCHES - k - 0.5) / STRETCHES);
  const [first, last] = [stations[0]!, stations.at(-1)!];
  return {
    at: (end) => levels.at(end)!,
    of(e, n) {
      const station = stationOf(e, n);
      return valueAlong(stations, levels, Math.max(first, Math.min(last, falls ? station : 1 - station)));
    },
  };
}

function boxOf(
  rings: readonly { readonly easting: readonly number[]; readonly northing: readonly number[] }[],
): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { easting, northing } of rings)
    easting.forEach((e, k) => {
      box[0] = Math.min(box[0], e);
      box[1] = Math.min(box[1], northing[k]!);
      box[2] = Math.max(box[2], e);
      box[3] = Math.max(box[3], northing[k]!);
    });
  return box;
}

/** The lowest land within a cell or its neighbours. */
function lowestByCell(
  { easting, northing, elevation }: Points,
  cell: number,
): (e: number, n: number) => number | undefined {
  const lowest = new Map<string, number>();
  const key = (column: number, row: number): string => `${column} ${row}`;
  for (let i = 0; i < easting.length; i++) {
    const at = key(Math.floor(easting[i]! / cell), Math.floor(northing[i]! / cell));
    lowest.set(at, Math.min(lowest.get(at) ?? Infinity, elevation[i]!));
  }
  return (e, n) => {
    let least: number | undefined;
    for (let dc = -1; dc <= 1; dc++)
      for (let dr = -1; dr <= 1; dr++) {
        const of = lowest.get(key(Math.floor(e / cell) + dc, Math.floor(n / cell) + dr));
        if (of !== undefined && (least === undefined || of < least)) least = of;
      }
    return least;
  };
}

function areaOf({
  easting,
  northing,
}: {
  readonly easting: readonly number[];
  readonly northing: readonly number[];
}): number {
  return Math.abs(signedArea(easting.map((e, k) => [e, northing[k]!] as const)));
}
