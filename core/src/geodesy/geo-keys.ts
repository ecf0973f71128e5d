import type { CrsDescription } from './crs-description.js';
import { lengthUnits, unitForEpsg, type LengthUnit } from './units.js';

/** GeoTIFF key identifiers (OGC 19-008r4, Annex A) that LAS 1.0-1.3 files use for their CRS. */
const KEY = {
  modelType: 1024,
  citation: 1026,
  geographicType: 2048,
  projectedType: 3072,
  projectedCitation: 3073,
  projectedLinearUnits: 3076,
  verticalType: 4096,
  verticalUnits: 4099,
} as const;
const USER_DEFINED = 32767;
const ASCII_PARAMS = 34737;

/**
 * Reads a GeoKeyDirectory (LAS record 34735) and its ASCII parameters (34737).
 * @param directory - the words of the directory: four of header, then four a key
 * @returns `undefined` when the directory names no system, or its words do not hold together
 */
export function crsFromGeoKeys(directory: Uint16Array, ascii: string): CrsDescription | undefined {
  if (directory.length < 4 || directory[0] !== 1) return undefined;
  const values = new Map<number, number>();
  const texts = new Map<number, string>();
  const keys = Math.min(directory[3]!, (directory.length - 4) >> 2);
  for (let i = 0; i < keys; i++) {
    const [key, location, count, value] = directory.subarray(4 + i * 4, 8 + i * 4) as unknown as [
      number,
      number,
      number,
      number,
    ];
    if (location === 0) values.set(key, value);
    else if (location === ASCII_PARAMS) texts.set(key, ascii.slice(value, value + count).replace(/[|\0\s]+$/, ''));
  }
  const code = (key: number): number | undefined => {
    const value = values.get(key);
    return value === undefined || value === 0 || value === USER_DEFINED ? undefined : value;
  };
  const projected = code(KEY.projectedType);
  const geographic = values.get(KEY.modelType) === 2;
  const epsg = projected ?? (geographic ? code(KEY.geographicType) : undefined);
  const verticalEpsg = code(KEY.verticalType);
  const name = texts.get(KEY.projectedCitation) ?? texts.get(KEY.citation);
  const horizontalUnit = unitForEpsg(values.get(KEY.projectedLinearUnits) ?? 0);
  const verticalUnit = unitForEpsg(values.get(KEY.verticalUnits) ?? 0);
  if (epsg === undefined && name === undefined && horizontalUnit === undefined && verticalEpsg === undefined)
    return undefined;
  return {
    ...(epsg !== undefined && { epsg }),
    ...(verticalEpsg !== undefined && { verticalEpsg }),
    ...(name !== undefined && { name }),
    ...(horizontalUnit && { horizontalUnit }),
    ...(verticalUnit && { verticalUnit }),
    ...(geographic && projected === undefined && { isGeographic: true }),
  };
}

/** The GeoKeyDirectory words that say a projected system and its units, for formats before LAS 1.4. */
export function geoKeysForCrs(crs: {
  readonly epsg: number;
  readonly horizontalUnit: LengthUnit;
  readonly verticalUnit: LengthUnit;
}): Uint16Array {
  const entries = [
    [KEY.modelType, 1],
    [1025, 1], // raster type: pixel is area, which LAS asks for though it holds no raster
    [KEY.projectedType, crs.epsg],
    [KEY.projectedLinearUnits, lengthUnits[crs.horizontalUnit].epsg],
    [KEY.verticalUnits, lengthUnits[crs.verticalUnit].epsg],
  ] as const;
  return Uint16Array.from([1, 1, 0, entries.length, ...entries.flatMap(([key, value]) => [key, 0, 1, value])]);
}
