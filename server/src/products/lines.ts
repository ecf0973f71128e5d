import { readProductBlob, readShownPart } from '../store/product-repository.js';
import type { ProductHome } from './product-home.js';

/** Lines are kept as GeoJSON, and leave as they are kept. */
export const home: ProductHome<'lines'> = {
  kind: 'lines',
  shown: async (models, id) => ({ json: await readShownPart(models, 'lines', id, 'lines') }),
  writers: {
    geojson: async ({ models }, { id }) => ({ bytes: await readProductBlob(models, id, 'lines') }),
  },
};
