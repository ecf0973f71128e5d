export { surfaceToGlb } from './glb-mesh.js';
export { surfaceToPly } from './ply-mesh.js';
