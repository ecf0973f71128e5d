import { polylinesToShapefile, type AttributedLine } from '@pampero/core/formats/shapefile';
import { strToU8, zipSync } from 'fflate';
import { crsByCode } from '../crs/crs-catalogue.js';
import { fileStem } from './file-names.js';
import type { ExportSite } from './product-home.js';

/** The job's system as text, for formats that carry it so. */
export function wktOf({ job }: ExportSite): string | undefined {
  return job.crs.epsg === undefined ? undefined : crsByCode(job.crs.epsg).wkt;
}

/** A Shapefile with all its parts in one archive. */
export function zippedShapefile(lines: readonly AttributedLine[], name: string, wkt: string | undefined): Uint8Array {
  const { shp, shx, dbf } = polylinesToShapefile(lines);
  const stem = fileStem(name);
  const parts = {
    [`${stem}.shp`]: shp,
    [`${stem}.shx`]: shx,
    [`${stem}.dbf`]: dbf,
    [`${stem}.cpg`]: strToU8('UTF-8'),
    ...(wkt && { [`${stem}.prj`]: strToU8(wkt) }),
  };
  return zipSync(parts, { level: 6 });
}
