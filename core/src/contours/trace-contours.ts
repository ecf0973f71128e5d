import { checkCancelled, noProgress, type Progress } from '../task/index.js';
import { TerrainError, type Tin } from '../terrain/index.js';

export interface ContourOptions {
  /** Between neighbouring contours, job units. */
  readonly interval: number;
  /** An elevation that the contours pass through. */
  readonly base: number;
  /** Every n-th contour counted from the base is an index contour; 0 for none. */
  readonly indexEvery: number;
  /** Lines shorter than this are left out; job units, 0 keeps all. */
  readonly shortestLength: number;
  /** Contours lower or higher than these are left out. */
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}

export const contourDefaults: ContourOptions = { interval: 0.5, base: 0, indexEvery: 5, shortestLength: 0 };

/** Contours as columns. Line l has vertices `starts[l]` up to but not including `starts[l + 1]`. */
export interface ContourSet {
  readonly origin: readonly [number, number];
  /** Elevation of each line. */
  readonly level: Float64Array;
  readonly isIndex: Uint8Array;
  /** 1 where the line closes on itself; its first vertex is then repeated at its end. */
  readonly isClosed: Uint8Array;
  readonly starts: Uint32Array;
  readonly easting: Float64Array;
  readonly northing: Float64Array;
}

/** More levels than any plan shows: an interval typed in the wrong unit. */
const MOST_LEVELS = 20_000;

/**
 * Traces contours on the facets themselves, exactly: no gridding, no smoothing. Each lies with the higher ground on its
 * right. A corner at the very level counts as above it, so contours of different levels never touch, every line ends at the
 * rim or closes, and a level facet draws nothing.
 * @throws TerrainError `interval-wrong`, `too-many-contours`
 */
export function traceContours(
  tin: Tin,
  options: ContourOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): ContourSet {
  const { interval, base, indexEvery, shortestLength } = options;
  if (!(interval > 0) || !Number.isFinite(base)) {
    throw new TerrainError('interval-wrong', {
      what: `A contour interval of ${interval} through ${base} draws nothing.`,
      mend: 'Give an interval above zero.',
    });
  }
  const { easting, northing, elevation, facets, twins } = tin;
  const facetCount = facets.length / 3;
  const { firstLevel, levelCount, levelStarts, crossed } = facetsByLevel(tin, interval, base);

  const seenAt = new Int32Array(facetCount).fill(-1);
  const outE = new GrowingFloats();
  const outN = new GrowingFloats();
  const level: number[] = [];
  const isIndex: number[] = [];
  const isClosed: number[] = [];
  const starts: number[] = [0];

  for (let k = 0; k < levelCount; k++) {
    if ((k & 15) === 0) {
      checkCancelled(signal);
      progress(k / levelCount);
    }
    const elevationHere = base + (firstLevel + k) * interval;
    if (elevationHere < (options.from ?? -Infinity) || elevationHere > (options.to ?? Infinity)) continue;
    const isIndexHere = indexEvery > 0 && (firstLevel + k) % indexEvery === 0;
    // First the lines that come in over the rim, then those left, which close.
    for (const closes of [false, true]) {
      for (let c = levelStarts[k]!; c < levelStarts[k + 1]!; c++) {
        const facet = crossed[c]!;
        if (seenAt[facet] === k) continue;
        const entry = risingSide(facet, elevationHere);
        if (!closes && twins[entry]! >= 0) continue;
        const from = outE.length;
        const length = walk(entry, elevationHere, k);
        if (outE.length - from < 2 || length < shortestLength || length === 0) {
          outE.length = outN.length = from;
          continue;
        }
        level.push(elevationHere);
        isIndex.push(isIndexHere ? 1 : 0);
        isClosed.push(closes ? 1 : 0);
        starts.push(outE.length);
      }
    }
  }
  progress(1);
  return {
    origin: tin.origin,
    level: Float64Array.from(level),
    isIndex: Uint8Array.from(isIndex),
    isClosed: Uint8Array.from(isClosed),
    starts: Uint32Array.from(starts),
    easting: outE.trimmed(),
    northing: outN.trimmed(),
  };

  /** The half-edge of a crossed facet that goes from below the level to at or above it: there is exactly one. */
  function risingSide(facet: number, at: number): number {
    const h = 3 * facet;
    const above0 = elevation[facets[h]!]! >= at;
    const above1 = elevation[facets[h + 1]!]! >= at;
    const above2 = elevation[facets[h + 2]!]! >= at;
    if (!above0 && above1) return h;
    return !above1 && above2 ? h + 1 : h + 2;
  }

  /** Follows a line from its entry side until it leaves over the rim or is back; returns its length. */
  function walk(entry: number, at: number, levelIndex: number): number {
    let length = 0;
    let side = entry;
    addCrossing(side, at);
    for (;;) {
      const facet = (side / 3) | 0;
      seenAt[facet] = levelIndex;
      // The falling side: of the two others, the one whose start is at or above the level and whose end is below.
      let exit = side % 3 === 2 ? side - 2 : side + 1;
      const exitEnd = facets[exit % 3 === 2 ? exit - 2 : exit + 1]!;
      if (elevation[exitEnd]! >= at) exit = exit % 3 === 2 ? exit - 2 : exit + 1;
      length += addCrossing(exit, at);
      const next = twins[exit]!;
      if (next < 0 || next === entry) return length;
      side = next;
    }
  }

  /** Where the level crosses a side; reckoned from the corner with the lower index, so both facets agree to the last bit. */
  function addCrossing(side: number, at: number): number {
    let a = facets[side]!;
    let b = facets[side % 3 === 2 ? side - 2 : side + 1]!;
    if (a > b) [a, b] = [b, a];
    const share = (at - elevation[a]!) / (elevation[b]! - elevation[a]!);
    const e = easting[a]! + (easting[b]! - easting[a]!) * share;
    const n = northing[a]! + (northing[b]! - northing[a]!) * share;
    const last = outE.length - 1;
    if (last >= starts[starts.length - 1]!) {
      const step = Math.hypot(e - outE.values[last]!, n - outN.values[last]!);
      if (step === 0) return 0;
      outE.push(e);
      outN.push(n);
      return step;
    }
    outE.push(e);
    outN.push(n);
    return 0;
  }
}

