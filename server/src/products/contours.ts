import { drawContours, type ProductOf } from '@pampero/contract';
import { attributedContours, decimalsOf, unpackContours } from '@pampero/core/contours';
import { contoursToDxf } from '@pampero/core/formats/dxf';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import type { AttributedLine } from '@pampero/core/formats/shapefile';
import { tracingOptions } from '../operations/terrain/draw-contours.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { bandsOfSurface } from '../tasks/contour-tasks.js';
import { writeGeoPackage } from './geopackage.js';
import { wktOf, zippedShapefile } from './line-attributes.js';
import { dxfWithHead, provenance, unitName, type ExportSite, type ProductHome } from './product-home.js';

type Contours = ProductOf<'contours'>;

async function linesOf({ job, models }: ExportSite, set: Contours): Promise<AttributedLine[]> {
  return attributedContours(unpackContours(await readProductBlob(models, set.id, 'lines')), {
    interval: Number(set.parameters['interval']),
    unit: unitName(job),
    source: provenance(set),
  });
}

/** GeoJSON in the job's coordinates. */
function asGeoJson(lines: readonly AttributedLine[], epsg: number | undefined): string {
  const rounded = (value: number): number => Number(value.toFixed(4));
  return JSON.stringify({
    type: 'FeatureCollection',
    ...geoJsonSystem(epsg),
    features: lines.map(({ easting, northing, elevation, attributes }) => ({
      type: 'Feature',
      properties: attributes,
      geometry: {
        type: 'LineString',
        coordinates: Array.from(easting, (e, i) => [rounded(e), rounded(northing[i]!), rounded(elevation[i]!)]),
      },
    })),
  });
}

/** The land between the contours of a set, as GeoJSON. */
async function bands({ job, models }: ExportSite, set: Contours): Promise<string> {
  const parameters = drawContours.parameters(job.unit).parse(set.parameters);
  const on =
    parameters.on === 'grid'
      ? { grid: await readProductBlob(models, parameters.gridId!, 'grid') }
      : { tin: await readProductBlob(models, parameters.surfaceId!, 'tin') };
  const about = { unit: unitName(job), source: provenance(set) };
  return bandsOfSurface({ on, options: tracingOptions(parameters), about, epsg: job.crs.epsg });
}

export const home: ProductHome<'contours'> = {
  kind: 'contours',
  shown: async (models, id) => ({ packed: await readShownPart(models, 'contours', id, 'lines') }),
  writers: {
    async dxf({ job, models }, set) {
      const parameters = drawContours.parameters(job.unit).parse(set.parameters);
      const { interval, labelHeight, labelSpacing, labelReading } = parameters;
      const labels =
        labelHeight > 0
          ? { textHeight: labelHeight, spacing: labelSpacing, decimals: decimalsOf(interval), reading: labelReading }
          : undefined;
      return {
        pieces: dxfWithHead(
          { job },
          [set],
          contoursToDxf(unpackContours(await readProductBlob(models, set.id, 'lines')), job.unit, labels),
        ),
      };
    },
    async gpkg(site, set) {
      const system = { epsg: site.job.crs.epsg, wkt: wktOf(site) };
      await writeGeoPackage(site.target, set.name, await linesOf(site, set), system);
      return { isWritten: true };
    },
    shp: async (site, set) => ({ bytes: zippedShapefile(await linesOf(site, set), set.name, wktOf(site)) }),
    geojson: async (site, set) => ({ bytes: asGeoJson(await linesOf(site, set), site.job.crs.epsg) }),
    bands: async (site, set) => ({ bytes: await bands(site, set) }),
  },
};
