export { LASZIP_RECORD, LASZIP_USER, readLazChunks } from './laz-chunks.js';
export type { LazChunk } from './laz-chunks.js';
export { encodeLazChunk } from './laz-point-encoder.js';
export { encodeLayeredLazChunk, scannerChannel } from './laz-layered-encoder.js';
export { laszipRecord, lazChunkTable, VARIABLE_CHUNKS } from './laz-chunk-table.js';
