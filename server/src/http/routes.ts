import type { Request, RequestHandler, Response } from 'express';
import { Router, json } from 'express';
import {
  asSelection,
  endpoints,
  openApiDocument,
  operations,
  type Endpoint,
  type EndpointId,
  type JobEvent,
} from '@pampero/contract';
import { z } from 'zod';
import { searchCrs } from '../crs/crs-catalogue.js';
import { JobError, notFound } from '../jobs/job-error.js';
import type { JobLibrary } from '../jobs/job-library.js';
import { readProfile } from '../operations/draw-profile.js';
import { surfaceForDisplay } from '../operations/edit-surface.js';
import { gridForDisplay } from '../operations/make-grid.js';
import { readSpots } from '../operations/number-points.js';
import type { OperationService } from '../operations/operation-service.js';
import type { RunService } from '../runs/run-service.js';
import {
  asBuffer,
  listClouds,
  listNodes,
  readCloud,
  readCloudReport,
  readNodeClass,
  readAttributeColumns,
  readNodeConfidence,
  readNodeGeometry,
} from '../store/cloud-repository.js';
import { countControl } from '../store/control-repository.js';
import { readHistory, redo, undo } from '../store/history-repository.js';
import { insertPin, listPins, readJobClasses, removePin } from '../store/pin-repository.js';
import { listProducts, readContours, readProductBlob, readSurface } from '../store/product-repository.js';
import { exportProduct } from './export-products.js';
import { exportPoints } from './export-points.js';
import { exportDxf, exportLandXml, fileStem, sendFile } from './exports.js';
import { receiveFile } from './receive-file.js';

export interface RouteServices {
  readonly library: JobLibrary;
  readonly runs: RunService;
  readonly operations: OperationService;
}

type Parsed<S> = S extends z.ZodType ? z.output<S> : Record<string, never>;
interface Call<E extends Endpoint> {
  readonly params: Parsed<E['params']>;
  readonly query: Parsed<E['query']>;
  readonly body: Parsed<E['body']>;
  readonly request: Request;
  readonly response: Response;
}
type Answer<E extends Endpoint> = E['response'] extends z.ZodType
  ? Promise<z.input<E['response']>> | z.input<E['response']>
  : Promise<void> | void;
type Handlers = { [K in EndpointId]: (call: Call<(typeof endpoints)[K]>) => Answer<(typeof endpoints)[K]> };

const COLOUR_COLUMNS = ['red', 'green', 'blue'] as const;

/** Blobs under an address that changes with their content may be kept for good. */
const FOR_GOOD = 'private, max-age=31536000, immutable';

function sendBytes(response: Response, bytes: Uint8Array): void {
  response.setHeader('cache-control', FOR_GOOD);
  response.type('application/octet-stream').send(Buffer.isBuffer(bytes) ? bytes : asBuffer(bytes));
}

