import { tileShiftSchema } from '@pampero/contract';
import { z } from 'zod';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { csvTable } from './csv-table.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'shift-check'> = {
  kind: 'shift-check',
  shown: async (models, id) => ({ json: await readShownPart(models, 'shift-check', id, 'tiles') }),
  writers: {
    csv: async ({ models }, { id }) => {
      const tiles = z
        .array(tileShiftSchema)
        .parse(JSON.parse((await readProductBlob(models, id, 'tiles')).toString('utf8')));
      const rows = tiles.map(({ e, n, east, north, agrees }) => [
        ...[e, n, east, north].map((value) => value.toFixed(3)),
        agrees ? 'yes' : 'no',
      ]);
      return { bytes: csvTable([['easting', 'northing', 'shift east', 'shift north', 'agrees'], ...rows]) };
    },
  },
};
