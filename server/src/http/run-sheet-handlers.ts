import { sheetFromSteps, type runSheetEndpoints } from '@pampero/contract';
import { checkedSheet } from '../run-sheets/sheet-runner.js';
import { readDoneSteps } from '../store/sheet-run-repository.js';
import { seriesOfProducts } from '../store/product-repository.js';
import { readerOf, type Handlers, type Services } from './handler.js';

/** Run sheets, and their runs through jobs. */
export function runSheetHandlers(services: Services): Handlers<keyof typeof runSheetEndpoints> {
  const { library, sheets, sheetRunner } = services;
  return {
    listRunSheets: () => sheets.list(),
    readRunSheet: ({ params }) => sheets.read(params.sheetId),
    keepRunSheet: ({ body }) => sheets.add(body.sheet),
    changeRunSheet: ({ params, body }) => sheets.change(params.sheetId, body.sheet),
    async removeRunSheet({ params, response }) {
      await sheets.remove(params.sheetId);
      response.status(204).end();
    },
    async sheetFromHistory({ params: { jobId }, body }) {
      const [{ unit }, models] = [await library.describe(jobId), await readerOf(services, jobId)];
      const series = await seriesOfProducts(models);
      const { sheet, leftOut } = sheetFromSteps(
        body.name,
        await readDoneSteps(models, body.entries),
        unit,
        (id) => series.get(id) ?? id,
      );
      return { ...(sheet.steps.length > 0 && { sheet: checkedSheet(sheet) }), leftOut: [...leftOut] };
    },
    listSheetRuns: ({ params }) => sheetRunner.list(params.jobId),
    startSheetRun: ({ params, body }) => sheetRunner.start(params.jobId, body.sheet, body.places),
    readSheetRun: ({ params }) => sheetRunner.read(params.jobId, params.sheetRunId),
    acceptSheetStep: ({ params, body }) => sheetRunner.accept(params.jobId, params.sheetRunId, body.step, body.reason),
    goOnWithSheetRun: ({ params }) => sheetRunner.goOn(params.jobId, params.sheetRunId),
    cancelSheetRun: ({ params }) => sheetRunner.cancel(params.jobId, params.sheetRunId),
  };
}
