export { angleAt, between, lineLength, planArea } from './measures.js';
export type { Between, Place3 } from './measures.js';
export { convexHull, narrowestRectangle, signedArea, type Corner } from './plan-outline.js';
