import { deflateSync } from 'node:zlib';
import type { Response } from 'express';
import type { Job, ProductFileFormat } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { attributedContours, unpackContours } from '@pampero/core/contours';
import { gridToAscii, gridToXyz } from '@pampero/core/formats/ascii-grid';
import { spotsToDxf, surfaceToDxf, type NumberedPoint } from '@pampero/core/formats/dxf';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import { POINT_ORDERS, writePointList } from '@pampero/core/formats/point-list';
import { surfaceToGlb, surfaceToPly } from '@pampero/core/formats/mesh';
import { polylinesToShapefile, type AttributedLine } from '@pampero/core/formats/shapefile';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { hillshade, slope } from '@pampero/core/grids';
import { elevationAt, simplified } from '@pampero/core/profiles';
import { PamperoError } from '@pampero/core/task';
import { unpackTin, type GridFrame } from '@pampero/core/terrain';
import { RAMP_SIZE, rampTable } from '@pampero/core/tints';
import { strToU8, zipSync } from 'fflate';
import { crsByCode } from '../crs/crs-catalogue.js';
import type { JobFile } from '../jobs/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import { readContours, readProduct, readProductBlob, readSurface } from '../store/product-repository.js';
import { accuracyCsv, accuracyPdf } from './accuracy-report.js';
import { readProfile } from '../operations/draw-profile.js';
import { readTerrainLines } from '../operations/import-lines.js';
import { fileStem, sendFile } from './exports.js';
import { writeGeoPackage } from './geopackage.js';

interface Site {
  readonly library: JobLibrary;
  readonly job: Job;
  readonly file: JobFile;
  readonly response: Response;
}

/** Sends a product as a file of the form asked for. */
export async function exportProduct(
  site: Site,
  productId: number,
  format: Exclude<ProductFileFormat, 'bands'>,
): Promise<void> {
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
    case 'profile-csv':
      return exportProfile(site, productId);
    case 'volume-csv':
      return exportVolume(site, productId);
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
  } else {
    const made = (surface.parameters['lines'] as number[] | undefined) ?? [];
    // Lines that were taken back since are no longer there to be drawn.
    const lines = await readTerrainLines(site.file.read, made).catch(() => []);
    send(site, [...surfaceToDxf(tin, lines)].join(''), `${stem}-faces.dxf`, 'image/vnd.dxf');
  }
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

/** GeoJSON in the job's coordinates. */
function asGeoJson(lines: readonly AttributedLine[], epsg: number | undefined): string {
  return JSON.stringify({
    type: 'FeatureCollection',
    ...geoJsonSystem(epsg),
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

/** Stations at even steps and wherever the first surface bends: place, elevation of each surface, grade to the next station. */
async function exportProfile(site: Site, id: number): Promise<void> {
  const product = await readProduct(site.file.read, id, 'profile');
  const { surfaces } = await readProfile(site.file.read, id);
  const profiles = surfaces.map(({ station, elevation, easting, northing }) => ({
    station: Float64Array.from(station),
    easting: Float64Array.from(easting),
    northing: Float64Array.from(northing),
    elevation: Float64Array.from(elevation, (z) => z ?? NaN),
  }));
  const length = Number(product.facts['length']);
  const step = roundedStep(length / 100);
  const even = Array.from({ length: Math.floor(length / step) + 1 }, (_, k) => k * step);
  const bends = simplified(profiles[0]!, 0.02 / metresPer(site.job.unit)).station;
  const stations = [...new Set([...even, ...bends, length].map((s) => Number(s.toFixed(3))))].sort((a, b) => a - b);
  const line = product.parameters['line'] as [number, number][];
  const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;
  const head = [
    'station',
    'easting',
    'northing',
    ...surfaces.flatMap(({ name }) => [quoted(name), quoted(`${name} grade %`)]),
  ];
  const rows = stations.map((at, k) => {
    const next = stations[k + 1];
    return [
      at.toFixed(3),
      ...placeAlong(line, at).map((v) => v.toFixed(3)),
      ...profiles.flatMap((profile) => {
        const z = elevationAt(profile, at);
        const rise = next === undefined ? NaN : (elevationAt(profile, next) - z) / (next - at);
        return [Number.isNaN(z) ? '' : z.toFixed(3), Number.isNaN(rise) ? '' : (100 * rise).toFixed(2)];
      }),
    ].join(',');
  });
  send(site, [head.join(','), ...rows, ''].join('\n'), `${fileStem(product.name)}.csv`, 'text/csv');
}

/** A step of 1, 2 or 5 times a power of ten, near what is asked. */
function roundedStep(about: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1e-3, about)));
  return power * (about / power < 1.5 ? 1 : about / power < 3.5 ? 2 : about / power < 7.5 ? 5 : 10);
}

