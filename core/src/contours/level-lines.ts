import { checkCancelled, type Progress } from '../task/index.js';
import { TerrainError } from '../terrain/terrain-error.js';
import type { ContourOptions, TracedContours } from './contour-set.js';

/** More levels than any plan shows: an interval typed in the wrong unit. */
const MOST_LEVELS = 20_000;

/** Which pieces of a surface each level crosses. */
export interface Levels {
  /** Number of the lowest level, counted from the base. */
  readonly firstLevel: number;
  readonly levelCount: number;
  /** Level k crosses the pieces `crossed[starts[k] … starts[k + 1]]`. */
  readonly starts: Float64Array;
  readonly crossed: Uint32Array;
}

/** How levels lie: what numbers and bands need of the options. */
export type Spacing = Pick<ContourOptions, 'interval' | 'base'>;

/** The number of a corner without an elevation. */
export const NO_LEVEL = -0x40000000; // fits a small integer of the engine

/**
 * Of each corner the number of the highest level at or below it, counted from the base; {@link NO_LEVEL} where it has no elevation.
 * @throws TerrainError `interval-wrong`
 */
export function levelNumbers(elevations: ArrayLike<number>, { interval, base }: Spacing): Int32Array {
  if (!(interval > 0) || !Number.isFinite(base)) {
    throw new TerrainError('interval-wrong', {
      what: `A contour interval of ${interval} through ${base} draws nothing.`,
      fix: 'Give an interval above zero.',
    });
  }
  const out = new Int32Array(elevations.length);
  // Neighbours mostly lie between the same two levels.
  let [number, from, to] = [NO_LEVEL, Infinity, -Infinity];
  for (let i = 0; i < out.length; i++) {
    const z = elevations[i]!;
    if (!(z >= from && z < to)) {
      if (z !== z) {
        out[i] = NO_LEVEL;
        continue;
      }
      number = levelAtOrBelow(z, interval, base);
      from = base + number * interval;
      to = base + (number + 1) * interval;
    }
    out[i] = number;
  }
  return out;
}

/** Least and greatest of the {@link levelNumbers} of each facet's corners. */
export function facetRanges(facets: Uint32Array, numbers: Int32Array): { low: Int32Array; high: Int32Array } {
  const [low, high] = [new Int32Array(facets.length / 3), new Int32Array(facets.length / 3)];
  for (let f = 0; f < low.length; f++) {
    const a = numbers[facets[3 * f]!]!;
    const b = numbers[facets[3 * f + 1]!]!;
    const c = numbers[facets[3 * f + 2]!]!;
    low[f] = Math.min(a, b, c);
    high[f] = Math.max(a, b, c);
  }
  return { low, high };
}

/**
 * Lists the pieces each level crosses: those with a corner below it and one at or above it.
 * @param low - least of each piece's {@link levelNumbers}; likewise `high`, no more than `low` where no level crosses the piece
 * @throws TerrainError `too-many-contours`
 */
export function levelsOf(low: Int32Array, high: Int32Array, { interval }: Spacing): Levels {
  const pieces = low.length;
  let firstLevel = Infinity;
  let lastLevel = -Infinity;
  for (let f = 0; f < pieces; f++) {
    const [first, last] = [low[f]! + 1, high[f]!];
    if (last < first) continue;
    if (first < firstLevel) firstLevel = first;
    if (last > lastLevel) lastLevel = last;
  }
  if (firstLevel > lastLevel)
    return { firstLevel: 0, levelCount: 0, starts: new Float64Array(1), crossed: new Uint32Array(0) };
  const levelCount = lastLevel - firstLevel + 1;
  refuseTooMany(levelCount, interval);
  const starts = new Float64Array(levelCount + 1);
  for (let f = 0; f < pieces; f++) for (let l = low[f]! + 1; l <= high[f]!; l++) starts[l - firstLevel + 1]!++;
  for (let k = 0; k < levelCount; k++) starts[k + 1]! += starts[k]!;
  const crossed = new Uint32Array(starts[levelCount]!);
  const next = starts.slice();
  for (let f = 0; f < pieces; f++) for (let l = low[f]! + 1; l <= high[f]!; l++) crossed[next[l - firstLevel]!++] = f;
  return { firstLevel, levelCount, starts, crossed };
}

/** Visits the levels within the range asked for, from the lowest. */
export function eachLevel(
  { firstLevel, levelCount, starts, crossed }: Levels,
  { interval, base, from, to }: ContourOptions,
  progress: Progress,
  signal: { readonly aborted: boolean } | undefined,
  visit: (elevation: number, k: number, crossed: Uint32Array) => void,
): void {
  for (let k = 0; k < levelCount; k++) {
    if ((k & 15) === 0) {
      checkCancelled(signal);
      progress(k / levelCount);
    }
    const at = base + (firstLevel + k) * interval;
    if (at < (from ?? -Infinity) || at > (to ?? Infinity)) continue;
    visit(at, k, crossed.subarray(starts[k]!, starts[k + 1]!));
  }
  progress(1);
}

/**
 * Corners nearer to one another than this are one, job units: files are written to four decimals, in which they could not be told
 * apart (√2 of the last decimal, and a little).
 */
const SAME_PLACE = 1.5e-4;

