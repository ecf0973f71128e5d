import {
  formatsOf,
  itemsFor,
  POINT_FILE_FORMATS,
  RECIPIENTS,
  type HandOverItem,
  type PointFileFormat,
  type Recipient,
} from '@pampero/contract';
import { writePackageOf } from '../hand-over/write-package.js';
import { listClouds } from '../store/cloud-repository.js';
import { listProducts } from '../store/product-repository.js';
import { readSettings } from '../settings.js';
import { WritingPool } from '../writing/writing-pool.js';
import { Misuse } from './exit-codes.js';
import { folderTarget, tellWritten } from './folder-target.js';
import { openJobAt } from './job-at.js';
import { Telling } from './telling.js';

interface ExportOptions {
  readonly list?: boolean;
  readonly what?: string;
  readonly form?: string;
  readonly for?: string;
  readonly out: string;
  readonly json?: boolean;
}

/** Writes what is in a job into files, or lists it. */
export async function exportFrom(path: string, options: ExportOptions): Promise<void> {
  const telling = new Telling(options.json ?? false);
  const opened = await openJobAt(path);
  try {
    const [clouds, products] = [await listClouds(opened.models), await listProducts(opened.models)];
    if (options.list) {
      for (const { id, name, pointCount } of clouds)
        telling.line(`cloud ${id}  ${name}  (${POINT_FILE_FORMATS.join(', ')})`, {
          kind: 'cloud',
          id,
          name,
          points: pointCount,
        });
      for (const product of products)
        telling.line(
          `${product.kind} ${product.id}  ${product.name}${product.isStale ? ', STALE' : ''}  (${formatsOf(product)
            .map(({ id }) => id)
            .join(', ')})`,
          { kind: product.kind, id: product.id, name: product.name, isStale: product.isStale },
        );
      return;
    }
    const recipient = recipientOf(options.for);
    const wanted = <T extends { readonly id: number; readonly name: string }>(all: readonly T[]): readonly T[] =>
      options.what === undefined
        ? all
        : all.filter(({ id, name }) => name === options.what || String(id) === options.what);
    const [someClouds, someProducts] = [wanted(clouds), wanted(products)];
    if (someClouds.length + someProducts.length === 0)
      throw new Misuse(`The job holds no “${options.what ?? 'product'}”. List what there is with --list.`);
    const items = options.form === undefined ? itemsFor(recipient, someProducts, someClouds) : inForm(options.form);
    function inForm(form: string): HandOverItem[] {
      const ofClouds = (POINT_FILE_FORMATS as readonly string[]).includes(form)
        ? someClouds.map(({ id }) => ({ kind: 'cloud' as const, id, format: form as PointFileFormat }))
        : [];
      const ofProducts = someProducts
        .filter((product) => formatsOf(product).some(({ id }) => id === form))
        .map(({ id }) => ({ kind: 'product' as const, id, format: form }));
      // A form that both have, such as CSV, is meant of products unless a cloud is named.
      return ofProducts.length > 0 ? ofProducts : ofClouds;
    }
    if (items.length === 0)
      throw new Misuse(`Nothing of it leaves as “${options.form ?? recipient}”. See --list for the forms.`);
    const writing = new WritingPool(readSettings(process.env).workers);
    const stop = new AbortController();
    process.once('SIGINT', () => stop.abort());
    try {
      const written = await writePackageOf(
        { job: opened.job, jobPath: opened.path, models: opened.models, writing },
        { items, pattern: '{name}', note: '' },
        folderTarget(options.out),
        stop.signal,
        (share, name) => telling.progress(share, `Writing ${name}`),
      );
      tellWritten(written, options.out, telling);
    } finally {
      await writing.close();
    }
  } finally {
    await opened.close();
  }
}

function recipientOf(given: string | undefined): Recipient {
  const found = RECIPIENTS.find((each) => each === (given ?? 'gis'));
  if (!found) throw new Misuse(`--for takes ${RECIPIENTS.join(', ')}, and got “${given}”.`);
  return found;
}
