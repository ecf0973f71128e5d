import { rm } from 'node:fs/promises';
import {
  buildSurface,
  asSelection,
  carryClasses,
  copyToCloud,
  drawContours,
  editClasses,
  findFloating,
  findGround,
  findIsolated,
  findLow,
  findObjects,
  findOutliers,
  findUnreliable,
  importCloud,
  importControl,
  importLines,
  importRequestSchema,
  type ControlLook,
  type CrsChoice,
  type FileLook,
  type GroundDoubtResource,
  type ObjectGroupResource,
  type GroundPreview,
  type GroundProposalResource,
  type IncomingFile,
  type Job,
  type OperationId,
  type Run,
  type CloudWindow,
  type OperationDescription,
  type Patch,
  type SelectionCount,
  restore,
  makeGrid,
  measureVolume,
  numberPoints,
  setClass,
  stateAccuracy,
  thinCloud,
  withhold,
} from '@pampero/contract';
import { readPointList, type PointOrder } from '@pampero/core/formats/point-list';
import type { TextLayout } from '@pampero/core/formats/text';
import type { LengthUnit } from '@pampero/core/geodesy';
import type { Selection } from '@pampero/core/selection';
import type { z } from 'zod';
import { chosenSystem } from '../crs/plane-system.js';
import type { FoundFile, IncomingFiles } from '../incoming/incoming-files.js';
import { lookAtFile } from '../incoming/look-at-file.js';
import type { MemoryPlan } from '../memory-plan.js';
import { JobError } from '../jobs/job-error.js';
import type { JobFile } from '../jobs/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { RunService, RunWork } from '../runs/run-service.js';
import { boundsAround, listClouds } from '../store/cloud-repository.js';
import { insertControl } from '../store/control-repository.js';
import { listProducts } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { buildSurfaceWork } from './build-surface.js';
import { drawContoursWork } from './draw-contours.js';
import { cleanCloudWork } from './clean-cloud.js';
import { copyToCloudWork } from './copy-to-cloud.js';
import { describeSelection } from './describe-selection.js';
import { findObjectsWork } from './find-objects.js';
import { findGroundWork } from './find-ground.js';
import { growPatchFrom } from './grow-patch.js';
import { editClassesWork, restoreWork, setClassWork, withholdWork } from './hand-edits.js';
import { lookAtControl } from './look-at-control.js';
import { listObjects } from './list-objects.js';
import { lookForDoubts } from './look-for-doubts.js';
import { previewGroundIn } from './preview-ground.js';
import { proposeGroundFor } from './propose-ground.js';
import { thinCloudWork } from './thin-cloud.js';
import { carryClassesWork } from './carry-classes.js';
import { numberPointsWork } from './number-points.js';
import { makeGridWork } from './make-grid.js';
import { measureVolumeWork } from './measure-volume.js';
import { stateAccuracyWork } from './state-accuracy.js';
import { readWindow } from './read-window.js';
import { countSelection } from './select-points.js';
import { importLinesWork } from './import-lines.js';
import { importCloudWork } from './import-cloud.js';

interface PrepareOptions {
  readonly job: Job;
  readonly replaces?: number;
  readonly memory: MemoryPlan;
  readonly library: JobLibrary;
}

interface ServerOperation extends Pick<OperationDescription, 'stage' | 'title' | 'isQuick'> {
  readonly id: OperationId;
  prepare(
    pool: TaskPool,
    given: unknown,
    unit: LengthUnit,
    options: PrepareOptions,
  ): { parameters: Record<string, unknown>; work: RunWork };
}

