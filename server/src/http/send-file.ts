import { rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Product } from '@pampero/contract';
import { formatsOf } from '@pampero/contract';
import type { Response } from 'express';
import { JobError } from '../errors/job-error.js';
import { fileStem } from '../products/file-names.js';
import type { ProductCatalogue } from '../products/product-catalogue.js';
import type { ExportSite, WrittenFile } from '../products/product-home.js';

/** Sends a file that was put together aside, so that a failure on the way is an error and not half a file. */
export async function sendFile(response: Response, path: string, fileName: string, type: string): Promise<void> {
  try {
    await new Promise<void>((resolve, reject) => {
      response.download(path, fileName, { headers: { 'content-type': type } }, (error) =>
        error && !response.headersSent ? reject(error) : resolve(),
      );
    });
  } finally {
    await rm(path, { force: true });
  }
}

/** Sends a product in one of the formats of its kind. */
export async function sendProduct(
  catalogue: ProductCatalogue,
  site: ExportSite,
  product: Product,
  formatId: string,
  response: Response,
): Promise<void> {
  const format = formatsOf(product).find(({ id }) => id === formatId);
  const writers = catalogue.get(product.kind)?.writers as
    Record<string, (site: ExportSite, product: Product) => Promise<WrittenFile>> | undefined;
  const write = writers?.[formatId];
  if (!format || !write)
    throw new JobError('no-such-format', {
      what: `${product.name} cannot be written as “${formatId}”.`,
      fix: `Ask for one of: ${formatsOf(product)
        .map(({ id }) => id)
        .join(', ')}.`,
    });
  const written = await write(site, product);
  const fileName = fileStem(product.name) + format.ending;
  if ('path' in written) return sendFile(response, written.path, fileName, format.mediaType);
  response.attachment(fileName);
  response.type(format.mediaType);
  if ('pieces' in written) await pipeline(Readable.from(written.pieces), response);
  else if ('stream' in written) await pipeline(written.stream, response);
  else {
    const { bytes } = written;
    response.send(typeof bytes === 'string' ? bytes : Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length));
  }
}
