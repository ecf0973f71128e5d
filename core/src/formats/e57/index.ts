export { openE57 } from './e57-reader.js';
export type { E57File } from './e57-reader.js';
export type { E57Scan } from './e57-scan.js';
export { scansApart, type ScanApart } from './scans-apart.js';
export { writeE57 } from './e57-writer.js';
export type { E57WriterOptions } from './e57-writer.js';
