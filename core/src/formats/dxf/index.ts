export { linesToDxf } from './lines-to-dxf.js';
export { contoursToDxf, CONTOUR_LAYERS } from './contours-to-dxf.js';
export { spotsToDxf, type NumberedPoint } from './spots-to-dxf.js';
export { surfaceToDxf } from './surface-to-dxf.js';
export { readDxfEntities } from './dxf-entities.js';
export type { DxfEntity, DxfVertex } from './dxf-entities.js';
export { DXF_UNITS, dxfComments } from './dxf-text.js';
export { readDxfLines } from './dxf-lines.js';
