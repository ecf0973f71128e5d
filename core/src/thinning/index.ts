export { onePointPerCell } from './one-point-per-cell.js';
