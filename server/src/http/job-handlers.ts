import { operations, stateUnit, type jobEndpoints, type JobEvent } from '@pampero/contract';
import { z } from 'zod';
import { searchCrs } from '../crs/crs-catalogue.js';
import { listClouds, listIncoming } from '../store/cloud-repository.js';
import { csvTable } from '../products/csv-table.js';
import { readCodes } from '../store/code-repository.js';
import { countControl } from '../store/control-repository.js';
import { readHoldings } from '../store/holdings.js';
import { readHistory } from '../store/history-repository.js';
import { insertPin, listPins, readJobClasses, removePin } from '../store/pin-repository.js';
import { listProducts } from '../store/product-repository.js';
import type { Handlers, Services } from './handler.js';
import { receiveFile } from './receive-file.js';
import { sendFile } from './send-file.js';

/** Jobs, and what is kept in them beside points and products. */
export function jobHandlers({
  library,
  runs,
  shares,
  operations: catalogue,
}: Services): Handlers<keyof typeof jobEndpoints> {
  return {
    searchCrs: ({ query }) => searchCrs(query.search, query.limit),
    listOperations: ({ query: { unit } }) =>
      operations.map(({ id, stage, title, does, parameters }) => ({
        id,
        stage,
        title,
        does,
        isProposed: catalogue.proposes(id),
        parameters: z.toJSONSchema(parameters(unit), {
          io: 'input',
          unrepresentable: 'any',
          override: ({ jsonSchema }) => stateUnit(jsonSchema as Record<string, unknown>, unit),
        }),
      })),
    listJobs: () => library.list(),
    listUnreadableJobs: () => library.listUnreadable(),
    async moveJobAside({ body: { fileName }, response }) {
      await library.moveAside(fileName);
      response.status(204).end();
    },
    createJob: ({ body }) => library.create(body),
    async restoreJob({ request }) {
      const path = library.scratchPath('.received');
      await receiveFile(request, path);
      return library.restore(path);
    },
    async readJob({ params: { jobId } }) {
      const models = (await library.file(jobId)).read;
      const [job, clouds, comingIn, products, history, controlCount, classes, codes, pins] = await Promise.all([
        library.describe(jobId),
        listClouds(models),
        listIncoming(models),
        listProducts(models),
        readHistory(models),
        countControl(models),
        readJobClasses(models),
        readCodes(models),
        listPins(models),
      ]);
      return {
        job,
        clouds,
        comingIn,
        products,
        controlCount,
        history,
        runs: runs.list(jobId),
        classes,
        codes: [...codes],
        pins,
      };
    },
    readHoldings: async ({ params: { jobId } }) => readHoldings((await library.file(jobId)).read),
    async removeJob({ params: { jobId }, response }) {
      await library.file(jobId);
      await runs.stopAll(jobId);
      await library.remove(jobId);
      await shares.endAll(jobId);
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
    async exportCodes({ params: { jobId }, response }) {
      const codes = await readCodes((await library.file(jobId)).read);
      const rows = codes.map(({ code, meaning, role, colour, style, opacity = 1, layer }) => [
        code,
        meaning,
        role,
        colour,
        style,
        String(Math.round(100 * opacity)),
        layer,
      ]);
      response.attachment('code-list.csv').type('text/csv');
      response.send(csvTable([['code', 'meaning', 'use', 'colour', 'style', 'opacity', 'layer'], ...rows]));
    },
    pin: async ({ params: { jobId }, body }) => {
      const file = await library.file(jobId);
      const pin = await file.write((models) => insertPin(models, body));
      runs.tell(jobId, { kind: 'changed', parts: ['pins'] });
      return pin;
    },
    unpin: async ({ params: { jobId, pinId }, response }) => {
      const file = await library.file(jobId);
      await file.write((models) => removePin(models, pinId));
      runs.tell(jobId, { kind: 'changed', parts: ['pins'] });
      response.status(204).end();
    },
  };
}
