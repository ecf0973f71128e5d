import type { z } from 'zod';
import { carryClasses, findBridges, findGround, findObjects, findWater } from './classify-operations.js';
import { cleaningOperations } from './cleaning-operations.js';
import { handOperations } from './hand-operations.js';
import type { OperationDescription } from './operation-description.js';
import {
  buildSurface,
  drawContours,
  drawProfile,
  editSurface,
  makeGrid,
  measureVolume,
  stateAccuracy,
} from './terrain-operations.js';
import { editPoints, numberPoints, thinCloud } from './thinning-operations.js';

/** Operations that are started with their parameters alone. */
export const operations = [
  findGround,
  findObjects,
  findWater,
  findBridges,
  carryClasses,
  thinCloud,
  numberPoints,
  editPoints,
  buildSurface,
  editSurface,
  drawContours,
  drawProfile,
  makeGrid,
  measureVolume,
  stateAccuracy,
  ...handOperations,
  ...cleaningOperations,
] as const;
export type OperationId = (typeof operations)[number]['id'];

export type FindGroundParameters = z.output<ReturnType<typeof findGround.parameters>>;
export type CarryClassesParameters = z.output<ReturnType<typeof carryClasses.parameters>>;
export type FindObjectsParameters = z.output<ReturnType<typeof findObjects.parameters>>;
export type FindBridgesParameters = z.output<ReturnType<typeof findBridges.parameters>>;
export type FindWaterParameters = z.output<ReturnType<typeof findWater.parameters>>;
export type NumberPointsParameters = z.output<ReturnType<typeof numberPoints.parameters>>;
export type EditPointsParameters = z.output<ReturnType<typeof editPoints.parameters>>;
export type ThinCloudParameters = z.output<ReturnType<typeof thinCloud.parameters>>;
export type BuildSurfaceParameters = z.output<ReturnType<typeof buildSurface.parameters>>;
export type EditSurfaceParameters = z.output<ReturnType<typeof editSurface.parameters>>;
export type MakeGridParameters = z.output<ReturnType<typeof makeGrid.parameters>>;
export type MeasureVolumeParameters = z.output<ReturnType<typeof measureVolume.parameters>>;
export type StateAccuracyParameters = z.output<ReturnType<typeof stateAccuracy.parameters>>;
export type DrawProfileParameters = z.output<ReturnType<typeof drawProfile.parameters>>;
export type DrawContoursParameters = z.output<ReturnType<typeof drawContours.parameters>>;

export function operationById(id: string): OperationDescription | undefined {
  return operations.find((operation) => operation.id === id);
}
