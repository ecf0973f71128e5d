export { contoursToDxf, CONTOUR_LAYERS } from './contours-to-dxf.js';
export { spotsToDxf, type NumberedPoint } from './spots-to-dxf.js';
export { surfaceToDxf } from './surface-to-dxf.js';
