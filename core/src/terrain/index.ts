export { orientation } from './orientation.js';
export { triangulate, tinDefaults } from './tin.js';
export type { Tin, TinOptions, TinReport } from './tin.js';
export { tinFacts } from './tin-facts.js';
export type { TinFacts } from './tin-facts.js';
export { TerrainError } from './terrain-error.js';