const serverOperations: readonly ServerOperation[] = [
  {
    ...findGround,
    prepare(pool, given, unit) {
      const parameters = findGround.parameters(unit).parse(given);
      return { parameters, work: findGroundWork(pool, parameters, unit) };
    },
  },
  {
    ...findObjects,
    prepare(pool, given, unit) {
      const parameters = findObjects.parameters(unit).parse(given);
      return { parameters, work: findObjectsWork(pool, parameters) };
    },
  },
  {
    ...thinCloud,
    prepare(pool, given, unit, options) {
      const parameters = thinCloud.parameters(unit).parse(given);
      return { parameters, work: thinCloudWork(pool, parameters, unit, options) };
    },
  },
  {
    ...buildSurface,
    prepare(pool, given, unit, options) {
      const parameters = buildSurface.parameters(unit).parse(given);
      return { parameters, work: buildSurfaceWork(pool, parameters, unit, options) };
    },
  },
  {
    ...drawContours,
    prepare(pool, given, unit, options) {
      const parameters = drawContours.parameters(unit).parse(given);
      return { parameters, work: drawContoursWork(pool, parameters, unit, options) };
    },
  },
  {
    ...carryClasses,
    prepare(pool, given, unit) {
      const parameters = carryClasses.parameters(unit).parse(given);
      return { parameters, work: carryClassesWork(pool, parameters) };
    },
  },
  {
    ...numberPoints,
    prepare(_pool, given) {
      const parameters = numberPoints.parameters().parse(given);
      return { parameters, work: numberPointsWork(parameters) };
    },
  },
  {
    ...makeGrid,
    prepare(pool, given, unit) {
      const parameters = makeGrid.parameters(unit).parse(given);
      return { parameters, work: makeGridWork(pool, parameters, unit) };
    },
  },
  {
    ...measureVolume,
    prepare(pool, given, unit) {
      const parameters = measureVolume.parameters(unit).parse(given);
      return { parameters, work: measureVolumeWork(pool, parameters, unit) };
    },
  },
  {
    ...stateAccuracy,
    prepare(pool, given, unit) {
      const parameters = stateAccuracy.parameters(unit).parse(given);
      return { parameters, work: stateAccuracyWork(pool, parameters, unit) };
    },
  },
  {
    ...setClass,
    prepare(pool, given) {
      const { selection: steps, classCode } = setClass.parameters().parse(given);
      const selection = asSelection(steps);
      return {
        parameters: { selection: describeSelection(selection), classCode },
        work: setClassWork(pool, selection, classCode),
      };
    },
  },
  {
    ...withhold,
    prepare(pool, given) {
      const selection = asSelection(withhold.parameters().parse(given).selection);
      return { parameters: { selection: describeSelection(selection) }, work: withholdWork(pool, selection) };
    },
  },
  {
    ...restore,
    prepare(pool, given) {
      const selection = asSelection(restore.parameters().parse(given).selection);
      return { parameters: { selection: describeSelection(selection) }, work: restoreWork(pool, selection) };
    },
  },
  {
    ...editClasses,
    prepare(_pool, given) {
      const { classes } = editClasses.parameters().parse(given);
      return { parameters: { classes }, work: editClassesWork(classes) };
    },
  },
  {
    ...copyToCloud,
    prepare(pool, given, _unit, options) {
      const { selection: steps, name } = copyToCloud.parameters().parse(given);
      const selection = asSelection(steps);
      return {
        parameters: { selection: describeSelection(selection), name },
        work: copyToCloudWork(pool, selection, name, options),
      };
    },
  },
  {
    ...findIsolated,
    prepare(pool, given, unit) {
      const parameters = findIsolated.parameters(unit).parse(given);
      const { cloudId, toClass, ...options } = parameters;
      return { parameters, work: cleanCloudWork(pool, cloudId, { kind: 'isolated', ...options }, toClass) };
    },
  },
  {
    ...findOutliers,
    prepare(pool, given, unit) {
      const parameters = findOutliers.parameters(unit).parse(given);
      const { cloudId, toClass, ...options } = parameters;
      return { parameters, work: cleanCloudWork(pool, cloudId, { kind: 'outliers', ...options }, toClass) };
    },
  },
  {
    ...findLow,
    prepare(pool, given, unit) {
      const parameters = findLow.parameters(unit).parse(given);
      const { cloudId, toClass, ...options } = parameters;
      return { parameters, work: cleanCloudWork(pool, cloudId, { kind: 'low', ...options }, toClass) };
    },
  },
  {
    ...findUnreliable,
    prepare(pool, given, unit) {
      const parameters = findUnreliable.parameters(unit).parse(given);
      const { cloudId, toClass, ...options } = parameters;
      return { parameters, work: cleanCloudWork(pool, cloudId, { kind: 'unreliable', ...options }, toClass) };
    },
  },
  {
    ...findFloating,
    prepare(pool, given, unit) {
      const parameters = findFloating.parameters(unit).parse(given);
      const { cloudId, toClass, ...options } = parameters;
      return { parameters, work: cleanCloudWork(pool, cloudId, { kind: 'floating', ...options }, toClass) };
    },
  },
];

