export { crestTop, LEVEL_RULES, padTop, withLevels, type DesignLevels, type DesignTop } from './design-top.js';
export { earthworkOn, type Earthwork } from './earthwork.js';
export { groundWithDesigns } from './ground-with-designs.js';
export type { SlopeSettings } from './side-slopes.js';
