export { gridAt, gridDifference } from './grid-difference.js';
export { changedPart, cutPart, withPart, type GridPart } from './grid-patch.js';
export { naturalNeighbours } from './natural-neighbour.js';
export { insideAndOutside, layLines } from './outlined.js';
export { fillGaps } from './fill-gaps.js';
export { CELL_METHODS, GRID_METHODS, gridFromPoints, type CellMethod, type GridMethod } from './grid-from-points.js';
export { aspect, hillshade, slope, type Sun } from './shading.js';
