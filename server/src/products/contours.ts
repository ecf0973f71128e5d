import { drawContours, type ProductOf } from '@pampero/contract';
import { attributedContours, decimalsOf, unpackContours } from '@pampero/core/contours';
import { contoursToDxf } from '@pampero/core/formats/dxf';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import { polylinesToShapefile, type AttributedLine } from '@pampero/core/formats/shapefile';
import { strToU8, zipSync } from 'fflate';
import { crsByCode } from '../crs/crs-catalogue.js';
import { tracingOptions } from '../operations/terrain/draw-contours.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { bandsOfSurface } from '../tasks/contour-tasks.js';
import { fileStem } from './file-names.js';
import { writeGeoPackage } from './geopackage.js';
import { provenance, unitName, type ExportSite, type ProductHome } from './product-home.js';

type Contours = ProductOf<'contours'>;

async function linesOf({ job, models }: ExportSite, set: Contours): Promise<AttributedLine[]> {
  return attributedContours(unpackContours(await readProductBlob(models, set.id, 'lines')), {
    interval: Number(set.parameters['interval']),
    unit: unitName(job),
    source: provenance(set),
  });
}

function wktOf({ job }: ExportSite): string | undefined {
  return job.crs.epsg === undefined ? undefined : crsByCode(job.crs.epsg).wkt;
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
      return { pieces: contoursToDxf(unpackContours(await readProductBlob(models, set.id, 'lines')), labels) };
    },
    async gpkg(site, set) {
      const system = { epsg: site.job.crs.epsg, wkt: wktOf(site) };
      await writeGeoPackage(site.target, set.name, await linesOf(site, set), system);
      return { isWritten: true };
    },
    async shp(site, set) {
      const { shp, shx, dbf } = polylinesToShapefile(await linesOf(site, set));
      const stem = fileStem(set.name);
      const wkt = wktOf(site);
      const parts = {
        [`${stem}.shp`]: shp,
        [`${stem}.shx`]: shx,
        [`${stem}.dbf`]: dbf,
        [`${stem}.cpg`]: strToU8('UTF-8'),
        ...(wkt && { [`${stem}.prj`]: strToU8(wkt) }),
      };
      return { bytes: zipSync(parts, { level: 6 }) };
    },
    geojson: async (site, set) => ({ bytes: asGeoJson(await linesOf(site, set), site.job.crs.epsg) }),
    bands: async (site, set) => ({ bytes: await bands(site, set) }),
  },
};
