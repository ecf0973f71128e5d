export { guessTextLayout, splitLine, TEXT_COLUMNS } from './text-layout.js';
export type { TextColumn, TextLayout } from './text-layout.js';
export { readTextPoints } from './text-points.js';
export type { TextReport } from './text-points.js';
export { textLines } from './text-lines.js';
export { decimalsOf, pointsToText, WRITTEN_COLUMNS } from './points-to-text.js';
export type { TextWriterOptions, WrittenColumn } from './points-to-text.js';
