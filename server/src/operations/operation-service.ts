import { rm } from 'node:fs/promises';
import {
  drawContours,
  importCloud,
  importControl,
  importLines,
  importGrid,
  importSurface,
  importRequestSchema,
  type CloudWindow,
  type ControlLook,
  type CrsChoice,
  type FileLook,
  type GroundDoubtResource,
  type GroundPreview,
  type GroundProposalResource,
  type IncomingFile,
  type Job,
  type ObjectGroupResource,
  type Patch,
  type Run,
  type SelectionCount,
  type SurfaceFaultResource,
} from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { readPointList, type PointOrder } from '@pampero/core/formats/point-list';
import type { TextLayout } from '@pampero/core/formats/text';
import type { Selection } from '@pampero/core/selection';
import type { z } from 'zod';
import { chosenSystem } from '../crs/plane-system.js';
import type { FoundFile, IncomingFiles } from '../incoming/incoming-files.js';
import { lookAtFile } from '../incoming/look-at-file.js';
import type { MemoryPlan } from '../memory-plan.js';
import { JobError } from '../jobs/job-error.js';
import type { JobFile } from '../jobs/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { RunService } from '../runs/run-service.js';
import { boundsAround, listClouds } from '../store/cloud-repository.js';
import { insertControl } from '../store/control-repository.js';
import { listProducts, readContours, readProductBlob } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { drawContoursWork } from './draw-contours.js';
import { findSurfaceFaults } from './edit-surface.js';
import { growPatchFrom } from './grow-patch.js';
import { importCloudWork } from './import-cloud.js';
import { importLinesWork } from './import-lines.js';
import { importGridWork, readGridFile } from './import-grid.js';
import { importSurfaceWork } from './import-surface.js';
import { listObjects } from './list-objects.js';
import { lookAtControl } from './look-at-control.js';
import { lookForDoubts } from './look-for-doubts.js';
import { previewGroundIn } from './preview-ground.js';
import { proposeGroundFor } from './propose-ground.js';
import { readWindow } from './read-window.js';
import { countSelection } from './select-points.js';
import { serverOperation } from './server-operations.js';

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

  /** Takes surfaces of a file into the job. */
  async startSurfaceImport(
    jobId: string,
    { text, ...given }: { text: string } & Record<string, unknown>,
  ): Promise<Run> {
    const file = await this.library.file(jobId);
    const { unit } = await this.library.describe(jobId);
    const parameters = importSurface.parameters().parse(given);
    // Read before the run begins, so that a file that is no surface is refused at once; in a thread, since it may be large.
    const task = { text, fileName: parameters.fileName, unit };
    const surfaces = await this.pool.run('surfacesOfFile', task, new AbortController().signal);
    return this.runs.start(jobId, file, importSurface, parameters, importSurfaceWork(surfaces, parameters)).run;
  }

  /** Takes a grid of a file that was received for this alone; it is removed whatever becomes of it. */
  async startGridImport(jobId: string, path: string, given: Record<string, unknown>): Promise<Run> {
    try {
      const file = await this.library.file(jobId);
      const { unit, crs } = await this.library.describe(jobId);
      const parameters = importGrid.parameters().parse(given);
      // Read before the run begins, so that a file that is no grid is refused at once.
      const read = await readGridFile(this.pool, path, parameters.fileName, { unit, epsg: crs.epsg });
      return this.runs.start(jobId, file, importGrid, parameters, importGridWork(read, parameters, unit)).run;
    } finally {
      await rm(path, { force: true });
    }
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

  async findSurfaceFaults(jobId: string, surfaceId: number): Promise<SurfaceFaultResource[]> {
    const { unit } = await this.library.describe(jobId);
    return findSurfaceFaults(this.pool, await this.library.file(jobId), surfaceId, unit);
  }

  /** The land between the contours of a set, as GeoJSON. */
  async contourBands(jobId: string, contoursId: number): Promise<{ name: string; text: string }> {
    const { read } = await this.library.file(jobId);
    const job = await this.library.describe(jobId);
    const set = await readContours(read, contoursId);
    const parameters = drawContours.parameters(job.unit).parse(set.parameters);
    const isOfGrid = set.parameters['gridId'] !== undefined;
    const bytes = await readProductBlob(read, set.surfaceId, isOfGrid ? 'grid' : 'tin');
    const on = isOfGrid ? { grid: bytes } : { tin: bytes };
    const about = {
      unit: lengthUnits[job.unit].name,
      source: `${set.operation} ${set.madeAt.slice(0, 10)}${set.isStale ? ', stale' : ''}`,
    };
    const task = { on, options: parameters, about, epsg: job.crs.epsg };
    return { name: set.name, text: await this.pool.run('bandsOfSurface', task, new AbortController().signal) };
  }

  async readSurfaceWindow(
    jobId: string,
    surfaceId: number,
    window: { west: number; south: number; east: number; north: number; cell: number },
  ): Promise<Uint8Array> {
    const tin = await readProductBlob((await this.library.file(jobId)).read, surfaceId, 'tin');
    return this.pool.run('windowOfSurface', { tin, window }, new AbortController().signal);
  }

  async readSurfaceSides(
    jobId: string,
    surfaceId: number,
    window: { west: number; south: number; east: number; north: number },
  ): Promise<Uint8Array> {
    const tin = await readProductBlob((await this.library.file(jobId)).read, surfaceId, 'tin');
    return this.pool.run('sidesOfSurface', { tin, window }, new AbortController().signal);
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
    for (const surface of surfaces.filter((s) => s.isStale && s.operation !== importSurface.id)) {
      const { run, finished } = this.begin(job, file, surface.operation, surface.parameters, { replaces: surface.id });
      rebuilt.set(surface.id, finished);
      runs.push(run);
    }
    for (const set of contours.filter((c) => c.isStale)) {
      // A surface that was edited has another number.
      const under = surfaces.find(({ id, replaced }) => id === set.surfaceId || replaced?.includes(set.surfaceId));
      const before = under && rebuilt.get(under.id);
      if (!under) continue; // its surface was taken back: nothing to trace on
      const { run } = this.runs.start(jobId, file, drawContours, set.parameters, async (context) => {
        const surfaceId = before ? (await before).productId : under.id;
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
    const operation = serverOperation(operationId);
    if (!operation)
      throw new JobError('not-found', {
        what: `There is no operation ${operationId}.`,
        mend: 'GET /api/operations lists them.',
      });
    const { parameters, work } = operation.prepare(given, {
      ...options,
      pool: this.pool,
      unit: job.unit,
      job,
      memory: this.memory,
      library: this.library,
    });
    return this.runs.start(job.id, file, operation, parameters, work);
  }
}
