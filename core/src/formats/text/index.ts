export { guessTextLayout, splitLine } from './text-layout.js';
export type { TextColumn, TextLayout } from './text-layout.js';
export { readTextPoints } from './text-points.js';
export type { TextReport } from './text-points.js';