function placeAlong(line: readonly (readonly [number, number])[], station: number): [number, number] {
  let left = station;
  for (let k = 0; k + 1 < line.length; k++) {
    const [[ae, an], [be, bn]] = [line[k]!, line[k + 1]!];
    const length = Math.hypot(be - ae, bn - an);
    if ((left <= length || k === line.length - 2) && length > 0)
      return [ae + ((be - ae) * left) / length, an + ((bn - an) * left) / length];
    left -= length;
  }
  return [line[0]![0], line[0]![1]];
}

/** Figures of a volume with what they were measured from. */
async function exportVolume(site: Site, id: number): Promise<void> {
  const product = await readProduct(site.file.read, id, 'volume');
  const { short } = lengthUnits[site.job.unit];
  const number = (name: string): number => Number(product.facts[name]);
  const { swell = 1, shrink = 1 } = product.parameters as { swell?: number; shrink?: number };
  const rows: (readonly [string, string, string])[] = [
    ['Job', site.job.name, ''],
    ['Volume', product.name, product.isStale ? 'stale' : ''],
    ['Measured', product.madeAt, ''],
    ['Method', 'exact over the triangles of both surfaces', ''],
    ['Cut', number('cut').toFixed(3), `${short}3`],
    ['Fill', number('fill').toFixed(3), `${short}3`],
    ['Net, fill less cut', (number('fill') - number('cut')).toFixed(3), `${short}3`],
    ['Area of cut', number('cutArea').toFixed(2), `${short}2`],
    ['Area of fill', number('fillArea').toFixed(2), `${short}2`],
    ['Swell of cut', String(swell), ''],
    ['Cut, loose', (number('cut') * swell).toFixed(3), `${short}3`],
    ['Shrink of fill', String(shrink), ''],
    ['Fill to bring', (number('fill') / shrink).toFixed(3), `${short}3`],
    ['Area left out: no second surface there', number('uncovered').toFixed(2), `${short}2`],
  ];
  const quoted = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const csv = ['what,value,unit', ...rows.map((row) => row.map(quoted).join(',')), ''].join('\n');
  send(site, csv, `${fileStem(product.name)}.csv`, 'text/csv');
}

/** Three bytes a cell: colours by elevation, or to either side of nothing for differences, lit from the north-west; white where there is none. */
function tintedGrid(
  values: Float32Array,
  { columns, rows, cell }: GridFrame,
  facts: Record<string, unknown>,
): Uint8Array {
  const isDifference = facts['isDifference'] === true;
  const [lowest, highest] = [Number(facts['lowest']), Number(facts['highest'])];
  const far = Math.max(Math.abs(lowest), Math.abs(highest), 1e-6);
  const [low, high] = isDifference ? [-far, far] : [lowest, highest];
  const table = rampTable(isDifference ? 'either-side' : 'land');
  const light = isDifference ? undefined : hillshade(values, columns, rows, cell, { azimuth: 315, altitude: 45 });
  const out = new Uint8Array(3 * values.length).fill(255);
  values.forEach((value, at) => {
    if (Number.isNaN(value)) return;
    const share = (value - low) / Math.max(1e-9, high - low);
    const colour = table[Math.max(0, Math.min(RAMP_SIZE - 1, Math.round(share * (RAMP_SIZE - 1))))]!;
    // Level ground has 180 of 255 under a sun at 45 degrees.
    const lit = light ? 0.35 + (0.65 * light[at]!) / 180 : 1;
    for (let k = 0; k < 3; k++) out[3 * at + k] = Math.min(255, Math.round(((colour >> (8 * k)) & 255) * lit));
  });
  return out;
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
  format: 'tif' | 'tint' | 'hillshade' | 'slope' | 'asc' | 'xyz',
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
    case 'tint':
      send(
        site,
        writeGeoTiff(tintedGrid(values, frame, product.facts), frame, about),
        `${stem}-tint.tif`,
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
