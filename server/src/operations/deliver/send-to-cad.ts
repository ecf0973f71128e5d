import { rm } from 'node:fs/promises';
import { formatsOf, sendToCad, type Product, type SendToCadParameters } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { formatCounted } from '@pampero/core/wording';
import { putInFolder } from '../../cad-receiver/drawing-folder.js';
import { differences, sendDrawing, understoodInWords, type Sent } from '../../cad-receiver/send-drawing.js';
import type { Outside } from '../../network/outside.js';
import { fileStem } from '../../products/file-names.js';
import type { RunWork } from '../../runs/run-service.js';
import { boundsAround } from '@pampero/core/cloud';
import { listClouds } from '../../store/cloud-repository.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Sends one file after another and holds what was understood against what was sent. Nothing of the job changes; the field book tells it. */
function work(parameters: SendToCadParameters, { job: about, library, writeProduct, outside }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { by, address, surfaces, as, contours, lines } = parameters;
    const byFolder = by === 'folder' ? folderOf(outside) : undefined;
    const products: { product: Product; formatId: string }[] = [];
    for (const id of surfaces)
      products.push({ product: (await readProduct(job.read, id, 'surface')) as Product, formatId: as });
    for (const id of contours)
      products.push({ product: (await readProduct(job.read, id, 'contours')) as Product, formatId: 'dxf' });
    for (const id of lines)
      products.push({ product: (await readProduct(job.read, id, 'lines')) as Product, formatId: 'dxf' });
    const clouds = await listClouds(job.read);
    const told: { label: string; value: string; quantity: 'text' }[] = [];
    const wrong: string[] = [];
    for (const [k, { product, formatId }] of products.entries()) {
      const format = formatsOf(product).find(({ id }) => id === formatId)!;
      const fileName = fileStem(product.name) + format.ending;
      report(k / products.length, `Sending ${fileName}`);
      const target = library.scratchPath('.out');
      try {
        await writeProduct({ jobPath: job.path, job: about, target, product, formatId }, signal);
        const understood = byFolder
          ? await putInFolder(byFolder, fileName, target, signal)
          : await sendDrawing(outside, address, fileName, target, signal);
        told.push({ label: fileName, value: understoodInWords(understood), quantity: 'text' });
        const sent: Sent = {
          unit: about.unit,
          ...countsOf(product),
          job:
            clouds.length > 0
              ? boundsAround(clouds.map(({ bounds }) => bounds))
              : { min: [-Infinity, -Infinity], max: [Infinity, Infinity] },
        };
        const own = differences(understood, sent);
        if (own.length > 0) wrong.push(`${fileName}: ${own.join('; ')}`);
      } finally {
        await rm(target, { force: true });
      }
    }
    if (wrong.length > 0)
      throw new PamperoError('cad-differs', {
        what: `The drawing program did not understand all as it was sent. ${wrong.join('. ')}.`,
        fix: 'Check the settings of its import, and send it again.',
      });
    return {
      outcome: `${formatCounted(products.length, 'file')} sent and understood as sent`,
      figures: told,
      store: () => Promise.resolve({ effects: [] }),
    };
  };
}

/** @throws PamperoError `no-drawing-folder` */
function folderOf({ drawings }: Outside): string {
  if (drawings === undefined)
    throw new PamperoError('no-drawing-folder', {
      what: 'This server knows no folder that a drawing program watches.',
      fix: 'Whoever runs it can set one with PAMPERO_DRAWINGS. Or send by address.',
    });
  return drawings;
}

function countsOf(product: Product): Pick<Sent, 'triangles' | 'lines'> {
  if (product.kind === 'surface') return { triangles: product.facts.facets };
  if (product.kind === 'contours' || product.kind === 'lines') return { lines: product.facts.lines };
  return {};
}

export const operation = serverOperation(sendToCad, work);
