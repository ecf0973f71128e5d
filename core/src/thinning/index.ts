export { onePointPerCell } from './one-point-per-cell.js';
export { blockCells, cellScatters, evenLimit, thinEvenLand, type EvenLandOptions } from './thin-even-land.js';
export { OnePointPerCube } from './one-point-per-cube.js';
export { priorityOf, THINNING_METHODS, thinningMargin, thinPoints } from './thin-points.js';
export type { ThinningMethod, ThinningOptions } from './thin-points.js';
export { keyPoints, type KeyPoints, type PointsToThin, type SurfacePoints } from './key-points.js';
export { PlanGrid } from './plan-grid.js';
export {
  addDifferences,
  differencesAt,
  mergeDifferences,
  newDifferenceSums,
  summarise,
  surfaceDifference,
  thinnedSurface,
  type DifferenceSums,
  type SurfaceDifference,
  type ThinnedSurface,
} from './surface-difference.js';
