import { maskRingSchema } from '@pampero/contract';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import { maskPolygons } from '@pampero/core/masks';
import { z } from 'zod';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { provenance, type ProductHome } from './product-home.js';

export const home: ProductHome<'mask'> = {
  kind: 'mask',
  shown: async (models, id) => ({ json: await readShownPart(models, 'mask', id, 'rings') }),
  writers: {
    async geojson({ job, models }, product) {
      const rings = z
        .array(maskRingSchema)
        .parse(JSON.parse((await readProductBlob(models, product.id, 'rings')).toString('utf8')));
      const { name, facts } = product;
      const features = maskPolygons(rings).map((polygon, k) => ({
        type: 'Feature',
        properties: { name, number: k + 1, picture: facts.pictureName, source: provenance(product) },
        geometry: { type: 'Polygon', coordinates: polygon.map((ring) => [...ring, ring[0]!]) },
      }));
      return { bytes: JSON.stringify({ type: 'FeatureCollection', ...geoJsonSystem(job.crs.epsg), features }) };
    },
  },
};
