import { z } from 'zod';
import { PRODUCT_FILE_FORMATS, pointExportSchema } from './exports.js';
import { fileLookSchema, folderSchema, geoidSchema, importRequestSchema, incomingFileSchema } from './incoming.js';
import { textLayoutSchema } from './text-layout.js';
import { importControl, importGrid, importLines, importSurface } from './intake-operations.js';
import { operations } from './operations.js';
import { newPinSchema, pinSchema } from './pins.js';
import { patchRequestSchema, patchSchema, selectionCountSchema, selectionSchema } from './selections.js';
import {
  cloudNodesSchema,
  cloudReportSchema,
  groundDoubtSchema,
  objectGroupSchema,
  groundPreviewSchema,
  profileSchema,
  surfaceFaultSchema,
  spotPointSchema,
  groundProposalSchema,
  controlLookSchema,
  cloudSchema,
  contourSetSchema,
  crsEntrySchema,
  historySchema,
  jobIdSchema,
  jobSchema,
  newJobSchema,
  runSchema,
  surfaceSchema,
  windowSchema,
  workbenchSchema,
} from './resources.js';

/** One call of the API: the server routes by it, OpenAPI is written from it, tests hold answers against it. */
export interface Endpoint {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  /** Below /api, with {parameters}. */
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** Set where the body is the bytes of a file. */
  readonly bodyType?: 'application/octet-stream';
  readonly status: 200 | 201 | 202 | 204;
  readonly response?: z.ZodType;
  /** Set where the answer is not JSON. */
  readonly responseType?: string;
}

const id = z.coerce.number().int().positive();
const job = z.strictObject({ jobId: jobIdSchema });
const ofJob = <K extends string>(name: K) =>
  z.strictObject({ jobId: jobIdSchema, [name]: id } as { jobId: typeof jobIdSchema } & Record<K, typeof id>);
const BYTES = 'application/octet-stream';
/** Attributes a viewer colours by. */
export const SHOWN_COLUMNS = [
  'intensity',
  'returns',
  'scanAngle',
  'pointSourceId',
  'gpsTime',
  'colour',
  'confidence',
] as const;

