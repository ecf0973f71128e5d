import { PamperoError } from '@pampero/core/task';
import { buildSquare as doBuildSquare } from './import/build-square.js';
import { convertToLas as doConvertToLas } from './import/convert-to-las.js';
import { sortBlock as doSortBlock } from './import/record-blocks.js';
import { sortLazBlock as doSortLazBlock } from './import/sort-laz-block.js';
import { reprojectLas as doReprojectLas } from './import/reproject-las.js';
import * as reading from './reading-tasks.js';
import * as cleaning from './cleaning-tasks.js';
import * as ground from './ground-tasks.js';
import * as marks from './mark-tasks.js';
import * as objects from './object-tasks.js';
import * as selections from './selection-tasks.js';
import * as surfaces from './surface-tasks.js';
import * as contouring from './contour-tasks.js';
import * as places from './place-tasks.js';
import * as grids from './grid-tasks.js';
import * as measuring from './measuring-tasks.js';
import * as thinning from './thinning-tasks.js';

/** Facts of an error that came out of a worker: a thrown class does not survive the way between threads. */
export interface CarriedError {
  readonly carried: true;
  readonly code: string;
  readonly what: string;
  readonly where?: string | undefined;
  readonly fix?: string | undefined;
}

/**
 * Entry functions of the worker threads; each answers with its result or with the facts of its error. What they do are pure
 * functions of cloneable input to cloneable output; buffers in results are fresh and may be transferred.
 */
export const convertToLas = guarded(doConvertToLas);
export const reprojectLas = guarded(doReprojectLas);
export const lookAtFile = guarded(reading.lookAtFile);
export const factsOfLas = guarded(reading.factsOfLas);
export const linesOfFile = guarded(reading.linesOfFile);
export const pointsOfList = guarded(reading.pointsOfList);
export const surfacesOfFile = guarded(reading.surfacesOfFile);
export const gridOfFile = guarded(reading.gridOfFile);
export const sortBlock = guarded(doSortBlock);
export const sortLazBlock = guarded(doSortLazBlock);
export const buildSquare = guarded(doBuildSquare);
export const lowestRaster = guarded(ground.lowestRaster);
export const settle = guarded(ground.settle);
export const greenness = guarded(ground.greenness);
export const nearSums = guarded(ground.nearSums);
export const fitPlanes = guarded(ground.fitPlanes);
export const previewGround = guarded(ground.previewGround);
export const groundEvidence = guarded(ground.groundEvidence);
export const classify = guarded(ground.classify);
export const packMarks = guarded(marks.packMarks);
export const editSurface = guarded(surfaces.editSurface);
export const faultsOfSurface = guarded(surfaces.faultsOfSurface);
export const windowOfSurface = guarded(surfaces.windowOfSurface);
export const edgesOfSurface = guarded(surfaces.edgesOfSurface);
export const buildTin = guarded(surfaces.buildTin);
export const countWindow = guarded(places.countWindow);
export const nearPlaces = guarded(places.nearPlaces);
export const gridOfSurface = guarded(grids.gridOfSurface);
export const gridOfGrids = guarded(grids.gridOfGrids);
export const gridOfDifference = guarded(grids.gridOfDifference);
export const gridOfPoints = guarded(grids.gridOfPoints);
export const measureVolume = guarded(measuring.measureVolume);
export const profileOfSurface = guarded(measuring.profileOfSurface);
export const pointsAlong = guarded(measuring.pointsAlong);
export const accuracyOf = guarded(measuring.accuracyOf);
export const bandsOfSurface = guarded(contouring.bandsOfSurface);
export const gridContours = guarded(contouring.gridContours);
export const contours = guarded(contouring.contours);
export const classSums = guarded(objects.classSums);
export const atLevels = guarded(objects.atLevels);
export const decksOf = guarded(objects.decksOf);
export const classCells = guarded(objects.classCells);
export const carryTile = guarded(objects.carryTile);
export const objectsOfTile = guarded(objects.objectsOfTile);
export const cleanTile = guarded(cleaning.cleanTile);
export const neighbourDistances = guarded(cleaning.neighbourDistances);
export const selectionFronts = guarded(selections.selectionFronts);
export const countSelected = guarded(selections.countSelected);
export const changeSelected = guarded(selections.changeSelected);
export const selectedBits = guarded(selections.selectedBits);
export const growPatchOver = guarded(selections.growPatchOver);

export const thinTile = guarded(thinning.thinTile);
export const surfacePoints = guarded(thinning.surfacePoints);
export const placesOf = guarded(thinning.placesOf);
export const keyPointsOf = guarded(thinning.keyPointsOf);
export const intensityBetween = guarded(thinning.intensityBetween);
export const layThinned = guarded(thinning.layThinned);
export const thinnedDifference = guarded(thinning.thinnedDifference);

function guarded<Task, Result>(
  work: (task: Task) => Result | Promise<Result>,
): (task: Task) => Promise<Result | CarriedError> {
  return async (task) => {
    try {
      return await work(task);
    } catch (error) {
      if (error instanceof PamperoError) {
        return { carried: true, code: error.code, what: error.what, where: error.where, fix: error.fix };
      }
      throw error;
    }
  };
}
