import type { ProductOf } from '@pampero/contract';
import { spotsToDxf, type NumberedPoint } from '@pampero/core/formats/dxf';
import { pointListRows, type PointOrder } from '@pampero/core/formats/point-list';
import { metresPer } from '@pampero/core/geodesy';
import { csvTable } from './csv-table.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { dxfWithHead, type ExportSite, type ProductHome, type WrittenFile } from './product-home.js';

/** Of the numbers in a drawing, metres. */
const TEXT_HEIGHT = 0.5;

async function pointsOf({ models }: ExportSite, { id }: ProductOf<'spots'>): Promise<NumberedPoint[]> {
  return JSON.parse((await readProductBlob(models, id, 'points')).toString('utf8')) as NumberedPoint[];
}

const list =
  (order: PointOrder) =>
  async (site: ExportSite, product: ProductOf<'spots'>): Promise<WrittenFile> => ({
    bytes: csvTable(pointListRows(await pointsOf(site, product), order, product.facts.decimals)),
  });

export const home: ProductHome<'spots'> = {
  kind: 'spots',
  shown: async (models, id) => ({ json: await readShownPart(models, 'spots', id, 'points') }),
  writers: {
    'csv-pnezd': list('PNEZD'),
    'csv-penzd': list('PENZD'),
    'csv-nezd': list('NEZD'),
    'csv-enzd': list('ENZD'),
    async dxf(site, product) {
      const { layer, decimals } = product.facts;
      const options = { layer, textHeight: TEXT_HEIGHT / metresPer(site.job.unit), decimals, unit: site.job.unit };
      return { pieces: dxfWithHead(site, [product], spotsToDxf(await pointsOf(site, product), options)) };
    },
  },
};
