export { connectedCells, eachNeighbour } from './connected-cells.js';
export { eachSharedCell, placeOfPart } from './raster-frame.js';
export type { RasterFrame } from './raster-frame.js';
