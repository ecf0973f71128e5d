export { gridToAscii, gridToXyz, readAsciiGrid } from './ascii-grid.js';