function handlers({ library, runs, operations: operationService }: RouteServices): Handlers {
  const read = async (jobId: string) => (await library.file(jobId)).read;
  const step = async (jobId: string, go: typeof undo) => {
    // A hand edit is over in a moment and is waited for, so that undo straight after it takes back just that.
    await runs.quickOnesDone(jobId);
    if (runs.isBusy(jobId))
      throw new JobError('busy', { what: 'Something is running in this job.', mend: 'Wait for it or cancel it.' });
    const file = await library.file(jobId);
    await file.write(go);
    runs.tell(jobId, { kind: 'changed', parts: ['clouds', 'surfaces', 'contours', 'control', 'history'] });
    return readHistory(file.read);
  };
  return {
    searchCrs: ({ query }) => searchCrs(query.search, query.limit),
    listOperations: () =>
      operations.map((o) => ({
        id: o.id,
        stage: o.stage,
        title: o.title,
        does: o.does,
        parameters: z.toJSONSchema(o.parameters('metre'), { io: 'input', unrepresentable: 'any' }),
      })),
    listJobs: () => library.list(),
    createJob: ({ body }) => library.create(body),
    async putBackJob({ request }) {
      const path = library.scratchPath('.received');
      await receiveFile(request, path);
      return library.putBack(path);
    },
    async readJob({ params: { jobId } }) {
      const models = await read(jobId);
      const [job, clouds, products, history, controlCount, classes, pins] = await Promise.all([
        library.describe(jobId),
        listClouds(models),
        listProducts(models),
        readHistory(models),
        countControl(models),
        readJobClasses(models),
        listPins(models),
      ]);
      return { job, clouds, ...products, controlCount, history, runs: runs.list(jobId), classes, pins };
    },
    async removeJob({ params: { jobId }, response }) {
      await library.file(jobId);
      await runs.stopAll(jobId);
      await library.remove(jobId);
      response.status(204).end();
    },
    async downloadJob({ params: { jobId }, response }) {
      const { path, fileName } = await library.copyForDownload(jobId);
      await sendFile(response, path, fileName, 'application/vnd.sqlite3');
    },
    async watchJob({ params: { jobId }, request, response }) {
      await library.file(jobId);
      response.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        'x-accel-buffering': 'no',
      });
      const send = (event: JobEvent): void => void response.write(`data: ${JSON.stringify(event)}\n\n`);
      response.write(': watching\n\n');
      for (const run of runs.list(jobId))
        if (run.state === 'queued' || run.state === 'running') send({ kind: 'run', run });
      const stop = runs.watch(jobId, send);
      const beat = setInterval(() => response.write(': still here\n\n'), 20_000);
      request.on('close', () => {
        clearInterval(beat);
        stop();
        response.end();
      });
    },
    async importCloud({ params: { jobId }, query, request }) {
      await library.file(jobId);
      const path = library.scratchPath('.received');
      await receiveFile(request, path);
      return (await operationService.startImport(jobId, path, query)).run;
    },
    async importGrid({ params: { jobId }, query, request }) {
      await library.file(jobId);
      const path = library.scratchPath('.received');
      await receiveFile(request, path);
      return operationService.startGridImport(jobId, path, query);
    },
    listFolder: ({ query }) => operationService.incoming.folder.list(query.path),
    listGeoids: () => operationService.incoming.geoids.list(),
    lookAtFile: ({ params, body }) => operationService.lookAtFile(params.jobId, body),
    importFile: ({ params, body }) => operationService.importFile(params.jobId, body),
    readCloud: async ({ params }) => readCloud(await read(params.jobId), params.cloudId),
    readCloudReport: async ({ params }) => readCloudReport(await read(params.jobId), params.cloudId),
    proposeGround: ({ params }) => operationService.proposeGround(params.jobId, params.cloudId),
    listObjects: ({ params }) => operationService.listObjects(params.jobId, params.cloudId),
    previewGround: ({ params, body }) => operationService.previewGround(params.jobId, params.cloudId, body),
    lookForDoubts: ({ params }) => operationService.lookForDoubts(params.jobId, params.cloudId),
    readWindow: ({ params, body }) => operationService.readWindow(params.jobId, params.cloudId, body),
    importControl: ({ params, body }) => operationService.startControlImport(params.jobId, body),
    async exportProduct({ params, query, response }) {
      if (query.format === 'bands') {
        const { name, text } = await operationService.contourBands(params.jobId, params.productId);
        response.attachment(`${fileStem(name)}-bands.geojson`);
        response.type('application/geo+json').send(text);
        return;
      }
      await exportProduct(
        { library, job: await library.describe(params.jobId), file: await library.file(params.jobId), response },
        params.productId,
        query.format,
      );
    },
    importLines: ({ params, body }) => operationService.startLinesImport(params.jobId, body),
    importSurface: ({ params, body }) => operationService.startSurfaceImport(params.jobId, body),
    readProfile: async ({ params }) => readProfile(await read(params.jobId), params.profileId),
    readSpots: async ({ params }) => readSpots(await read(params.jobId), params.spotsId),
    async readLines({ params, response }) {
      const bytes = await readProductBlob(await read(params.jobId), params.linesId, 'lines');
      response.setHeader('cache-control', FOR_GOOD);
      response.type('application/geo+json').send(bytes);
    },
    lookAtControl: ({ params }) => operationService.lookAtControl(params.jobId, params.cloudId),
    listNodes: async ({ params }) => ({ nodes: await listNodes(await read(params.jobId), params.cloudId) }),
    readNodeGeometry: async ({ params, response }) =>
      sendBytes(response, await readNodeGeometry(await read(params.jobId), params.nodeId)),
    async readNodeClass({ params, query, response }) {
      const { classification, flags, revision } = await readNodeClass(await read(params.jobId), params.nodeId);
      if (query.revision !== revision) response.setHeader('cache-control', 'no-store');
      else response.setHeader('cache-control', FOR_GOOD);
      response.type('application/octet-stream').send(Buffer.concat([classification, flags]));
    },
    async readNodeColumn({ params, response }) {
      const models = await read(params.jobId);
      if (params.column === 'confidence') {
        const values = await readNodeConfidence(models, params.nodeId);
        sendBytes(response, new Uint8Array(values.buffer));
        return;
      }
      const names = params.column === 'colour' ? COLOUR_COLUMNS : ([params.column] as const);
      sendBytes(response, await readAttributeColumns(models, params.nodeId, names));
    },
    countSelection: ({ params, body }) => operationService.countSelection(params.jobId, asSelection(body.selection)),
    growPatch: ({ params, body }) => operationService.growPatch(params.jobId, body),
    pin: async ({ params, body }) => {
      const file = await library.file(params.jobId);
      const pin = await file.write((models) => insertPin(models, body));
      runs.tell(params.jobId, { kind: 'changed', parts: ['pins'] });
      return pin;
    },
    unpin: async ({ params, response }) => {
      const file = await library.file(params.jobId);
      await file.write((models) => removePin(models, params.pinId));
      runs.tell(params.jobId, { kind: 'changed', parts: ['pins'] });
      response.status(204).end();
    },
    startOperation: async ({ params, body }) =>
      (await operationService.start(params.jobId, params.operation, body)).run,
    rebuildStale: ({ params }) => operationService.rebuildStale(params.jobId),
    readRun: ({ params }) => runs.read(params.jobId, params.runId),
    cancelRun: ({ params }) => runs.cancel(params.jobId, params.runId),
    readHistory: async ({ params }) => readHistory(await read(params.jobId)),
    undo: ({ params }) => step(params.jobId, undo),
    redo: ({ params }) => step(params.jobId, redo),
    async exportPoints({ params, query, response }) {
      const job = await library.describe(params.jobId);
      await exportPoints(library, job, await library.file(params.jobId), params.cloudId, query, response);
    },
    readSurface: async ({ params }) => readSurface(await read(params.jobId), params.surfaceId),
    findSurfaceFaults: ({ params }) => operationService.findSurfaceFaults(params.jobId, params.surfaceId),
    readSurfaceWindow: async ({ params, query, response }) =>
      sendBytes(response, await operationService.readSurfaceWindow(params.jobId, params.surfaceId, query)),
    readSurfaceSides: async ({ params, body, response }) =>
      sendBytes(response, await operationService.readSurfaceSides(params.jobId, params.surfaceId, body)),
    readGrid: async ({ params, response }) =>
      sendBytes(response, await gridForDisplay(await read(params.jobId), params.gridId)),
    readSurfaceGrid: async ({ params, query, response }) =>
      sendBytes(response, await surfaceForDisplay(await read(params.jobId), params.surfaceId, query.since)),
    async exportLandXml({ params, response }) {
      await exportLandXml(
        await library.describe(params.jobId),
        await library.file(params.jobId),
        params.surfaceId,
        response,
      );
    },
    readContours: async ({ params }) => readContours(await read(params.jobId), params.contoursId),
    readContourLines: async ({ params, response }) =>
      sendBytes(response, await readProductBlob(await read(params.jobId), params.contoursId, 'lines')),
    exportDxf: async ({ params, response }) => exportDxf(await library.file(params.jobId), params.contoursId, response),
  };
}

