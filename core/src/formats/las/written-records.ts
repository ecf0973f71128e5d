import { geoKeysForCrs } from '../../geodesy/index.js';
import { LASZIP_USER } from '../laz/index.js';
import { GEO_KEY_DIRECTORY_RECORD, PROJECTION_USER, WKT_RECORD } from './crs-records.js';
import type { LasWriterOptions } from './las-writer-options.js';
import type { PointFormat } from './point-format.js';
import { MOST_VLR_BYTES, type VariableLengthRecord } from './variable-length-record.js';

/** Whose records are made anew for each file. */
const OWN_USERS: readonly string[] = [PROJECTION_USER, LASZIP_USER, 'copc'];

/** The records a file is written with: `first`, the coordinate system, then the source's own that mean the same here. */
export function recordsOf(
  options: Pick<LasWriterOptions, 'crs' | 'records'>,
  { isExtended }: PointFormat,
  first: readonly VariableLengthRecord[],
): VariableLengthRecord[] {
  return [
    ...first,
    ...crsRecords(options, isExtended),
    ...(options.records ?? []).filter((record) => !OWN_USERS.includes(record.userId)),
  ].filter((record) => record.data.length <= MOST_VLR_BYTES);
}

function crsRecords({ crs }: Pick<LasWriterOptions, 'crs'>, isExtended: boolean): VariableLengthRecord[] {
  if (!crs) return [];
  if (isExtended && crs.wkt) {
    // The record is null-terminated ASCII; a letter outside it, as in a place's name, becomes "?".
    const data = Uint8Array.from(`${crs.wkt}\0`, (c) => (c.charCodeAt(0) < 128 ? c.charCodeAt(0) : 63));
    return [{ userId: PROJECTION_USER, recordId: WKT_RECORD, description: 'OGC well-known text', data }];
  }
  if (!isExtended && crs.epsg !== undefined && crs.epsg < 32_767) {
    const horizontalUnit = crs.horizontalUnit ?? 'metre';
    const words = geoKeysForCrs({ epsg: crs.epsg, horizontalUnit, verticalUnit: crs.verticalUnit ?? horizontalUnit });
    const data = new Uint8Array(words.length * 2);
    words.forEach((word, i) => data.set([word & 0xff, word >> 8], i * 2));
    return [
      { userId: PROJECTION_USER, recordId: GEO_KEY_DIRECTORY_RECORD, description: 'GeoTIFF GeoKeyDirectory', data },
    ];
  }
  return [];
}
