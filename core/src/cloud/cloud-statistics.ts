import type { PointBatch } from './point-batch.js';

/** Bins of the elevation histogram, over the cloud's own range. */
const ELEVATION_BINS = 4096;

/**
 * What is gathered of a cloud while it is read, square by square: parts merge exactly. Plain arrays and numbers, so that it
 * passes between threads.
 */
export interface CloudStatistics {
  readonly points: number;
  /** One count a class. */
  readonly classes: Float64Array;
  /** One count an intensity. */
  readonly intensities: Float64Array;
  readonly elevations: Float64Array;
  /** Points by return number (row) of number of returns (column), 16 x 16. */
  readonly returns: Float64Array;
  /** One count a point source ID. */
  readonly sources: Float64Array;
  readonly withheld: number;
  readonly synthetic: number;
  readonly overlap: number;
  readonly firstTime: number;
  readonly lastTime: number;
  /** Points without a usable GPS time: zero or not a number. */
  readonly timeless: number;
  /** Points that lie exactly on another. */
  readonly duplicates: number;
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] };

export function newCloudStatistics(): CloudStatistics {
  return {
    points: 0,
    classes: new Float64Array(256),
    intensities: new Float64Array(65_536),
    elevations: new Float64Array(ELEVATION_BINS),
    returns: new Float64Array(256),
    sources: new Float64Array(65_536),
    withheld: 0,
    synthetic: 0,
    overlap: 0,
    firstTime: Infinity,
    lastTime: -Infinity,
    timeless: 0,
    duplicates: 0,
  };
}

/** Enters a batch. `lowZ` and `highZ` are the cloud's least and greatest scaled elevation. */
export function addToStatistics(given: CloudStatistics, batch: PointBatch, lowZ: number, highZ: number): void {
  const to = given as Mutable<CloudStatistics>;
  const { classes, intensities, elevations, returns, sources } = to;
  const perStep = (ELEVATION_BINS - 1) / Math.max(1, highZ - lowZ);
  for (let i = 0; i < batch.count; i++) {
    classes[batch.classification[i]!]!++;
    intensities[batch.intensity[i]!]!++;
    elevations[((batch.z[i]! - lowZ) * perStep) | 0]!++;
    returns[((batch.returns[i]! & 15) << 4) | (batch.returns[i]! >> 4)]!++;
    sources[batch.pointSourceId[i]!]!++;
    const flags = batch.flags[i]!;
    if ((flags & 13) !== 0) {
      if (flags & 1) to.synthetic++;
      if (flags & 4) to.withheld++;
      if (flags & 8) to.overlap++;
    }
  }
  const { gpsTime } = batch;
  if (gpsTime) {
    let { firstTime, lastTime, timeless } = to;
    for (let i = 0; i < batch.count; i++) {
      const time = gpsTime[i]!;
      if (!Number.isFinite(time) || time === 0) timeless++;
      else {
        if (time < firstTime) firstTime = time;
        if (time > lastTime) lastTime = time;
      }
    }
    Object.assign(to, { firstTime, lastTime, timeless });
  }
  to.points += batch.count;
}

/** Enters points found to lie exactly on others. */
export function addDuplicates(to: CloudStatistics, duplicates: number): void {
  (to as Mutable<CloudStatistics>).duplicates += duplicates;
}

export function mergeStatistics(into: CloudStatistics, other: CloudStatistics): void {
  const to = into as Mutable<CloudStatistics>;
  addCounts(to.classes, other.classes);
  addCounts(to.intensities, other.intensities);
  addCounts(to.elevations, other.elevations);
  addCounts(to.returns, other.returns);
  addCounts(to.sources, other.sources);
  for (const key of ['points', 'withheld', 'synthetic', 'overlap', 'timeless', 'duplicates'] as const)
    to[key] += other[key];
  to.firstTime = Math.min(to.firstTime, other.firstTime);
  to.lastTime = Math.max(to.lastTime, other.lastTime);
}

function addCounts(to: Float64Array, from: Float64Array): void {
  for (let i = 0; i < to.length; i++) to[i] = to[i]! + from[i]!;
}

/** The bin under which `share` of all counts lie. */
export function percentileBin(histogram: Float64Array, share: number): number {
  let total = 0;
  for (const count of histogram) total += count;
  let below = 0;
  for (let bin = 0; bin < histogram.length; bin++) {
    below += histogram[bin]!;
    if (below >= share * total) return bin;
  }
  return histogram.length - 1;
}

/** Scaled elevation at a bin of {@link CloudStatistics.elevations}. */
export function elevationOfBin(bin: number, lowZ: number, highZ: number): number {
  return lowZ + (bin * Math.max(1, highZ - lowZ)) / (ELEVATION_BINS - 1);
}
