import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ClientViewOptions, Job, pointExportSchema, Product, ReportOptions } from '@pampero/contract';
import { Cancelled, checkCancelled } from '@pampero/core/task';
import type { z } from 'zod';
import { writeClientView } from '../client-view/write-view.js';
import { noSuchFormat } from '../products/no-such-format.js';
import { loadProducts, type ProductCatalogue } from '../products/product-catalogue.js';
import type { WrittenFile } from '../products/product-home.js';
import { gatherReport } from '../report/gather-report.js';
import { reportHtml } from '../report/report-html.js';
import { openReader } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import { guarded } from '../errors/carried-error.js';
import { writePointsFile, type Stopped } from './points-file.js';

/** What every file is written from, and where to. */
interface WriteTask {
  readonly jobPath: string;
  readonly job: Job;
  readonly target: string;
  /** Its one byte turns 1 when nobody waits for the file any more. A thread that has a database open is not ended from outside. */
  readonly stop: Uint8Array;
}

let catalogue: Promise<ProductCatalogue> | undefined;

/** Writes a product in one of the formats of its kind. */
export const writeProduct = guarded(
  (task: WriteTask & { readonly product: Product; readonly formatId: string }): Promise<void> =>
    withReader(task, async (models, stopped) => {
      const { product, formatId, target, job } = task;
      const home = (await (catalogue ??= loadProducts())).get(product.kind);
      const writers = home?.writers as
        Record<string, (site: object, product: Product) => Promise<WrittenFile>> | undefined;
      const write = writers?.[formatId];
      if (!write) throw noSuchFormat(product, formatId);
      await store(await write({ job, models, target }, product), target, stopped);
    }),
);

/** Writes several products of a kind in one file. */
export const writeTogether = guarded(
  (
    task: WriteTask & { readonly products: readonly Product[]; readonly formatId: string; readonly name: string },
  ): Promise<void> =>
    withReader(task, async (models, stopped) => {
      const { products, formatId, target, job, name } = task;
      const [first] = products;
      if (!first) throw new TypeError('nothing to write');
      const home = (await (catalogue ??= loadProducts())).get(first.kind);
      const writers = home?.together as
        Record<string, (site: object, products: readonly Product[], name: string) => Promise<WrittenFile>> | undefined;
      const write = writers?.[formatId];
      if (!write) throw noSuchFormat(first, formatId);
      await store(await write({ job, models, target }, products, name), target, stopped);
    }),
);

/** Writes points of a cloud. */
export const writePoints = guarded(
  (task: WriteTask & { readonly cloudId: number; readonly query: z.output<typeof pointExportSchema> }): Promise<void> =>
    withReader(task, (models, stopped) => writePointsFile(models, task.job, task, stopped)),
);

/** Writes the report. */
export const writeReport = guarded((task: WriteTask & { readonly options: ReportOptions }): Promise<void> =>
  withReader(task, async (models, stopped) => {
    const report = await gatherReport(models, task.job, task.options);
    const written =
      task.options.format === 'pdf'
        ? { stream: (await import('../report/report-pdf.js')).reportPdf(report) }
        : { bytes: reportHtml(report) };
    await store(written, task.target, stopped);
  }),
);

/** Writes the one file that a client opens. */
export const writeView = guarded((task: WriteTask & { readonly options: ClientViewOptions }): Promise<void> =>
  withReader(task, (models, stopped) => writeClientView(models, task.job, task.options, task.target, stopped)),
);

async function withReader<T>(
  { jobPath, stop }: WriteTask,
  work: (models: Models, stopped: Stopped) => Promise<T>,
): Promise<T> {
  const stopped: Stopped = {
    get aborted() {
      return Atomics.load(stop, 0) === 1;
    },
  };
  checkCancelled(stopped);
  const reader = await openReader(jobPath);
  try {
    return await work(reader.models, stopped);
  } finally {
    await reader.close();
  }
}

async function store(written: WrittenFile, target: string, stopped: Stopped): Promise<void> {
  if ('isWritten' in written) return;
  const source =
    'pieces' in written
      ? Readable.from(watched(written.pieces, stopped))
      : 'stream' in written
        ? written.stream
        : Readable.from([written.bytes]);
  await pipeline(source, createWriteStream(target));
}

/** Small pieces together, since each is a turn of the stream. */
function* watched(pieces: Iterable<string>, stopped: Stopped): Generator<string> {
  let text = '';
  for (const piece of pieces) {
    text += piece;
    if (text.length < 65_536) continue;
    if (stopped.aborted) throw new Cancelled();
    yield text;
    text = '';
  }
  if (text !== '') yield text;
}
