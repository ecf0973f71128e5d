import { readFile } from 'node:fs/promises';
import { FormatError } from '@pampero/core/formats';
import { readDxfLines } from '@pampero/core/formats/dxf';
import { readCodedLines, readGeoJsonLines, type ReadLine } from '@pampero/core/formats/lines';
import type { PointOrder } from '@pampero/core/formats/point-list';
import { readShapefileLines } from '@pampero/core/formats/shapefile';
import type { LengthUnit } from '@pampero/core/geodesy';
import type { LineFormat } from '@pampero/contract';
import { unzipSync } from 'fflate';
import { readLandXmlLines } from './landxml-lines.js';

export interface LineFile {
  readonly path: string;
  readonly fileName: string;
  readonly format: LineFormat;
  readonly order: PointOrder;
  readonly unit: LengthUnit;
  readonly curveTolerance: number;
}

/** What a zipped Shapefile may unpack to: one that swells a thousandfold is no Shapefile. */
const LARGEST_UNPACKED = 1_000_000_000;

/**
 * The lines and outlines of a file, in the coordinates it has.
 * @param textOf - reads a text whole, if it is not too large
 */
export async function readLineFile(file: LineFile, textOf: (largest?: number) => Promise<string>): Promise<ReadLine[]> {
  const { path, fileName, format, order, unit, curveTolerance } = file;
  switch (format) {
    case 'geojson': {
      const text = await textOf(200_000_000);
      checkDepth(text, fileName);
      return readGeoJsonLines(text, fileName);
    }
    case 'dxf':
      return readDxfLines(await textOf(), fileName, curveTolerance);
    case 'list':
      return readCodedLines(await textOf(), order, fileName);
    case 'landxml':
      return readLandXmlLines(await textOf(), fileName, unit, curveTolerance);
    case 'gpkg':
      // A database is loaded only where one is read.
      return (await import('./geopackage-lines.js')).readGeoPackageLines(path, fileName);
    case 'shp':
      return linesOfShapefile(await readFile(path), fileName);
  }
}

/** A Shapefile zipped with its table, or its main part alone. */
function linesOfShapefile(bytes: Uint8Array, fileName: string): ReadLine[] {
  const isZip = bytes[0] === 0x50 && bytes[1] === 0x4b;
  if (!isZip) return readShapefileLines(bytes, undefined, fileName);
  let size = 0;
  const parts = unpacked(bytes, fileName, (name, length) => {
    if (!/\.(shp|dbf)$/i.test(name) || name.startsWith('__MACOSX')) return false;
    size += length;
    if (size > LARGEST_UNPACKED)
      throw new FormatError('not-this-format', {
        what: `${fileName} unpacks to more than ${LARGEST_UNPACKED / 1e6} MB.`,
        fix: 'Split the Shapefile.',
      });
    return true;
  });
  const shapes = Object.keys(parts).filter((name) => /\.shp$/i.test(name)).sort(); // prettier-ignore
  if (shapes.length === 0)
    throw new FormatError('not-this-format', {
      what: `${fileName} holds no Shapefile.`,
      fix: 'Zip the .shp together with its .dbf.',
    });
  return shapes.flatMap((name) => {
    const stem = name.slice(0, -4).toLowerCase();
    const table = Object.keys(parts).find((other) => other.toLowerCase() === `${stem}.dbf`);
    return readShapefileLines(parts[name]!, table === undefined ? undefined : parts[table], `${fileName}/${name}`);
  });
}

function unpacked(
  bytes: Uint8Array,
  fileName: string,
  wants: (name: string, size: number) => boolean,
): Record<string, Uint8Array> {
  try {
    return unzipSync(bytes, { filter: ({ name, originalSize }) => wants(name, originalSize) });
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw new FormatError('not-this-format', {
      what: `${fileName} cannot be unpacked: ${error instanceof Error ? error.message : String(error)}.`,
      fix: 'Zip it again.',
    });
  }
}

/** GeoJSON lies some ten brackets deep; a text of nothing but brackets takes gigabytes to parse. */
function checkDepth(text: string, fileName: string): void {
  if (/[[{](?:\s*[[{]){99}/.test(text))
    throw new FormatError('lines-unreadable', {
      what: `${fileName} is nested more than 100 deep.`,
      fix: 'Save it again from its source.',
    });
}
