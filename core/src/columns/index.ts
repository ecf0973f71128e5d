export { ascending, columnFrom, picked, type Column } from './column-from.js';
