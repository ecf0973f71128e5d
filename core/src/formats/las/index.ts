export {
  extraValues,
  floatDimensionRecord,
  floatDimensionsRecord,
  isConfidenceName,
  KNOWN_DIMENSIONS,
  knownDimensions,
  readExtraDimensions,
} from './extra-dimensions.js';
export type { ExtraDimension, KnownDimension } from './extra-dimensions.js';
export { openLas } from './las-file.js';
export type { LasFile } from './las-file.js';
export { writeLas } from './las-writer.js';
export type { LasWriterOptions } from './las-writer-options.js';
export { POINT_FORMATS, pointColumnsOf } from './point-format.js';
export type { PointFormat } from './point-format.js';
export type { PublicHeader } from './public-header.js';
export type { VariableLengthRecord } from './variable-length-record.js';
export { decodePoints, encodePoints } from './point-record.js';
