import type { RasterFrame } from '../raster/index.js';
import type { PointBatch, Quantisation } from '../cloud/index.js';
import { noProgress, type Progress } from '../task/index.js';
import { settleCloth, type LandShape } from './cloth.js';
import { addGreenness, doubtOfGreen, greennessLimit, newGreennessHistogram, tooDoubtful } from './doubtful-points.js';
import {
  addNearPoints,
  classifyAgainstPlanes,
  groundPlanes,
  newNearSums,
  type GroundBatch,
  type NearSums,
} from './ground-planes.js';
import { addLowestPoints, newLowestRaster, rejectLowOutliers, type LowestRaster } from './lowest-raster.js';
import { densifyTin } from './progressive-tin.js';
import { refuseLonePatches } from './lone-patches.js';
import { rejectUnsupported } from './unsupported-patches.js';
import { refuseOvergrown } from './refuse-overgrown.js';
import { classifyAgainstSurface } from './surface-classification.js';

export const GROUND_METHODS = ['tin', 'cloth'] as const;

/** Everything that decides what is ground. Lengths in job units. */
export interface GroundSettings {
  readonly method: (typeof GROUND_METHODS)[number];
  /** Side of the cells whose lowest points are asked. */
  readonly cell: number;
  /** A point this near the ground found is ground. */
  readonly tolerance: number;
  /** Fits planes to the points near the first surface and classes against these. */
  readonly refine: boolean;
  /** For the TIN, see {@link DensifyOptions}. */
  readonly largestBuilding: number;
  readonly steepestRise: number;
  readonly tallestStep: number;
  /** For the cloth, see {@link ClothOptions}. */
  readonly landShape: LandShape;
  readonly followSteepSlopes: boolean;
  readonly steepestDegrees: number;
  readonly iterations: number;
  /** The slope that little of the land exceeds, degrees: what stands out of it is looked at again. */
  readonly steepSlope: number;
  /** Cells this far under their surroundings hold false points. */
  readonly lowPointDepth: number;
  /** Green points count for less, where the cloud has colours. */
  readonly trustGreenLess: boolean;
}

/**
 * Points near the first surface by so many tolerances, under it and over it, are those that planes are fitted to: the surface is of lowest
 * points, so that ground lies a little over it, and grass more than that.
 */
const BAND: readonly [number, number] = [2, 1.4];

/** What stands this high over the ground at most says that something grows there. */
export const CROWD_METRES = 1.5;

/** How far under and over the first surface points are fitted. */
export function bandOf({ tolerance }: GroundSettings): readonly [number, number] {
  return [BAND[0] * tolerance, BAND[1] * tolerance];
}

/** Heights of the first surface at the cells' centres; empties cells with false low points in `raster`. */
export function firstSurface(
  raster: LowestRaster,
  settings: GroundSettings,
  metresPerUnit: number,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): { heights: Float64Array; cellsEmptied: number } {
  const cellsEmptied = rejectLowOutliers(raster, settings.lowPointDepth, metresPerUnit);
  return { heights: surfaceOver(raster, settings, metresPerUnit, progress, signal), cellsEmptied };
}

/** Heights of a surface over a raster's lowest points as they are, at the cells' centres, job units. */
export function surfaceOver(
  raster: LowestRaster,
  settings: GroundSettings,
  metresPerUnit: number,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): Float64Array {
  return settings.method === 'cloth'
    ? settleCloth(raster, { ...settings, metresPerUnit }, progress, signal)
    : densifyTin(
        raster,
        {
          largestBuilding: settings.largestBuilding,
          angleDegrees: settings.steepestRise,
          distance: settings.tallestStep,
          even: settings.tolerance,
          shortSide: 3 / metresPerUnit,
        },
        progress,
        signal,
      ).heights;
}

/**
 * Empties cells whose lowest points a first surface should not have held to, by what was seen near it; a surface over the rest is the
 * one to go on with.
 * @returns how many cells were emptied
 */
export function lookAgain(
  raster: LowestRaster,
  heights: Float64Array,
  near: NearSums,
  quantisation: Quantisation,
  { tolerance, steepSlope }: GroundSettings,
  metresPerUnit: number,
): number {
  const tangent = Math.tan((steepSlope * Math.PI) / 180);
  const planes = groundPlanes(near, quantisation);
  return (
    rejectUnsupported(raster, heights, near, tangent, metresPerUnit) +
    refuseOvergrown(raster, planes, tolerance, metresPerUnit) +
    refuseLonePatches(raster, planes, near, tolerance, metresPerUnit)
  );
}

/**
 * Ground of a cloud held in memory whole, step by step as the server does it over tiles.
 * @returns the new class column; a new array
 */
export function findGround(
  batch: GroundBatch & Partial<Pick<PointBatch, 'red' | 'green' | 'blue'>>,
  quantisation: Quantisation,
  frame: RasterFrame,
  settings: GroundSettings,
  takes: Uint8Array,
  metresPerUnit = 1,
): Uint8Array {
  let doubt: Float32Array | undefined;
  if (settings.trustGreenLess && batch.red) {
    const { count, red, green, blue } = batch as Required<typeof batch>;
    const histogram = newGreennessHistogram();
    addGreenness(histogram, { count, red, green, blue });
    const parted = greennessLimit(histogram);
    if (parted) doubt = doubtOfGreen({ count, red, green, blue }, parted.limit);
  }
  const isDoubtful = doubt && tooDoubtful(doubt);
  const raster = newLowestRaster(frame);
  addLowestPoints(raster, batch, quantisation, takes, isDoubtful);
  let { heights } = firstSurface(raster, settings, metresPerUnit);
  if (!settings.refine) {
    const rule = { classDistance: settings.tolerance, takes };
    return classifyAgainstSurface(batch, quantisation, frame, heights, rule, doubt);
  }
  const near = (surface: Float64Array): NearSums => {
    const sums = newNearSums(frame);
    const crowd = CROWD_METRES / metresPerUnit;
    addNearPoints(
      sums,
      batch,
      quantisation,
      { ...frame, heights: surface },
      bandOf(settings),
      crowd,
      takes,
      isDoubtful,
    );
    return sums;
  };
  lookAgain(raster, heights, near(heights), quantisation, settings, metresPerUnit);
  heights = surfaceOver(raster, settings, metresPerUnit);
  const planes = groundPlanes(near(heights), quantisation);
  return classifyAgainstPlanes(batch, quantisation, planes, heights, settings, takes, doubt);
}
