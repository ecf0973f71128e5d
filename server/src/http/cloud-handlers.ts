import { asSelection, POINT_FILES, type cloudEndpoints } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { countSelection } from '../passes/select-points.js';
import { growPatchFrom } from '../questions/grow-patch.js';
import { listObjects } from '../questions/list-objects.js';
import { lookAtControl } from '../questions/look-at-control.js';
import { listSuspectAreas } from '../questions/list-suspect-areas.js';
import { previewGroundIn } from '../questions/preview-ground.js';
import { readWindow } from '../questions/read-window.js';
import { readCloud, readCloudReport } from '../store/cloud-repository.js';
import {
  listNodes,
  readAttributeColumns,
  readNodeClass,
  readNodeDimension,
  readNodeGeometry,
} from '../store/node-repository.js';
import { fileStem } from '../products/file-names.js';
import { sendWritten } from './send-file.js';
import { FOR_GOOD, readerOf, sendBytes, type Handlers, type Services } from './handler.js';

/** Columns of the store that leave together. */
const COLUMNS_OF = { colour: ['red', 'green', 'blue'], infrared: ['nearInfrared', 'red'] } as const;

/** Clouds: their points, what they tell, what is selected of them. */
export function cloudHandlers(services: Services): Handlers<keyof typeof cloudEndpoints> {
  const { library, pool, writing, operations } = services;
  const read = (jobId: string): ReturnType<typeof readerOf> => readerOf(services, jobId);
  const unitOf = async (jobId: string): Promise<LengthUnit> => (await library.describe(jobId)).unit;
  return {
    readCloud: async ({ params }) => readCloud(await read(params.jobId), params.cloudId),
    readCloudReport: async ({ params }) => readCloudReport(await read(params.jobId), params.cloudId),
    async proposeSettings({ params: { jobId, cloudId, operation } }) {
      await readCloud(await read(jobId), cloudId);
      return operations.propose(jobId, operation, { clouds: [cloudId] });
    },
    listObjects: async ({ params: { jobId, cloudId } }) =>
      listObjects(pool, await library.file(jobId), cloudId, await unitOf(jobId)),
    previewGround: async ({ params: { jobId, cloudId }, body }) =>
      previewGroundIn(pool, await library.file(jobId), cloudId, await unitOf(jobId), body),
    listSuspectAreas: async ({ params: { jobId, cloudId } }) =>
      listSuspectAreas(pool, await library.file(jobId), cloudId, await unitOf(jobId)),
    readWindow: async ({ params: { jobId, cloudId }, body }) =>
      readWindow(pool, await library.file(jobId), cloudId, body),
    lookAtControl: async ({ params: { jobId, cloudId } }) =>
      lookAtControl(pool, await library.file(jobId), cloudId, await unitOf(jobId)),
    listNodes: async ({ params }) => ({ nodes: await listNodes(await read(params.jobId), params.cloudId) }),
    async readNodeGeometry({ params, query, response }) {
      const bytes = await readNodeGeometry(await read(params.jobId), params.nodeId, query.positions);
      // Without its set named, what a node's places are may be another tomorrow.
      if (query.positions === undefined) response.setHeader('cache-control', 'no-store');
      else response.setHeader('cache-control', FOR_GOOD);
      response.type('application/octet-stream').send(Buffer.from(bytes));
    },
    async readNodeClass({ params, query, response }) {
      const { classification, flags, revision } = await readNodeClass(await read(params.jobId), params.nodeId);
      if (query.revision !== revision) response.setHeader('cache-control', 'no-store');
      else response.setHeader('cache-control', FOR_GOOD);
      response.type('application/octet-stream').send(Buffer.concat([classification, flags]));
    },
    async readNodeColumn({ params: { jobId, nodeId, column }, query, response }) {
      const models = await read(jobId);
      if (column === 'confidence' || column === 'accuracy') {
        const values = await readNodeDimension(models, nodeId, column);
        sendBytes(response, new Uint8Array(values.buffer));
        return;
      }
      const isOfColours = column === 'colour' || column === 'infrared';
      const names = isOfColours ? COLUMNS_OF[column] : ([column] as const);
      const bytes = await readAttributeColumns(models, nodeId, names);
      // Without its set named, what a node's colours are may be another tomorrow.
      if (isOfColours && query.colours === undefined) response.setHeader('cache-control', 'no-store').send(bytes);
      else sendBytes(response, bytes);
    },
    countSelection: async ({ params, body }) =>
      countSelection(pool, await library.file(params.jobId), asSelection(body.selection)),
    growPatch: async ({ params, body }) => growPatchFrom(pool, await library.file(params.jobId), body),
    async exportPoints({ params: { jobId, cloudId }, query, response }) {
      const [job, { path: jobPath, read: models }] = [await library.describe(jobId), await library.file(jobId)];
      const { name } = await readCloud(models, cloudId);
      const { ending, mediaType } = POINT_FILES[query.format];
      await sendWritten(library, response, { fileName: `${fileStem(name)}${ending}`, mediaType }, (target, signal) =>
        writing.write('writePoints', { jobPath, job, target, cloudId, query }, signal),
      );
    },
  };
}
