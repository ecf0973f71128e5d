import type { OperationDescription } from './operation-description.js';
import { editClasses } from './classify/edit-classes.js';
import { findBridges } from './classify/find-bridges.js';
import { findGround } from './classify/find-ground.js';
import { findObjects } from './classify/find-objects.js';
import { findWater } from './classify/find-water.js';
import { transferClasses } from './classify/transfer-classes.js';
import { copyToCloud } from './clean/copy-to-cloud.js';
import { findFloating } from './clean/find-floating.js';
import { findIsolated } from './clean/find-isolated.js';
import { findLow } from './clean/find-low.js';
import { findOutliers } from './clean/find-outliers.js';
import { findUnreliable } from './clean/find-unreliable.js';
import { joinClouds } from './clean/join-clouds.js';
import { restore } from './clean/restore.js';
import { setClass } from './clean/set-class.js';
import { withhold } from './clean/withhold.js';
import { importCloud } from './intake/import-cloud.js';
import { importControl } from './intake/import-control.js';
import { importLines } from './lines/import-lines.js';
import { buildSurface } from './terrain/build-surface.js';
import { drawContours } from './terrain/draw-contours.js';
import { drawProfile } from './terrain/draw-profile.js';
import { editSurface } from './terrain/edit-surface.js';
import { importGrid } from './terrain/import-grid.js';
import { importSurface } from './terrain/import-surface.js';
import { makeGrid } from './terrain/make-grid.js';
import { measureVolume } from './terrain/measure-volume.js';
import { stateAccuracy } from './terrain/state-accuracy.js';
import { editPoints } from './thin/edit-points.js';
import { numberPoints } from './thin/number-points.js';
import { thinCloud } from './thin/thin-cloud.js';

/** Every operation there is. The server finds the work of each under its stage and id; forms, API and docs come from here. */
export const operations = [
  importCloud,
  importControl,
  findLow,
  findIsolated,
  findOutliers,
  findFloating,
  findUnreliable,
  setClass,
  withhold,
  restore,
  copyToCloud,
  joinClouds,
  findGround,
  findObjects,
  findWater,
  findBridges,
  transferClasses,
  editClasses,
  thinCloud,
  numberPoints,
  editPoints,
  importLines,
  buildSurface,
  editSurface,
  importSurface,
  drawContours,
  drawProfile,
  makeGrid,
  importGrid,
  measureVolume,
  stateAccuracy,
] as const;
export type OperationId = (typeof operations)[number]['id'];

export function operationById(id: string): OperationDescription | undefined {
  return operations.find((operation) => operation.id === id);
}

/** Searches for points that are not real, in the order they are best tried. */
export const cleaningOperations = [findLow, findIsolated, findOutliers, findFloating, findUnreliable] as const;
export type CleaningOperationId = (typeof cleaningOperations)[number]['id'];

export type { OperationDescription, Preset } from './operation-description.js';
export { editClasses } from './classify/edit-classes.js';
export { findBridges, type FindBridgesParameters } from './classify/find-bridges.js';
export { findGround, type FindGroundParameters } from './classify/find-ground.js';
export { findObjects, type FindObjectsParameters } from './classify/find-objects.js';
export { findWater, type FindWaterParameters } from './classify/find-water.js';
export { transferClasses, type TransferClassesParameters } from './classify/transfer-classes.js';
export { copyToCloud } from './clean/copy-to-cloud.js';
export { findFloating } from './clean/find-floating.js';
export { findIsolated } from './clean/find-isolated.js';
export { findLow } from './clean/find-low.js';
export { findOutliers } from './clean/find-outliers.js';
export { findUnreliable } from './clean/find-unreliable.js';
export { joinClouds, type JoinCloudsParameters } from './clean/join-clouds.js';
export { restore } from './clean/restore.js';
export { setClass } from './clean/set-class.js';
export { withhold } from './clean/withhold.js';
export { importCloud, type ImportCloudParameters } from './intake/import-cloud.js';
export { importControl, type ImportControlParameters } from './intake/import-control.js';
export { importLines, LINE_FORMATS, type ImportLinesParameters } from './lines/import-lines.js';
export { buildSurface, WATER_TREATMENTS, type BuildSurfaceParameters } from './terrain/build-surface.js';
export { drawContours, LABEL_READINGS, type DrawContoursParameters } from './terrain/draw-contours.js';
export { drawProfile, type DrawProfileParameters } from './terrain/draw-profile.js';
export { editSurface, type EditSurfaceParameters } from './terrain/edit-surface.js';
export { importGrid, type ImportGridParameters } from './terrain/import-grid.js';
export { importSurface, type ImportSurfaceParameters } from './terrain/import-surface.js';
export { makeGrid, type MakeGridParameters } from './terrain/make-grid.js';
export { measureVolume, type MeasureVolumeParameters } from './terrain/measure-volume.js';
export { stateAccuracy, type StateAccuracyParameters } from './terrain/state-accuracy.js';
export { editPoints, type EditPointsParameters } from './thin/edit-points.js';
export { numberPoints, type NumberPointsParameters } from './thin/number-points.js';
export { thinCloud, type ThinCloudParameters } from './thin/thin-cloud.js';