/** Every endpoint of the contract under its path; what a handler returns is the JSON answer. */
export function apiRoutes(services: RouteServices): Router {
  const router = Router();
  const byId = handlers(services) as unknown as Record<string, (call: Call<Endpoint>) => unknown>;
  router.get('/openapi.json', (_request, response) => void response.json(openApiDocument()));
  for (const [id, endpoint] of Object.entries(endpoints) as [string, Endpoint][]) {
    const handle: RequestHandler = async (request, response) => {
      const parse = (schema: z.ZodType | undefined, given: unknown): never =>
        (schema ? schema.parse(given) : {}) as never;
      if (endpoint.body && request.body === undefined)
        throw new JobError('bad-request', {
          what: 'The request has no JSON body.',
          mend: 'Send one with content-type application/json.',
        });
      const answer = await byId[id]!({
        params: parse(endpoint.params, request.params),
        query: parse(endpoint.query, request.query),
        body: parse(endpoint.body, request.body),
        request,
        response,
      });
      if (endpoint.response) response.status(endpoint.status).json(answer);
    };
    const path = endpoint.path.replace(/\{(\w+)\}/g, ':$1');
    router[endpoint.method](path, ...(endpoint.body ? [json({ limit: '64mb' })] : []), handle);
  }
  router.use((request) => {
    throw notFound('API at', request.originalUrl);
  });
  return router;
}
