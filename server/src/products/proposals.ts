import { geoJsonSystem } from '@pampero/core/formats/lines';
import { readShownPart } from '../store/product-repository.js';
import { readProposals } from '../store/proposals.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'proposals'> = {
  kind: 'proposals',
  shown: async (models, id) => ({ json: await readShownPart(models, 'proposals', id, 'proposals') }),
  writers: {
    async geojson({ job, models }, { id, facts: { kind } }) {
      const features = (await readProposals(models, id)).flatMap(({ strands, isClosed, bridged, ...facts }, number) =>
        Object.entries(strands).map(([strand, corners]) => ({
          type: 'Feature',
          properties: { ...facts, number: number + 1, kind, strand, gaps: bridged.length },
          geometry: { type: 'LineString', coordinates: isClosed ? [...corners, corners[0]!] : corners },
        })),
      );
      return { bytes: JSON.stringify({ type: 'FeatureCollection', ...geoJsonSystem(job.crs.epsg), features }) };
    },
  },
};
