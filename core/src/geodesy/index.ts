export { lengthUnits, metresPer, parseLength, unitForEpsg, unitFromName } from './units.js';
export type { LengthUnit } from './units.js';
export { crsFromGeoKeys, geoKeysForCrs } from './geo-keys.js';
export { crsFromWkt } from './crs-wkt.js';
export type { CrsDescription } from './crs-description.js';
export { planTransform } from './plan-transform.js';
export type { PlanTransform } from './plan-transform.js';
