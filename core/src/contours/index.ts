export { packContours, unpackContours } from './pack-contours.js';
export { contourDefaults, traceContours } from './trace-contours.js';
export type { ContourOptions, ContourSet } from './trace-contours.js';
export { contourFacts } from './contour-facts.js';
export type { ContourFacts } from './contour-facts.js';
export { attributedContours } from './attributed-contours.js';