/** Corners nearer to an edge of a square than this lie on it, job units. */
const ON_EDGE = 1e-7;

/** Takes lines corner by corner and makes columns of those that are long enough. */

export class LineCollector {
  private readonly e = new GrowingFloats();
  private readonly n = new GrowingFloats();
  private readonly facet = new GrowingFloats();
  private readonly level: number[] = [];
  private readonly isIndex: number[] = [];
  private readonly isClosed: number[] = [];
  private readonly isDepression: number[] = [];
  private readonly starts: number[] = [0];
  private from = 0;
  private length = 0;

  /** @param origin - what is added to the coordinates given, for full ones */
  constructor(
    private readonly options: Pick<ContourOptions, 'indexEvery' | 'minimumLength' | 'square'>,
    private readonly origin: readonly [number, number] = [0, 0],
  ) {}

  begin(): void {
    this.from = this.e.length;
    this.length = 0;
  }

  /** A corner, and the piece of the surface that it was reached through; one at the place of the last is left out. */
  add(easting: number, northing: number, facet: number): void {
    const { e, n } = this;
    const last = e.length - 1;
    if (last >= this.from) {
      const east = easting - e.values[last]!;
      const north = northing - n.values[last]!;
      const step = Math.sqrt(east * east + north * north);
      if (step <= SAME_PLACE) return;
      this.length += step;
    }
    e.push(easting);
    n.push(northing);
    this.facet.push(facet);
  }

  end(elevation: number, levelNumber: number, closes: boolean): void {
    const { e, n, facet, from, length } = this;
    const { indexEvery, minimumLength } = this.options;
    // Where the corner that closes a ring was left out, the one in its place closes it.
    const last = e.length - 1;
    if (closes && last > from) {
      e.values[last] = e.values[from]!;
      n.values[last] = n.values[from]!;
    }
    const isShort = length < minimumLength && !this.endsOnEdge(from) && !this.endsOnEdge(last);
    if (e.length - from < (closes ? 4 : 2) || isShort || length === 0) {
      e.length = n.length = facet.length = from;
      return;
    }
    this.level.push(elevation);
    this.isIndex.push(indexEvery > 0 && levelNumber % indexEvery === 0 ? 1 : 0);
    this.isClosed.push(closes ? 1 : 0);
    // The higher ground is on the right, so a ring round lower ground runs counter-clockwise.
    this.isDepression.push(closes && ringArea(e.values, n.values, from, e.length) > 0 ? 1 : 0);
    facet.values[from] = facet.values[from + 1]!;
    this.starts.push(e.length);
  }

  /** Whether a corner lies on an edge of the square. */
  private endsOnEdge(v: number): boolean {
    const { square } = this.options;
    if (!square) return false;
    const [e, n] = [this.e.values[v]! + this.origin[0], this.n.values[v]! + this.origin[1]];
    const isOn = (value: number, edge: number): boolean => Math.abs(value - edge) < ON_EDGE;
    return isOn(e, square.west) || isOn(e, square.east) || isOn(n, square.south) || isOn(n, square.north);
  }

  finish(origin: readonly [number, number]): TracedContours {
    return {
      contours: {
        origin,
        level: Float64Array.from(this.level),
        isIndex: Uint8Array.from(this.isIndex),
        isClosed: Uint8Array.from(this.isClosed),
        isDepression: Uint8Array.from(this.isDepression),
        isObscured: new Uint8Array(this.level.length),
        starts: Uint32Array.from(this.starts),
        easting: this.e.trimmed(),
        northing: this.n.trimmed(),
      },
      facetOf: Uint32Array.from(this.facet.trimmed()),
    };
  }
}

/** Area of a closed line, positive counter-clockwise, about its first corner. */
function ringArea(e: Float64Array, n: Float64Array, from: number, to: number): number {
  let twice = 0;
  for (let v = from + 1; v < to; v++)
    twice += (e[v - 1]! - e[from]!) * (n[v]! - n[from]!) - (n[v - 1]! - n[from]!) * (e[v]! - e[from]!);
  return twice / 2;
}

/** The number of the lowest level strictly above an elevation; settled by the same sum that gives the level itself. */
function levelAbove(elevation: number, interval: number, base: number): number {
  let k = Math.floor((elevation - base) / interval);
  while (base + k * interval <= elevation) k++;
  while (base + (k - 1) * interval > elevation) k--;
  return k;
}

function levelAtOrBelow(elevation: number, interval: number, base: number): number {
  return levelAbove(elevation, interval, base) - 1;
}

/** @throws TerrainError `too-many-contours` */
export function refuseTooMany(levels: number, interval: number): void {
  if (levels <= MOST_LEVELS) return;
  throw new TerrainError('too-many-contours', {
    what: `An interval of ${interval} makes ${levels} contours between the lowest and the highest ground; ${MOST_LEVELS} are the most.`,
    fix: 'Give a wider interval: is it in the unit of the job?',
  });
}

/** A float column that doubles when full. */
class GrowingFloats {
  values = new Float64Array(1024);
  length = 0;
  push(value: number): void {
    if (this.length === this.values.length) {
      const larger = new Float64Array(this.values.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    this.values[this.length++] = value;
  }
  trimmed(): Float64Array {
    return this.values.slice(0, this.length);
  }
}
