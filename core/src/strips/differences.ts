import { percentile } from '../accuracy/statement.js';
import type { PatchPairs } from './patches.js';

/** Heights of the later strip less those of the earlier one, over smooth patches. Lengths in job units. */
export interface DifferenceSummary {
  readonly count: number;
  readonly median: number;
  readonly mean: number;
  /** Root mean square of the differences: RMSDz. */
  readonly rmsd: number;
  /** 95th percentile of their sizes. */
  readonly percentile95: number;
  readonly largest: number;
}

export interface PairDifference extends DifferenceSummary {
  /** Places of the strips in their list. */
  readonly one: number;
  readonly two: number;
}

export const EMPTY_SUMMARY: DifferenceSummary = { count: 0, median: 0, mean: 0, rmsd: 0, percentile95: 0, largest: 0 };

/** Of some differences; the array is sorted on the way. */
export function summarise(differences: Float64Array): DifferenceSummary {
  const count = differences.length;
  if (count === 0) return EMPTY_SUMMARY;
  let [sum, squares] = [0, 0];
  for (const d of differences) {
    sum += d;
    squares += d * d;
  }
  differences.sort();
  const sizes = differences.map(Math.abs).sort();
  return {
    count,
    median: percentile(differences, 50),
    mean: sum / count,
    rmsd: Math.sqrt(squares / count),
    percentile95: percentile(sizes, 95),
    largest: sizes[count - 1]!,
  };
}

/** The difference of each pair of patches: later strip less earlier. */
export function differencesOf(pairs: PatchPairs): Float64Array {
  const out = new Float64Array(pairs.count);
  for (let k = 0; k < out.length; k++) out[k] = pairs.heightTwo[k]! - pairs.heightOne[k]!;
  return out;
}

/** All together, and each two strips that overlap, in the order of the strips. */
export function summariseByPair(pairs: PatchPairs): {
  readonly all: DifferenceSummary;
  readonly pairs: readonly PairDifference[];
} {
  const differences = differencesOf(pairs);
  const lists = new Map<number, number[]>();
  for (let k = 0; k < pairs.count; k++) {
    const key = pairs.one[k]! * 65_536 + pairs.two[k]!;
    const list = lists.get(key);
    if (list) list.push(differences[k]!);
    else lists.set(key, [differences[k]!]);
  }
  return {
    all: summarise(differences),
    pairs: [...lists]
      .sort(([a], [b]) => a - b)
      .map(([key, list]) => ({
        one: Math.floor(key / 65_536),
        two: key % 65_536,
        ...summarise(Float64Array.from(list)),
      })),
  };
}

/** Where the patches face: what a correction in plan can be known from. */
export interface FacingShares {
  /** Patches flatter than {@link FACING_SLOPE}. */
  readonly flat: number;
  /** The others by the side they fall to: north, east, south, west. */
  readonly sides: readonly [number, number, number, number];
}

/** Rise over run from which a slope tells of a shift in plan: 5 degrees. Common practice, no source. */
export const FACING_SLOPE = Math.tan((5 * Math.PI) / 180);

export function facingShares({ count, slopeEast, slopeNorth }: PatchPairs): FacingShares {
  const sides: [number, number, number, number] = [0, 0, 0, 0];
  let flat = 0;
  for (let k = 0; k < count; k++) {
    const [e, n] = [slopeEast[k]!, slopeNorth[k]!];
    if (Math.hypot(e, n) < FACING_SLOPE) flat++;
    else sides[Math.abs(n) >= Math.abs(e) ? (n < 0 ? 0 : 2) : e < 0 ? 1 : 3]++;
  }
  return { flat, sides };
}

/** Enough patches fall to each of two sides across each other. */
export function facesEnough({ sides: [north, east, south, west] }: FacingShares): boolean {
  const enough = 20;
  return north + south >= enough && east + west >= enough;
}

/**
 * Limits of the ASPRS Positional Accuracy Standards (2014), table of lidar relative accuracies, for a vertical accuracy class: repeatability within a
 * strip 0.6, RMSDz between strips 0.8, largest difference between strips 1.6 of the class. From memory; the values agree with the table's rows of the
 * 5 cm class (3, 4 and 8 cm) and the 10 cm class (6, 8 and 16 cm).
 */
export function relativeLimits(accuracyClass: number): {
  readonly within: number;
  readonly between: number;
  readonly largest: number;
} {
  return { within: 0.6 * accuracyClass, between: 0.8 * accuracyClass, largest: 1.6 * accuracyClass };
}

/** Histogram of differences about zero: as many bins to either side, the outermost hold what lies beyond. */
export function histogram(differences: Float64Array, halfWidth: number, binsAside = 20): number[] {
  const bins = new Array<number>(2 * binsAside + 1).fill(0);
  const width = halfWidth / (binsAside + 0.5);
  for (const d of differences) {
    const bin = Math.round(d / width);
    bins[binsAside + Math.max(-binsAside, Math.min(binsAside, bin))]!++;
  }
  return bins;
}
