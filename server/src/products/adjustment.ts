import { packArrays, unpackArrays } from '@pampero/core/binary';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { adjustmentCsv, adjustmentPdf } from './adjustment-report.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'adjustment'> = {
  kind: 'adjustment',
  async shown(models, id, { part }) {
    const maps = await readShownPart(models, 'adjustment', id, 'maps');
    if (part !== 'before') return { packed: maps };
    const { arrays, facts } = unpackArrays(maps);
    return { packed: packArrays({ elevation: arrays['before'] as Float32Array }, facts) };
  },
  writers: {
    pdf: async ({ job, models }, product) => {
      const { arrays } = unpackArrays(await readProductBlob(models, product.id, 'maps'));
      const maps = { before: arrays['before'] as Float32Array, after: arrays['elevation'] as Float32Array };
      return { stream: adjustmentPdf(job, product, maps) };
    },
    csv: ({ job }, product) => Promise.resolve({ bytes: adjustmentCsv(job, product) }),
    json: ({ job }, { name, madeAt, facts }) =>
      Promise.resolve({
        bytes: JSON.stringify(
          {
            name,
            made: madeAt,
            lengths: job.unit,
            angles: 'radians',
            stripNames: facts.stripNames,
            ...facts.correction,
          },
          null,
          2,
        ),
      }),
  },
};
