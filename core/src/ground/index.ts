export { addLowestPoints, mergeLowestRaster, newLowestRaster, rejectLowOutliers } from './lowest-raster.js';
export type { LowestRaster, RasterFrame } from './lowest-raster.js';
export { clothDefaults, settleCloth } from './cloth.js';
export type { ClothOptions, LandShape } from './cloth.js';
export { classifyAgainstCloth } from './cloth-classification.js';
export type { GroundRule } from './cloth-classification.js';
