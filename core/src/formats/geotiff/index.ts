export { writeGeoTiff, type GeoTiffOptions } from './geotiff-writer.js';
