import { deflateSync } from 'node:zlib';
import { maskRingSchema, PICTURE_TILE } from '@pampero/contract';
import { pictureHead } from '@pampero/core/formats/geotiff';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import { maskPolygons } from '@pampero/core/masks';
import { z } from 'zod';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { readMask } from '../store/mask-cells.js';
import { provenance, unitName, type ProductHome } from './product-home.js';

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
    /** A byte a pixel: 1 is mask, 0 is not. */
    async tif({ job, models }, product) {
      const { columns, rows, ...placement } = product.facts;
      const tiles = [...tilesOfMask(await readMask(models, product), columns, rows)];
      const directory = { columns, rows, subfile: 0, compression: 8, photometric: 1, samples: 1, bits: 8 } as const;
      const sizes = tiles.map(({ length }) => length);
      const about = {
        placement,
        epsg: job.crs.epsg,
        description: `${product.name}; 1 is mask; ${provenance(product)}; ${unitName(job)}`,
        tile: PICTURE_TILE,
        isBig: false,
      };
      const offsets = sizes.map(() => 0);
      let at = pictureHead([{ ...directory, offsets, sizes }], about).length;
      sizes.forEach((size, k) => {
        offsets[k] = at;
        at += size + (size % 2);
      });
      const bytes = new Uint8Array(at);
      bytes.set(pictureHead([{ ...directory, offsets, sizes }], about));
      tiles.forEach((tile, k) => bytes.set(tile, offsets[k]));
      return { bytes };
    },
  },
};

function* tilesOfMask(mask: Uint8Array, columns: number, rows: number): Generator<Uint8Array> {
  for (let top = 0; top < rows; top += PICTURE_TILE)
    for (let left = 0; left < columns; left += PICTURE_TILE) {
      const tile = new Uint8Array(PICTURE_TILE * PICTURE_TILE);
      const wide = Math.min(PICTURE_TILE, columns - left);
      for (let row = top; row < Math.min(rows, top + PICTURE_TILE); row++)
        tile.set(mask.subarray(row * columns + left, row * columns + left + wide), (row - top) * PICTURE_TILE);
      yield deflateSync(tile);
    }
}
