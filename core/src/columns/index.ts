export { ascending, columnFrom, type Column } from './column-from.js';
