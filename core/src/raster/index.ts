export { cellRings, type CellRing } from './cell-rings.js';
export { eachBeyondEdge } from './beyond-edge.js';
export { connectedCells, eachNeighbour } from './connected-cells.js';
export { squaredDistances } from './distances.js';
export { piecesOf, type Pieces } from './pieces.js';
export { commonPlan, planBounds, planBoundsOf, plansOverlap, type PlanBounds } from './plan-bounds.js';
export { eachSharedCell, framePlan, placeOfPart } from './raster-frame.js';
export type { RasterFrame } from './raster-frame.js';
