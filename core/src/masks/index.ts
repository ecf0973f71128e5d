export {
  Likeness,
  measureFar,
  NO_PICTURE,
  pickedColours,
  type PickedColours,
  type PickedPixels,
  type PixelWindow,
} from './alike.js';
export { edgeLevels } from './edge-levels.js';
export { maskPolygons, type MaskPolygon } from './mask-polygons.js';
export { maskRings, type MaskRing } from './mask-rings.js';
export { stableTolerance } from './stable-tolerance.js';
export { maskFrom, shapeMask, type MaskShaping, type PaintedStroke } from './shape-mask.js';
