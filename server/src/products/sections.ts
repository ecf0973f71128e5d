import { sectionsSchema, type ProductOf, type SectionsResource } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { csvTable } from './csv-table.js';
import type { ExportSite, ProductHome } from './product-home.js';

async function bodyOf({ models }: ExportSite, { id }: ProductOf<'sections'>): Promise<SectionsResource> {
  return sectionsSchema.parse(JSON.parse((await readProductBlob(models, id, 'sections')).toString('utf8')));
}

/** A row each corner of each profile; areas beside the first of a section. */
function table({ surfaces, sections }: SectionsResource): string {
  const rows = sections.flatMap(({ station, easting, northing, bearing, profiles, cut, fill }) => {
    const [te, tn] = [Math.cos((bearing * Math.PI) / 180), -Math.sin((bearing * Math.PI) / 180)];
    return profiles.flatMap(({ offset, elevation }, s) =>
      offset.flatMap((at, k) => {
        const z = elevation[k];
        if (z === null || z === undefined) return [];
        // To the right of the way: bearing and a quarter turn.
        const place = [easting + at * te, northing + at * tn].map((value) => value.toFixed(3));
        const areas = s === 0 && k === 0 && cut !== undefined && fill !== undefined ? [cut.toFixed(3), fill.toFixed(3)] : ['', '']; // prettier-ignore
        return [[station.toFixed(3), surfaces[s] ?? '', at.toFixed(3), z.toFixed(3), ...place, ...areas]];
      }),
    );
  });
  return csvTable([['station', 'surface', 'offset', 'elevation', 'easting', 'northing', 'cut area', 'fill area'], ...rows]); // prettier-ignore
}

export const home: ProductHome<'sections'> = {
  kind: 'sections',
  shown: async (models, id) => ({ json: await readShownPart(models, 'sections', id, 'sections') }),
  writers: {
    csv: async (site, product) => ({ bytes: table(await bodyOf(site, product)) }),
    pdf: async (site, product) => ({
      stream: (await import('./section-sheets.js')).sectionSheets(await bodyOf(site, product), {
        job: site.job.name,
        name: product.name,
        unit: lengthUnits[site.job.unit].short,
        exaggeration: Number(product.parameters['exaggeration'] ?? 2),
        figures: product.facts.figures,
        isStale: product.isStale,
      }),
    }),
  },
};
