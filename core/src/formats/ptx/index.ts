export { readPtxPoints } from './ptx-points.js';
export type { PtxReport } from './ptx-points.js';
