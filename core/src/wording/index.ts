export { formatCount, formatCounted, formatNumber, GAP } from './written-numbers.js';