export const endpoints = {
  searchCrs: {
    method: 'get',
    path: '/crs',
    summary: 'Projected coordinate systems whose code, name or area holds all the words.',
    query: z.strictObject({
      search: z.string().trim().max(200).default(''),
      limit: z.coerce.number().int().min(1).max(100).default(20),
    }),
    status: 200,
    response: z.array(crsEntrySchema),
  },
  listOperations: {
    method: 'get',
    path: '/operations',
    summary: 'Every operation with its parameters as a JSON schema, in metres.',
    status: 200,
    response: z.array(
      z.object({ id: z.string(), stage: z.string(), title: z.string(), does: z.string(), parameters: z.unknown() }),
    ),
  },
  listJobs: {
    method: 'get',
    path: '/jobs',
    summary: 'All jobs, the last changed first.',
    status: 200,
    response: z.array(jobSchema),
  },
  createJob: {
    method: 'post',
    path: '/jobs',
    summary: 'Makes a job.',
    body: newJobSchema,
    status: 201,
    response: jobSchema,
  },
  putBackJob: {
    method: 'post',
    path: '/jobs/file',
    summary: 'Takes a job file that was downloaded and makes it a job again, under a new id where its own is taken.',
    bodyType: BYTES,
    status: 201,
    response: jobSchema,
  },
  readJob: {
    method: 'get',
    path: '/jobs/{jobId}',
    summary: 'A job with its clouds, products, field book and runs.',
    params: job,
    status: 200,
    response: workbenchSchema,
  },
  removeJob: {
    method: 'delete',
    path: '/jobs/{jobId}',
    summary: 'Removes a job and its file for good.',
    params: job,
    status: 204,
  },
  downloadJob: {
    method: 'get',
    path: '/jobs/{jobId}/file',
    summary: 'The whole job as one file.',
    params: job,
    status: 200,
    responseType: 'application/vnd.sqlite3',
  },
  watchJob: {
    method: 'get',
    path: '/jobs/{jobId}/events',
    summary: 'Server-sent events: progress of runs, and what changed.',
    params: job,
    status: 200,
    responseType: 'text/event-stream',
  },
  importCloud: {
    method: 'post',
    path: '/jobs/{jobId}/clouds',
    summary: 'Sends a LAS, LAZ, COPC, PLY or text file and starts its import.',
    params: job,
    query: z.strictObject({
      fileName: z.string().min(1).max(255),
      name: z.string().trim().min(1).max(120).optional(),
      /** Where the file states another system than the job's: its points are moved, or their coordinates kept as they are. */
      coordinates: z.enum(['moved', 'kept']).default('moved'),
      /** For text files: how to read them, as JSON; guessed where left out. */
      layout: z
        .string()
        .transform((text, context) => {
          try {
            return JSON.parse(text) as unknown;
          } catch {
            context.addIssue({ code: 'custom', message: 'The layout is no JSON.' });
            return z.NEVER;
          }
        })
        .pipe(textLayoutSchema)
        .optional(),
    }),
    bodyType: BYTES,
    status: 202,
    response: runSchema,
  },
  listFolder: {
    method: 'get',
    path: '/folder',
    summary: 'Files of points in the folder that the server’s settings name, or in one below it.',
    query: z.strictObject({ path: z.string().max(1000).default('') }),
    status: 200,
    response: folderSchema,
  },
  listGeoids: {
    method: 'get',
    path: '/geoids',
    summary: 'Geoid grids (GTX files) in the data folder.',
    status: 200,
    response: z.array(geoidSchema),
  },
  lookAtFile: {
    method: 'post',
    path: '/jobs/{jobId}/look',
    summary: 'What a file says of itself, and what looks wrong, before any of it comes in.',
    params: job,
    body: z.strictObject({
      file: incomingFileSchema,
      layout: textLayoutSchema.optional(),
      crs: importRequestSchema.shape.crs,
    }),
    status: 200,
    response: fileLookSchema,
  },
  importFile: {
    method: 'post',
    path: '/jobs/{jobId}/imports',
    summary: 'Starts the import of a file that was sent in pieces (tus 1.0, under /api/uploads) or lies in the folder.',
    params: job,
    body: importRequestSchema,
    status: 202,
    response: runSchema,
  },
  readCloud: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}',
    summary: 'A cloud.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudSchema,
  },
  readCloudReport: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/report',
    summary: 'What was gathered of a cloud as it came in: findings, histograms, density.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudReportSchema,
  },
  proposeGround: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/ground-proposal',
    summary: 'Settings for finding the ground of a cloud, from the cloud itself, with the reasons.',
    params: ofJob('cloudId'),
    status: 200,
    response: groundProposalSchema,
  },
  listObjects: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/objects',
    summary: 'What stands on the ground of a cloud, thing by thing, the least sure first.',
    params: ofJob('cloudId'),
    status: 200,
    response: z.array(objectGroupSchema),
  },
  previewGround: {
    method: 'post',
    path: '/jobs/{jobId}/clouds/{cloudId}/ground-preview',
    summary: 'What settings for ground would change in a window, or where they differ from other settings.',
    params: ofJob('cloudId'),
    body: z.strictObject({
      window: z.strictObject({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
      parameters: z.record(z.string(), z.unknown()),
      against: z.record(z.string(), z.unknown()).optional(),
    }),
    status: 200,
    response: groundPreviewSchema,
  },
  lookForDoubts: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/ground-doubts',
    summary: 'Places where the ground of a cloud is most likely wrong, the most doubtful first.',
    params: ofJob('cloudId'),
    status: 200,
    response: z.array(groundDoubtSchema),
  },
  readWindow: {
    method: 'post',
    path: '/jobs/{jobId}/clouds/{cloudId}/window',
    summary: 'What lies within an outline: how many points, of which classes, how high.',
    params: ofJob('cloudId'),
    body: z.strictObject({
      outline: z
        .array(z.tuple([z.number(), z.number()]))
        .min(3)
        .max(100_000),
      classes: z.array(z.int().min(0).max(255)).optional(),
    }),
    status: 200,
    response: windowSchema,
  },
  importControl: {
    method: 'post',
    path: '/jobs/{jobId}/control',
    summary: 'Takes control or check points from a list.',
    params: job,
    body: z.strictObject({ ...importControl.parameters().shape, text: z.string().max(4_000_000) }),
    status: 202,
    response: runSchema,
  },
  exportProduct: {
    method: 'get',
    path: '/jobs/{jobId}/products/{productId}/file',
    summary: 'A surface, contours, a grid or a statement of accuracy as a file of the form asked for.',
    params: ofJob('productId'),
    query: z.strictObject({ format: z.enum(PRODUCT_FILE_FORMATS) }),
    status: 200,
    responseType: 'application/octet-stream',
  },
  importLines: {
    method: 'post',
    path: '/jobs/{jobId}/lines',
    summary: 'Takes breaklines, boundaries or water outlines from a text.',
    params: job,
    body: z.strictObject({ ...importLines.parameters().shape, text: z.string().max(60_000_000) }),
    status: 202,
    response: runSchema,
  },
  importSurface: {
    method: 'post',
    path: '/jobs/{jobId}/surfaces',
    summary: 'Takes a surface from a text: LandXML, DXF with 3D faces, ASCII grid.',
    params: job,
    body: z.strictObject({ ...importSurface.parameters().shape, text: z.string().max(60_000_000) }),
    status: 202,
    response: runSchema,
  },
  importGrid: {
    method: 'post',
    path: '/jobs/{jobId}/grids',
    summary: 'Takes an elevation grid from the bytes of a file: GeoTIFF, ASCII grid.',
    params: job,
    query: importGrid.parameters(),
    bodyType: BYTES,
    status: 202,
    response: runSchema,
  },
  readProfile: {
    method: 'get',
    path: '/jobs/{jobId}/profiles/{profileId}',
    summary: 'Surfaces cut along a line.',
    params: ofJob('profileId'),
    status: 200,
    response: profileSchema,
  },
  readSpots: {
    method: 'get',
    path: '/jobs/{jobId}/spots/{spotsId}',
    summary: 'Numbered points in the order of their list.',
    params: ofJob('spotsId'),
    status: 200,
    response: z.array(spotPointSchema),
  },
  readLines: {
    method: 'get',
    path: '/jobs/{jobId}/lines/{linesId}',
    summary: 'Lines as a GeoJSON feature collection, in the coordinates of the job.',
    params: ofJob('linesId'),
    status: 200,
    responseType: 'application/geo+json',
  },
  lookAtControl: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/control',
    summary: 'Every surveyed point with the cloud’s elevation there, and what the differences have in common.',
    params: ofJob('cloudId'),
    status: 200,
    response: controlLookSchema,
  },
  listNodes: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/nodes',
    summary: 'The nodes of a cloud, coarse to fine.',
    params: ofJob('cloudId'),
    status: 200,
    response: cloudNodesSchema,
  },
  readNodeGeometry: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/geometry',
    summary: 'A node’s x, y, z as scaled 32-bit integers, column after column.',
    params: ofJob('nodeId'),
    status: 200,
    responseType: BYTES,
  },
  readNodeClass: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/class',
    summary: 'A node’s classes, then its flags, a byte a point each.',
    params: ofJob('nodeId'),
    query: z.strictObject({ revision: z.coerce.number().int().optional() }),
    status: 200,
    responseType: BYTES,
  },
  readNodeColumn: {
    method: 'get',
    path: '/jobs/{jobId}/nodes/{nodeId}/columns/{column}',
    summary: 'One attribute of a node’s points, column by column; colours are red, green and blue after one another.',
    params: z.strictObject({ jobId: jobIdSchema, nodeId: id, column: z.enum(SHOWN_COLUMNS) }),
    status: 200,
    responseType: BYTES,
  },
  countSelection: {
    method: 'post',
    path: '/jobs/{jobId}/selection/count',
    summary: 'How many points a selection holds, by class.',
    params: job,
    body: z.strictObject({ selection: selectionSchema }),
    status: 200,
    response: selectionCountSchema,
  },
  growPatch: {
    method: 'post',
    path: '/jobs/{jobId}/selection/patch',
    summary: 'The connected patch of points alike, from one that was touched.',
    params: job,
    body: patchRequestSchema,
    status: 200,
    response: patchSchema,
  },
  pin: {
    method: 'post',
    path: '/jobs/{jobId}/pins',
    summary: 'Keeps a note, a measure, a view or a selection in the job.',
    params: job,
    body: newPinSchema,
    status: 201,
    response: pinSchema,
  },
  unpin: {
    method: 'delete',
    path: '/jobs/{jobId}/pins/{pinId}',
    summary: 'Removes what was kept.',
    params: ofJob('pinId'),
    status: 204,
  },
  startOperation: {
    method: 'post',
    path: '/jobs/{jobId}/operations/{operation}',
    summary: 'Starts an operation with its parameters; lengths may be typed with a unit.',
    params: z.strictObject({
      jobId: jobIdSchema,
      operation: z.enum(operations.map((o) => o.id) as [string, ...string[]]),
    }),
    body: z.record(z.string(), z.unknown()),
    status: 202,
    response: runSchema,
  },
  rebuildStale: {
    method: 'post',
    path: '/jobs/{jobId}/rebuild',
    summary: 'Builds every stale product again with its own parameters.',
    params: job,
    status: 202,
    response: z.array(runSchema),
  },
  readRun: {
    method: 'get',
    path: '/jobs/{jobId}/runs/{runId}',
    summary: 'How far a run is.',
    params: z.strictObject({ jobId: jobIdSchema, runId: z.string() }),
    status: 200,
    response: runSchema,
  },
  cancelRun: {
    method: 'delete',
    path: '/jobs/{jobId}/runs/{runId}',
    summary: 'Cancels a run; nothing of it is kept.',
    params: z.strictObject({ jobId: jobIdSchema, runId: z.string() }),
    status: 200,
    response: runSchema,
  },
  readHistory: {
    method: 'get',
    path: '/jobs/{jobId}/history',
    summary: 'The field book.',
    params: job,
    status: 200,
    response: historySchema,
  },
  undo: {
    method: 'post',
    path: '/jobs/{jobId}/undo',
    summary: 'Takes back the last operation.',
    params: job,
    status: 200,
    response: historySchema,
  },
  redo: {
    method: 'post',
    path: '/jobs/{jobId}/redo',
    summary: 'Does again what was last taken back.',
    params: job,
    status: 200,
    response: historySchema,
  },
  exportPoints: {
    method: 'get',
    path: '/jobs/{jobId}/clouds/{cloudId}/points',
    summary: 'The cloud with its present classes as a file: LAS, LAZ, COPC, E57, PLY, XYZ or CSV.',
    params: ofJob('cloudId'),
    query: pointExportSchema,
    status: 200,
    responseType: BYTES,
  },
  readSurface: {
    method: 'get',
    path: '/jobs/{jobId}/surfaces/{surfaceId}',
    summary: 'A surface.',
    params: ofJob('surfaceId'),
    status: 200,
    response: surfaceSchema,
  },
  findSurfaceFaults: {
    method: 'get',
    path: '/jobs/{jobId}/surfaces/{surfaceId}/faults',
    summary: 'Spikes, pits and holes of a surface, the worst first.',
    params: ofJob('surfaceId'),
    status: 200,
    response: z.array(surfaceFaultSchema),
  },
  readSurfaceWindow: {
    method: 'get',
    path: '/jobs/{jobId}/surfaces/{surfaceId}/window',
    summary: 'The surface sampled in a window at a cell of one’s own, for display close up.',
    params: ofJob('surfaceId'),
    query: z.strictObject({
      west: z.coerce.number(),
      south: z.coerce.number(),
      east: z.coerce.number(),
      north: z.coerce.number(),
      cell: z.coerce.number().positive(),
    }),
    status: 200,
    responseType: BYTES,
  },
  readSurfaceSides: {
    method: 'post',
    path: '/jobs/{jobId}/surfaces/{surfaceId}/sides',
    summary:
      'Sides of the triangles in a window: packed arrays of corners and pairs of them; none where there are too many.',
    params: ofJob('surfaceId'),
    body: z.strictObject({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
    status: 200,
    responseType: BYTES,
  },
  readGrid: {
    method: 'get',
    path: '/jobs/{jobId}/grids/{gridId}/grid',
    summary: 'A grid thinned for display: packed arrays with 32-bit values and the frame.',
    params: ofJob('gridId'),
    status: 200,
    responseType: BYTES,
  },
  readSurfaceGrid: {
    method: 'get',
    path: '/jobs/{jobId}/surfaces/{surfaceId}/grid',
    summary:
      'The surface sampled for display: packed arrays with 32-bit elevations and the frame; of one that differs little from a surface already read, the part that differs.',
    params: ofJob('surfaceId'),
    query: z.strictObject({ since: id.optional() }),
    status: 200,
    responseType: BYTES,
  },
  exportLandXml: {
    method: 'get',
    path: '/jobs/{jobId}/surfaces/{surfaceId}/landxml',
    summary: 'The surface as LandXML 1.2.',
    params: ofJob('surfaceId'),
    status: 200,
    responseType: 'application/xml',
  },
  readContours: {
    method: 'get',
    path: '/jobs/{jobId}/contours/{contoursId}',
    summary: 'A set of contours.',
    params: ofJob('contoursId'),
    status: 200,
    response: contourSetSchema,
  },
  readContourLines: {
    method: 'get',
    path: '/jobs/{jobId}/contours/{contoursId}/lines',
    summary: 'The lines as packed arrays.',
    params: ofJob('contoursId'),
    status: 200,
    responseType: BYTES,
  },
  exportDxf: {
    method: 'get',
    path: '/jobs/{jobId}/contours/{contoursId}/dxf',
    summary: 'The contours as DXF, 3D polylines on layers for index and intermediate.',
    params: ofJob('contoursId'),
    status: 200,
    responseType: 'image/vnd.dxf',
  },
} as const satisfies Record<string, Endpoint>;

export type EndpointId = keyof typeof endpoints;
