export { readWkbLines } from './wkb-lines.js';
