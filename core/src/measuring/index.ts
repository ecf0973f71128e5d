export { pieceAt, valueAlong } from './along.js';
export { angleAt, between, lineLength, planArea } from './measures.js';
export type { Between, Place3 } from './measures.js';
export { upperMedian } from './median.js';
export { convexHull, narrowestRectangle, signedArea, type Corner } from './plan-outline.js';
export { PlaneSums, type FittedPlane } from './plane-sums.js';
