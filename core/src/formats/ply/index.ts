export { openPly } from './ply-points.js';
export type { PlyFile } from './ply-points.js';
