export { gridToAscii, gridToXyz } from './ascii-grid.js';
