import { crsFromGeoKeys, crsFromWkt, type CrsDescription } from '../../geodesy/index.js';
import { asciiText } from '../byte-cursor.js';
import type { FormatWarning } from '../format-error.js';
import type { VariableLengthRecord } from './variable-length-record.js';

/** Record numbers of user "LASF_Projection": LAS 1.4 R15, section "Coordinate Reference System information". */
export const PROJECTION_USER = 'LASF_Projection';
export const WKT_RECORD = 2112;
export const GEO_KEY_DIRECTORY_RECORD = 34735;
export const GEO_ASCII_RECORD = 34737;

/** The CRS a LAS file states, by well-known text if it has some that can be read, else by its GeoKeys. */
export function crsOfRecords(
  records: readonly VariableLengthRecord[],
  warnings: FormatWarning[],
): CrsDescription | undefined {
  const body = (recordId: number): Uint8Array | undefined =>
    records.find((r) => r.userId === PROJECTION_USER && r.recordId === recordId)?.data;
  const wkt = body(WKT_RECORD);
  if (wkt && wkt.length > 0) {
    const crs = crsFromWkt(asciiText(wkt));
    if (crs) return crs;
    warnings.push({
      code: 'crs-unreadable',
      message: 'The well-known text of the coordinate system cannot be read. Choose the system yourself.',
    });
  }
  const directory = body(GEO_KEY_DIRECTORY_RECORD);
  if (!directory) return undefined;
  const words = new Uint16Array(directory.length >> 1);
  for (let i = 0; i < words.length; i++) words[i] = directory[2 * i]! | (directory[2 * i + 1]! << 8);
  const ascii = body(GEO_ASCII_RECORD);
  const crs = crsFromGeoKeys(words, ascii ? String.fromCharCode(...ascii.subarray(0, 65_536)) : '');
  if (!crs)
    warnings.push({
      code: 'crs-unreadable',
      message: 'The GeoKeys of the coordinate system cannot be read. Choose the system yourself.',
    });
  return crs;
}
