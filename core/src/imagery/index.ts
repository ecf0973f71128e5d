export { PICTURE_TILE, TileSampler, type PictureTile, type TilePixels } from './sample-tiles.js';
export {
  inverseOf,
  isNorthUp,
  pictureFrameOf,
  picturePlan,
  pixelOfPlace,
  pixelSize,
  placeOfPixel,
  planOfPart,
  type PictureFrame,
  type PicturePart,
  type Placement,
} from './placement.js';
export { isWorldFileName, readWorldFile, writeWorldFile } from './world-file.js';
export { colourDepth, EIGHT_TO_SIXTEEN, toFullDepth, type ColourDepth } from './colour-depth.js';
export { labDistance, labOf, type Lab } from './cie-lab.js';
export { fillGaps, SeenFromAbove } from './seen-from-above.js';