/** Lists the facets each level crosses: those with a corner below it and one at or above it. */
function facetsByLevel(
  tin: Tin,
  interval: number,
  base: number,
): { firstLevel: number; levelCount: number; levelStarts: Float64Array; crossed: Uint32Array } {
  const { elevation, facets } = tin;
  const facetCount = facets.length / 3;
  const firstOf = new Int32Array(facetCount);
  const lastOf = new Int32Array(facetCount);
  let firstLevel = Infinity;
  let lastLevel = -Infinity;
  for (let f = 0; f < facetCount; f++) {
    const a = elevation[facets[3 * f]!]!;
    const b = elevation[facets[3 * f + 1]!]!;
    const c = elevation[facets[3 * f + 2]!]!;
    const first = levelAbove(Math.min(a, b, c), interval, base);
    const last = levelAtOrBelow(Math.max(a, b, c), interval, base);
    if (last - first > MOST_LEVELS) throw tooMany(last - first, interval);
    firstOf[f] = first;
    lastOf[f] = last;
    if (last < first) continue;
    if (first < firstLevel) firstLevel = first;
    if (last > lastLevel) lastLevel = last;
  }
  if (firstLevel > lastLevel)
    return { firstLevel: 0, levelCount: 0, levelStarts: new Float64Array(1), crossed: new Uint32Array(0) };
  const levelCount = lastLevel - firstLevel + 1;
  if (levelCount > MOST_LEVELS) throw tooMany(levelCount, interval);
  const levelStarts = new Float64Array(levelCount + 1);
  for (let f = 0; f < facetCount; f++)
    for (let l = firstOf[f]!; l <= lastOf[f]!; l++) levelStarts[l - firstLevel + 1]!++;
  for (let k = 0; k < levelCount; k++) levelStarts[k + 1]! += levelStarts[k]!;
  const crossed = new Uint32Array(levelStarts[levelCount]!);
  const next = levelStarts.slice();
  for (let f = 0; f < facetCount; f++)
    for (let l = firstOf[f]!; l <= lastOf[f]!; l++) crossed[next[l - firstLevel]!++] = f;
  return { firstLevel, levelCount, levelStarts, crossed };
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

function tooMany(levels: number, interval: number): TerrainError {
  return new TerrainError('too-many-contours', {
    what: `An interval of ${interval} makes ${levels} contours between the lowest and the highest ground; ${MOST_LEVELS} are the most.`,
    mend: 'Give a wider interval: is it in the unit of the job?',
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
