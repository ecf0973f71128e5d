export { LASZIP_RECORD, LASZIP_USER, readLazChunks } from './laz-chunks.js';
export type { LazChunk } from './laz-chunks.js';
export { encodeLazChunk } from './laz-point-encoder.js';
export type { LazRecordParts } from './laz-point-encoder.js';
export { laszipRecord, lazChunkTable } from './laz-chunk-table.js';
