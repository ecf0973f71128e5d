export { closedOff, geoJsonSystem, readGeoJsonLines } from './geojson-lines.js';
export { readCodedLines } from './coded-lines.js';
export type { ReadLine } from './geojson-lines.js';
