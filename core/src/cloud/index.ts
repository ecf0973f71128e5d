export { columnsOf, gatherPoints, newPointBatch, COLUMN_NAMES, PointFlag, WAVE_PACKET_LENGTH } from './point-batch.js';
export type { ColumnArray, ColumnName, PointBatch, PointColumns, Quantisation } from './point-batch.js';
export { className, GROUND, standardClasses } from './classes.js';
export type { PointClass } from './classes.js';
export { emptyBounds, growBounds, integerBounds, isEmptyBounds } from './bounds.js';
export type { Bounds } from './bounds.js';
export { buildOctree } from './octree.js';
export type { OctreeNode, OctreeOptions } from './octree.js';
export { packColumns, unpackColumns } from './column-pack.js';
