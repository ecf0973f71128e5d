import { deflateSync } from 'node:zlib';
import type { Response } from 'express';
import type { Job, ProductFileFormat } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { attributedContours, unpackContours } from '@pampero/core/contours';
import { gridToAscii, gridToXyz } from '@pampero/core/formats/ascii-grid';
import { spotsToDxf, surfaceToDxf, type NumberedPoint } from '@pampero/core/formats/dxf';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { POINT_ORDERS, writePointList } from '@pampero/core/formats/point-list';
import { surfaceToGlb, surfaceToPly } from '@pampero/core/formats/mesh';
import { polylinesToShapefile, type AttributedLine } from '@pampero/core/formats/shapefile';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { hillshade, slope } from '@pampero/core/grids';
import { PamperoError } from '@pampero/core/task';
import { unpackTin, type GridFrame } from '@pampero/core/terrain';
import { strToU8, zipSync } from 'fflate';
import { crsByCode } from '../crs/crs-catalogue.js';
import type { JobFile } from '../jobs/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import { readContours, readProduct, readProductBlob, readSurface } from '../store/product-repository.js';
import { accuracyCsv, accuracyPdf } from './accuracy-report.js';
import { fileStem, sendFile } from './exports.js';
import { writeGeoPackage } from './geopackage.js';

interface Site {
  readonly library: JobLibrary;
  readonly job: Job;
  readonly file: JobFile;
  readonly response: Response;
}

/** Sends a product as a file of the form asked for. */
export async function exportProduct(site: Site, productId: number, format: ProductFileFormat): Promise<void> {
  switch (format) {
    case 'ply':
    case 'glb':
    case 'faces-dxf':
      return exportSurface(site, productId, format);
    case 'geojson':
    case 'shp':
    case 'gpkg':
      return exportContours(site, productId, format);
    case 'points-pnezd':
    case 'points-penzd':
    case 'points-nezd':
    case 'points-enzd':
    case 'points-dxf':
      return exportSpots(site, productId, format);
    case 'pdf':
    case 'csv':
      return exportStatement(site, productId, format);
    default:
      return exportGrid(site, productId, format);
  }
}

function send({ response }: Site, bytes: Uint8Array | string, name: string, type: string): void {
  response.attachment(name);
  response
    .type(type)
    .send(typeof bytes === 'string' ? bytes : Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length));
}

async function exportSurface(site: Site, id: number, format: 'ply' | 'glb' | 'faces-dxf'): Promise<void> {
  const surface = await readSurface(site.file.read, id);
  const tin = unpackTin(await readProductBlob(site.file.read, id, 'tin'));
  const stem = fileStem(surface.name);
  if (format === 'ply') send(site, surfaceToPly(tin), `${stem}.ply`, 'application/octet-stream');
  else if (format === 'glb') {
    const glb = surfaceToGlb(tin, { name: surface.name, metresPerUnit: metresPer(site.job.unit) });
    send(site, glb, `${stem}.glb`, 'model/gltf-binary');
  } else send(site, [...surfaceToDxf(tin)].join(''), `${stem}-faces.dxf`, 'image/vnd.dxf');
}

async function exportContours(site: Site, id: number, format: 'geojson' | 'shp' | 'gpkg'): Promise<void> {
  const { job, file, library, response } = site;
  const set = await readContours(file.read, id);
  const lines = attributedContours(unpackContours(await readProductBlob(file.read, id, 'lines')), {
    interval: Number(set.parameters['interval']),
    unit: lengthUnits[job.unit].name,
    source: `${set.operation} ${set.madeAt.slice(0, 10)}${set.isStale ? ', stale' : ''}`,
  });
  const stem = fileStem(set.name);
  const wkt = job.crs.epsg === undefined ? undefined : crsByCode(job.crs.epsg).wkt;
  if (format === 'geojson') send(site, asGeoJson(lines, job.crs.epsg), `${stem}.geojson`, 'application/geo+json');
  else if (format === 'shp') {
    const { shp, shx, dbf } = polylinesToShapefile(lines);
    const parts = {
      [`${stem}.shp`]: shp,
      [`${stem}.shx`]: shx,
      [`${stem}.dbf`]: dbf,
      [`${stem}.cpg`]: strToU8('UTF-8'),
      ...(wkt && { [`${stem}.prj`]: strToU8(wkt) }),
    };
    send(site, zipSync(parts, { level: 6 }), `${stem}.zip`, 'application/zip');
  } else {
    const path = library.scratchPath('.gpkg');
    await writeGeoPackage(path, set.name, lines, { epsg: job.crs.epsg, wkt });
    await sendFile(response, path, `${stem}.gpkg`, 'application/geopackage+sqlite3');
  }
}

