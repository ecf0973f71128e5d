export { marginOf, runFilter } from './cleaning-filter.js';
export type { CleaningFilter } from './cleaning-filter.js';
export { floatingPoints } from './floating-points.js';
export type { FloatingOptions } from './floating-points.js';
export { isolatedPoints } from './isolated-points.js';
export type { IsolatedOptions } from './isolated-points.js';
export { addLoneliness, FURTHEST_SPACINGS, lonelinessOf, proposeIsolation } from './isolation-proposal.js';
export type { Loneliness } from './isolation-proposal.js';
export { proposeLowPoints } from './low-point-proposal.js';
export { lowPoints } from './low-points.js';
export type { LowPointOptions } from './low-points.js';
export type { Places } from './neighbour-grid.js';
export {
  addDistanceSums,
  meanNeighbourDistances,
  outlierThreshold,
  statisticalOutliers,
  sumDistances,
} from './statistical-outliers.js';
export type { DistanceSums, StatisticalOptions } from './statistical-outliers.js';
export { unreliablePoints } from './unreliable-points.js';
export type { UnreliableOptions } from './unreliable-points.js';