/** Starts operations on jobs. */
export class OperationService {
  constructor(
    private readonly library: JobLibrary,
    private readonly runs: RunService,
    private readonly pool: TaskPool,
    readonly incoming: IncomingFiles,
    private readonly memory: MemoryPlan,
  ) {}

  async start(jobId: string, operationId: string, given: unknown): Promise<{ run: Run; finished: Promise<Run> }> {
    const job = await this.library.describe(jobId);
    return this.begin(job, await this.library.file(jobId), operationId, given, {});
  }

  /** Imports a file of points that was received for this run alone and is removed when it ends. */
  startImport(
    jobId: string,
    path: string,
    given: {
      fileName: string;
      name?: string | undefined;
      layout?: TextLayout | undefined;
      coordinates?: 'moved' | 'kept';
    },
  ): Promise<{ run: Run; finished: Promise<Run> }> {
    const { fileName, ...rest } = given;
    const request = importRequestSchema.parse({ file: { folderPath: path }, ...rest });
    return this.beginImport(jobId, { path, fileName, discard: () => rm(path, { force: true }) }, request, given);
  }

  /** Imports a file that was sent in pieces or lies in the folder. */
  async importFile(jobId: string, request: z.output<typeof importRequestSchema>): Promise<Run> {
    const found = await this.incoming.find(request.file);
    return (await this.beginImport(jobId, found, request, { ...request, fileName: found.fileName })).run;
  }

  private async beginImport(
    jobId: string,
    { path, fileName, discard }: FoundFile,
    { name, layout, coordinates, crs, heights }: z.output<typeof importRequestSchema>,
    parameters: Record<string, unknown>,
  ): Promise<{ run: Run; finished: Promise<Run> }> {
    const job = await this.library.describe(jobId);
    const file = await this.library.file(jobId);
    const geoid = heights.geoid === undefined ? undefined : await this.incoming.geoids.pathOf(heights.geoid);
    const work = importCloudWork(this.pool, {
      path,
      fileName,
      discard,
      layout,
      keepsCoordinates: coordinates === 'kept',
      system: crs && chosenSystem(crs),
      heights: {
        unit: heights.unit,
        shift: heights.shift,
        geoid: geoid === undefined ? undefined : { name: heights.geoid!, path: geoid },
      },
      name,
      jobCrs: job.crs,
      jobUnit: job.unit,
      spillPath: this.library.scratchPath('.spill'),
      memory: this.memory,
    });
    return this.runs.start(jobId, file, importCloud, parameters, work);
  }

  /** What a file says of itself before it comes in. */
  async lookAtFile(
    jobId: string,
    { file, layout, crs }: { file: IncomingFile; layout?: TextLayout | undefined; crs?: CrsChoice | undefined },
  ): Promise<FileLook> {
    const job = await this.library.describe(jobId);
    const clouds = await listClouds((await this.library.file(jobId)).read);
    const { path, fileName } = await this.incoming.find(file);
    const jobBounds = clouds.length === 0 ? undefined : boundsAround(clouds.map((cloud) => cloud.bounds));
    return lookAtFile({ path, fileName, job, jobBounds, layout, crs });
  }

  /** Takes surveyed points into the job. */
  async startControlImport(
    jobId: string,
    { text, ...parameters }: { text: string; fileName: string; order: PointOrder; role: 'control' | 'check' },
  ): Promise<Run> {
    const file = await this.library.file(jobId);
    const points = readPointList(text, parameters.order, parameters.fileName);
    const { run } = this.runs.start(jobId, file, importControl, parameters, ({ historyId }) =>
      Promise.resolve({
        outcome: `${points.length} ${parameters.role} points from ${parameters.fileName}`,
        figures: [{ label: 'Points', value: points.length, quantity: 'count' as const }],
        store: async (models) => {
          await insertControl(models, historyId, parameters.role, points);
          return { effects: [{ kind: 'control', id: historyId }] };
        },
      }),
    );
    return run;
  }

