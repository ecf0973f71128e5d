export { formatBytes, formatCount, formatCounted, formatNumber, GAP } from './written-numbers.js';
