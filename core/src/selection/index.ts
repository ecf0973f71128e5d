export { Outline } from './outline.js';
export type { BoxRelation, Place } from './outline.js';
