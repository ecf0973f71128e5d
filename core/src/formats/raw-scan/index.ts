export { SCAN_NAMES, scanColumn } from './scan-columns.js';
