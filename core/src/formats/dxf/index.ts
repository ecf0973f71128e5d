export { contoursToDxf, CONTOUR_LAYERS } from './contours-to-dxf.js';
