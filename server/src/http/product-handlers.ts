import { formatsOf, type productEndpoints } from '@pampero/contract';
import { notFound } from '../errors/job-error.js';
import { fileStem } from '../products/file-names.js';
import { noSuchFormat } from '../products/no-such-format.js';
import { previewMaskIn } from '../questions/preview-mask.js';
import { findSurfaceFaults, readSurfaceEdges, readSurfaceWindow } from '../questions/surfaces.js';
import { readTile, tilesOwner } from '../store/picture-repository.js';
import { kindOfProduct, listProducts, readProduct } from '../store/product-repository.js';
import { sectionOfAdjustment } from '../questions/section-of-adjustment.js';
import { FOR_GOOD, readerOf, sendBytes, type Handlers, type Services } from './handler.js';
import { sendWritten } from './send-file.js';

/** What was made in a job, to be shown or handed over. */
export function productHandlers(services: Services): Handlers<keyof typeof productEndpoints> {
  const { library, products, pool, writing } = services;
  return {
    readProduct: async ({ params }) => readProduct(await readerOf(services, params.jobId), params.productId),
    async showProduct({ params: { jobId, productId }, query, response }) {
      const models = await readerOf(services, jobId);
      const home = products.get(await kindOfProduct(models, productId));
      if (!home?.shown) throw notFound('picture of product', productId);
      const shown = await home.shown(models, productId, query);
      if ('packed' in shown) sendBytes(response, shown.packed);
      else {
        const { json } = shown;
        response.setHeader('cache-control', FOR_GOOD);
        response.type('application/json').send(typeof json === 'string' ? json : Buffer.from(json));
      }
    },
    async readPictureTile({ params: { jobId, productId, ...tile }, response }) {
      const models = await readerOf(services, jobId);
      const bytes = await readTile(models, await tilesOwner(models, productId), tile);
      response.setHeader('cache-control', FOR_GOOD);
      response.type('application/octet-stream').send(bytes ?? Buffer.alloc(0));
    },
    previewMask: async ({ params: { jobId, productId }, body }) => {
      const { unit } = await library.describe(jobId);
      return previewMaskIn(pool, await library.file(jobId), productId, unit, body);
    },
    sectionOfAdjustment: async ({ params: { jobId, productId }, body, response }) =>
      sendBytes(response, await sectionOfAdjustment(pool, await library.file(jobId), productId, body)),
    async exportProduct({ params: { jobId, productId }, query, response }) {
      const [job, file] = [await library.describe(jobId), await library.file(jobId)];
      const product = await readProduct(file.read, productId);
      const format = formatsOf(product).find(({ id }) => id === query.format);
      if (!format) throw noSuchFormat(product, query.format);
      const { ending, mediaType } = format;
      await sendWritten(library, response, { fileName: fileStem(product.name) + ending, mediaType }, (target, signal) =>
        writing.write('writeProduct', { jobPath: file.path, job, target, product, formatId: format.id }, signal),
      );
    },
    async exportLines({ params: { jobId }, query, response }) {
      const [job, file] = [await library.describe(jobId), await library.file(jobId)];
      const products = (await listProducts(file.read)).filter(({ kind, facts }) => kind === 'lines' && facts.lines > 0);
      if (products.length === 0) throw notFound('line in job', job.name);
      const format = formatsOf({ kind: 'lines' }).find(({ id }) => id === query.format);
      if (!format) throw noSuchFormat(products[0]!, query.format);
      const name = `${job.name} lines`;
      const { ending, mediaType, id: formatId } = format;
      await sendWritten(library, response, { fileName: fileStem(name) + ending, mediaType }, (target, signal) =>
        writing.write('writeTogether', { jobPath: file.path, job, target, products, formatId, name }, signal),
      );
    },
    findSurfaceFaults: async ({ params: { jobId, productId } }) => {
      const { unit } = await library.describe(jobId);
      return findSurfaceFaults(pool, await library.file(jobId), productId, unit);
    },
    readSurfaceWindow: async ({ params: { jobId, productId }, query, response }) =>
      sendBytes(response, await readSurfaceWindow(pool, await library.file(jobId), productId, query)),
    readSurfaceEdges: async ({ params: { jobId, productId }, body, response }) =>
      sendBytes(response, await readSurfaceEdges(pool, await library.file(jobId), productId, body)),
  };
}
