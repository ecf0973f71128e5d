export {
  columnsOf,
  gatherPoints,
  joinPoints,
  newPointBatch,
  slicePoints,
  COLUMN_NAMES,
  PointFlag,
  SCAN_ANGLE_STEP,
  WAVE_PACKET_LENGTH,
} from './point-batch.js';
export type { ColumnArray, ColumnName, PointBatch, PointColumns, Quantisation } from './point-batch.js';
export { classMask } from './class-mask.js';
export { className, GROUND, NOISE_CLASSES, standardClasses } from './classes.js';
export type { PointClass } from './classes.js';
export { boundsAround, emptyBounds, growBounds, integerBounds, isEmptyBounds } from './bounds.js';
export type { Bounds } from './bounds.js';
export { buildOctree, octreeDefaults } from './octree.js';
export { Scratch } from './scratch.js';
export { cubeCodes, octreeCube } from './octree-cube.js';
export type { OctreeCube } from './octree-cube.js';
export {
  buildSquares,
  gatherRecords,
  orderBySquare,
  sortRecords,
  SQUARE_COUNT,
  squareRows,
  squareStarts,
} from './record-sort.js';
export type { BuildSquare, SortedRecords } from './record-sort.js';
export {
  addDuplicates,
  addToStatistics,
  elevationOfBin,
  mergeStatistics,
  newCloudStatistics,
  percentileBin,
} from './cloud-statistics.js';
export type { CloudStatistics } from './cloud-statistics.js';
export type { OctreeNode, OctreeOptions } from './octree.js';
export { packColumns, unpackColumns } from './column-pack.js';
export { countDuplicates } from './duplicates.js';
