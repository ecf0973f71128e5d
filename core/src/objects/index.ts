export { classifyObjects, OBJECT_CLASS, objectMargin } from './classify-objects.js';
export type { ObjectOptions } from './classify-objects.js';
export { addGround, groundAt, groundModel, mergeGround, newGroundSums } from './ground-heights.js';
export type { GroundModel, GroundSums } from './ground-heights.js';
export { eigenvalues } from './covariance.js';
export { buildingPoints, planarPoints, roofMargin } from './roofs.js';
export { wirePoints } from './wires.js';
export type { WireOptions } from './wires.js';
export type { RoofOptions } from './roofs.js';
