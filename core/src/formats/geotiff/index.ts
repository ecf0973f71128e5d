export { writeGeoTiff, type GeoTiffOptions } from './geotiff-writer.js';
export { pictureHead, tilesOf, type PictureAbout, type PictureDirectory } from './tiled-picture.js';
