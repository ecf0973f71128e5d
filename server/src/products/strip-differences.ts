import { deflateSync } from 'node:zlib';
import { unpackArrays } from '@pampero/core/binary';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { mapOfPair } from '../passes/strip-pairs.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { csvTable } from './csv-table.js';
import { differenceRows } from './difference-rows.js';
import { unitName, type ProductHome } from './product-home.js';

export const home: ProductHome<'strip-differences'> = {
  kind: 'strip-differences',
  shown: async (models, id, { part }) => ({
    packed:
      part === undefined
        ? await readShownPart(models, 'strip-differences', id, 'maps')
        : mapOfPair(await readShownPart(models, 'strip-differences', id, 'pairs'), Number(part)),
  }),
  writers: {
    csv: (_site, { facts }) =>
      Promise.resolve({
        bytes: csvTable([
          ...differenceRows(facts.agreement),
          [],
          ['within a strip, roughness', facts.within.toFixed(4)],
          ['limit within', facts.limits.within.toFixed(4)],
          ['limit between, RMSDz', facts.limits.between.toFixed(4)],
          ['limit between, largest', facts.limits.largest.toFixed(4)],
          [],
          ['strip against control', 'points', 'mean', 'RMSEz', 'worst'],
          ...facts.control.map(({ strip, count, mean, rmse, worst }) => [
            strip,
            String(count),
            mean.toFixed(4),
            rmse.toFixed(4),
            worst.toFixed(4),
          ]),
        ]),
      }),
    tif: async ({ job, models }, { id, name, madeAt, facts }) => {
      const { arrays } = unpackArrays(await readProductBlob(models, id, 'maps'));
      return {
        bytes: writeGeoTiff(arrays['elevation'] as Float32Array, facts.map, {
          ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
          description: `${name}; later strip less earlier, ${unitName(job)}; ${madeAt}`,
          deflate: (bytes: Uint8Array) => deflateSync(bytes),
        }),
      };
    },
  },
};
