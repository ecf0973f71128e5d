export { surfaceToGlb, type MeshTexture } from './glb-mesh.js';
export { surfaceToPly } from './ply-mesh.js';
