import {
  asSelection,
  buildSurface,
  carryClasses,
  copyToCloud,
  drawContours,
  drawProfile,
  editClasses,
  editPoints,
  editSurface,
  findFloating,
  findGround,
  findIsolated,
  findLow,
  findObjects,
  findOutliers,
  findUnreliable,
  findBridges,
  findWater,
  makeGrid,
  measureVolume,
  numberPoints,
  restore,
  setClass,
  stateAccuracy,
  thinCloud,
  withhold,
  type Job,
  type OperationDescription,
} from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import type { z } from 'zod';
import type { JobLibrary } from '../jobs/job-library.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { RunWork } from '../runs/run-service.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { buildSurfaceWork } from './build-surface.js';
import { carryClassesWork } from './carry-classes.js';
import { cleanCloudWork } from './clean-cloud.js';
import { copyToCloudWork } from './copy-to-cloud.js';
import { describeSelection } from './describe-selection.js';
import { drawContoursWork } from './draw-contours.js';
import { drawProfileWork } from './draw-profile.js';
import { editSurfaceWork } from './edit-surface.js';
import { findGroundWork } from './find-ground.js';
import { findObjectsWork } from './find-objects.js';
import { findBridgesWork } from './find-bridges.js';
import { findWaterWork } from './find-water.js';
import { editClassesWork, restoreWork, setClassWork, withholdWork } from './hand-edits.js';
import { makeGridWork } from './make-grid.js';
import { measureVolumeWork } from './measure-volume.js';
import { editPointsWork, numberPointsWork } from './number-points.js';
import { stateAccuracyWork } from './state-accuracy.js';
import { thinCloudWork } from './thin-cloud.js';

/** What an operation is given beside its parameters. */
export interface OperationSurroundings {
  readonly pool: TaskPool;
  readonly unit: LengthUnit;
  readonly job: Job;
  /** The product whose place the new one takes. */
  readonly replaces?: number;
  readonly memory: MemoryPlan;
  readonly library: JobLibrary;
}

interface ServerOperation extends Pick<OperationDescription, 'id' | 'stage' | 'title' | 'isQuick'> {
  /** Checks what was given and answers with what the field book keeps of it and the work itself. */
  prepare(given: unknown, surroundings: OperationSurroundings): { parameters: Record<string, unknown>; work: RunWork };
}

function operation<D extends OperationDescription>(
  description: D,
  work: (parameters: z.output<ReturnType<D['parameters']>>, surroundings: OperationSurroundings) => RunWork,
  /** What the field book keeps, where that is not the parameters themselves. */
  told: (parameters: z.output<ReturnType<D['parameters']>>) => Record<string, unknown> = (parameters) => parameters,
): ServerOperation {
  return {
    ...description,
    prepare(given, surroundings) {
      const parameters = description.parameters(surroundings.unit).parse(given) as z.output<
        ReturnType<D['parameters']>
      >;
      return { parameters: told(parameters), work: work(parameters, surroundings) };
    },
  };
}

const selectionTold = ({
  selection,
  ...rest
}: {
  selection: Parameters<typeof asSelection>[0];
}): Record<string, unknown> => ({ selection: describeSelection(asSelection(selection)), ...rest });

const serverOperations: readonly ServerOperation[] = [
  operation(findGround, (p, { pool, unit }) => findGroundWork(pool, p, unit)),
  operation(findObjects, (p, { pool, unit }) => findObjectsWork(pool, p, unit)),
  operation(findBridges, (p, { pool, unit }) => findBridgesWork(pool, p, unit)),
  operation(findWater, (p, { pool, unit }) => findWaterWork(pool, p, unit)),
  operation(carryClasses, (p, { pool }) => carryClassesWork(pool, p)),
  operation(thinCloud, (p, { pool, unit, ...options }) => thinCloudWork(pool, p, unit, options)),
  operation(numberPoints, (p) => numberPointsWork(p)),
  operation(editPoints, (p) => editPointsWork(p)),
  operation(buildSurface, (p, { pool, unit, ...options }) => buildSurfaceWork(pool, p, unit, options)),
  operation(editSurface, (p, { pool }) => editSurfaceWork(pool, p)),
  operation(drawContours, (p, { pool, unit, ...options }) => drawContoursWork(pool, p, unit, options)),
  operation(drawProfile, (p, { pool, unit }) => drawProfileWork(pool, p, unit)),
  operation(makeGrid, (p, { pool, unit }) => makeGridWork(pool, p, unit)),
  operation(measureVolume, (p, { pool, unit }) => measureVolumeWork(pool, p, unit)),
  operation(stateAccuracy, (p, { pool, unit }) => stateAccuracyWork(pool, p, unit)),
  operation(
    setClass,
    ({ selection, classCode }, { pool }) => setClassWork(pool, asSelection(selection), classCode),
    selectionTold,
  ),
  operation(withhold, ({ selection }, { pool }) => withholdWork(pool, asSelection(selection)), selectionTold),
  operation(restore, ({ selection }, { pool }) => restoreWork(pool, asSelection(selection)), selectionTold),
  operation(editClasses, ({ classes }) => editClassesWork(classes)),
  operation(
    copyToCloud,
    ({ selection, name }, { pool, ...options }) => copyToCloudWork(pool, asSelection(selection), name, options),
    selectionTold,
  ),
  operation(findIsolated, ({ cloudId, toClass, ...options }, { pool }) =>
    cleanCloudWork(pool, cloudId, { kind: 'isolated', ...options }, toClass),
  ),
  operation(findOutliers, ({ cloudId, toClass, ...options }, { pool }) =>
    cleanCloudWork(pool, cloudId, { kind: 'outliers', ...options }, toClass),
  ),
  operation(findLow, ({ cloudId, toClass, ...options }, { pool }) =>
    cleanCloudWork(pool, cloudId, { kind: 'low', ...options }, toClass),
  ),
  operation(findUnreliable, ({ cloudId, toClass, ...options }, { pool }) =>
    cleanCloudWork(pool, cloudId, { kind: 'unreliable', ...options }, toClass),
  ),
  operation(findFloating, ({ cloudId, toClass, ...options }, { pool }) =>
    cleanCloudWork(pool, cloudId, { kind: 'floating', ...options }, toClass),
  ),
];

export function serverOperation(id: string): ServerOperation | undefined {
  return serverOperations.find((each) => each.id === id);
}