/** GeoJSON in the job's coordinates, with the system named as GDAL writes it: RFC 7946 knows degrees alone. */
function asGeoJson(lines: readonly AttributedLine[], epsg: number | undefined): string {
  return JSON.stringify({
    type: 'FeatureCollection',
    ...(epsg !== undefined && { crs: { type: 'name', properties: { name: `urn:ogc:def:crs:EPSG::${epsg}` } } }),
    features: lines.map(({ easting, northing, elevation, attributes }) => ({
      type: 'Feature',
      properties: attributes,
      geometry: {
        type: 'LineString',
        coordinates: Array.from(easting, (e, i) => [
          Number(e.toFixed(4)),
          Number(northing[i]!.toFixed(4)),
          Number(elevation[i]!.toFixed(4)),
        ]),
      },
    })),
  });
}

async function exportStatement(site: Site, id: number, format: 'pdf' | 'csv'): Promise<void> {
  const product = await readProduct(site.file.read, id, 'accuracy');
  const stem = fileStem(product.name);
  if (format === 'csv') {
    send(site, accuracyCsv(product), `${stem}.csv`, 'text/csv');
    return;
  }
  site.response.attachment(`${stem}.pdf`);
  site.response.type('application/pdf');
  accuracyPdf(site.job, product).pipe(site.response);
}

async function exportSpots(site: Site, id: number, format: string): Promise<void> {
  const product = await readProduct(site.file.read, id, 'spots');
  const text = (await readProductBlob(site.file.read, id, 'points')).toString('utf8');
  const points = JSON.parse(text) as NumberedPoint[];
  const { layer, decimals } = product.facts as { layer: string; decimals: number };
  const stem = fileStem(product.name);
  if (format === 'points-dxf') {
    const textHeight = 0.5 / metresPer(site.job.unit);
    send(site, [...spotsToDxf(points, { layer, textHeight, decimals })].join(''), `${stem}.dxf`, 'image/vnd.dxf');
    return;
  }
  const order = POINT_ORDERS.find((known) => format.endsWith(known.toLowerCase())) ?? 'PNEZD';
  send(site, writePointList(points, order, decimals), `${stem}-${order}.csv`, 'text/csv');
}

/** Codes of EPSG for the units of elevations. */
const VERTICAL_UNITS = { metre: 9001, 'international-foot': 9002, 'us-survey-foot': 9003 } as const;

async function exportGrid(
  site: Site,
  id: number,
  format: 'tif' | 'hillshade' | 'slope' | 'asc' | 'xyz',
): Promise<void> {
  const { job, file } = site;
  const product = await readProduct(file.read, id, 'grid');
  const { arrays, facts } = unpackArrays(await readProductBlob(file.read, id, 'grid'));
  const values = arrays['elevation'] as Float32Array;
  const frame = facts as GridFrame;
  const stem = fileStem(product.name);
  const about = {
    ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
    description: `${product.name}; ${product.operation} ${product.madeAt}${product.isStale ? '; stale' : ''}; ${lengthUnits[job.unit].name}`,
    deflate: (bytes: Uint8Array) => deflateSync(bytes),
  };
  const { columns, rows, cell } = frame;
  switch (format) {
    case 'tif':
      send(
        site,
        writeGeoTiff(values, frame, { ...about, verticalUnit: VERTICAL_UNITS[job.unit] }),
        `${stem}.tif`,
        'image/tiff',
      );
      break;
    case 'hillshade':
      send(site, writeGeoTiff(hillshade(values, columns, rows, cell, { azimuth: 315, altitude: 45 }), frame, about), `${stem}-hillshade.tif`, 'image/tiff'); // prettier-ignore
      break;
    case 'slope':
      send(site, writeGeoTiff(slope(values, columns, rows, cell), frame, about), `${stem}-slope.tif`, 'image/tiff');
      break;
    case 'asc':
      if (values.length > 60_000_000)
        throw new PamperoError('grid-too-large', {
          what: `A text of ${values.length} cells is more than programs read.`,
          mend: 'Take GeoTIFF, or make a grid with a larger cell.',
        });
      send(site, [...gridToAscii(values, frame)].join(''), `${stem}.asc`, 'text/plain');
      break;
    case 'xyz':
      send(site, [...gridToXyz(values, frame)].join(''), `${stem}.xyz`, 'text/plain');
      break;
  }
}
