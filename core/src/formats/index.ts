export { bufferSink, bufferSource } from './byte-source.js';
export type { ByteSink, ByteSource } from './byte-source.js';
export { FormatError } from './format-error.js';
export type { FormatErrorCode, FormatWarning } from './format-error.js';
export type { LoosePoints } from './loose-points.js';