  /** Takes lines into the job. */
  async startLinesImport(jobId: string, { text, ...given }: { text: string } & Record<string, unknown>): Promise<Run> {
    const file = await this.library.file(jobId);
    const parameters = importLines.parameters().parse(given);
    return this.runs.start(jobId, file, importLines, parameters, importLinesWork(text, parameters)).run;
  }

  async proposeGround(jobId: string, cloudId: number): Promise<GroundProposalResource> {
    const { unit } = await this.library.describe(jobId);
    return proposeGroundFor(this.pool, await this.library.file(jobId), cloudId, unit);
  }

  async previewGround(
    jobId: string,
    cloudId: number,
    asked: Parameters<typeof previewGroundIn>[4],
  ): Promise<GroundPreview> {
    const { unit } = await this.library.describe(jobId);
    return previewGroundIn(this.pool, await this.library.file(jobId), cloudId, unit, asked);
  }

  async listObjects(jobId: string, cloudId: number): Promise<ObjectGroupResource[]> {
    const { unit } = await this.library.describe(jobId);
    return listObjects(this.pool, await this.library.file(jobId), cloudId, unit);
  }

  async lookForDoubts(jobId: string, cloudId: number): Promise<GroundDoubtResource[]> {
    const { unit } = await this.library.describe(jobId);
    return lookForDoubts(this.pool, await this.library.file(jobId), cloudId, unit);
  }

  async readWindow(jobId: string, cloudId: number, asked: Parameters<typeof readWindow>[3]): Promise<CloudWindow> {
    return readWindow(this.pool, await this.library.file(jobId), cloudId, asked);
  }

  async countSelection(jobId: string, selection: Selection): Promise<SelectionCount> {
    return countSelection(this.pool, await this.library.file(jobId), selection);
  }

  async growPatch(jobId: string, request: Parameters<typeof growPatchFrom>[2]): Promise<Patch> {
    return growPatchFrom(this.pool, await this.library.file(jobId), request);
  }

  async lookAtControl(jobId: string, cloudId: number): Promise<ControlLook> {
    const job = await this.library.describe(jobId);
    return lookAtControl(this.pool, await this.library.file(jobId), cloudId, job.unit);
  }

  /** Builds stale surfaces again, then the contours on them, each with its own parameters, in the place of the old ones. */
  async rebuildStale(jobId: string): Promise<Run[]> {
    const job = await this.library.describe(jobId);
    const file = await this.library.file(jobId);
    const { surfaces, contours } = await listProducts(file.read);
    const rebuilt = new Map<number, Promise<Run>>();
    const runs: Run[] = [];
    for (const surface of surfaces.filter((s) => s.isStale)) {
      const { run, finished } = this.begin(job, file, surface.operation, surface.parameters, { replaces: surface.id });
      rebuilt.set(surface.id, finished);
      runs.push(run);
    }
    for (const set of contours.filter((c) => c.isStale)) {
      const before = rebuilt.get(set.surfaceId);
      if (!before && !surfaces.some((s) => s.id === set.surfaceId)) continue; // its surface was taken back: nothing to trace on
      const { run } = this.runs.start(jobId, file, drawContours, set.parameters, async (context) => {
        const surfaceId = before ? (await before).productId : set.surfaceId;
        if (surfaceId === undefined)
          throw new JobError('not-found', {
            what: 'The surface under these contours was not rebuilt.',
            mend: 'See its entry in the field book.',
          });
        const parameters = drawContours.parameters(job.unit).parse({ ...set.parameters, surfaceId });
        return drawContoursWork(this.pool, parameters, job.unit, { replaces: set.id })(context);
      });
      runs.push(run);
    }
    return runs;
  }

  private begin(
    job: Job,
    file: JobFile,
    operationId: string,
    given: unknown,
    options: { replaces?: number },
  ): { run: Run; finished: Promise<Run> } {
    const operation = serverOperations.find((o) => o.id === operationId);
    if (!operation)
      throw new JobError('not-found', {
        what: `There is no operation ${operationId}.`,
        mend: 'GET /api/operations lists them.',
      });
    const { parameters, work } = operation.prepare(this.pool, given, job.unit, {
      ...options,
      job,
      memory: this.memory,
      library: this.library,
    });
    return this.runs.start(job.id, file, operation, parameters, work);
  }
}
