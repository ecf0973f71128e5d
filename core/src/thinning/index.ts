export { onePointPerCell } from './one-point-per-cell.js';
export { OnePointPerCube } from './one-point-per-cube.js';
