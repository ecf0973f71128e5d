export { openPly } from './ply-points.js';
export type { PlyFile } from './ply-points.js';
export { writePly } from './ply-writer.js';
export type { PlyWriterOptions } from './ply-writer.js';
