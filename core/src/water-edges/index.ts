export { fallingLevels } from './falling-levels.js';
export { waterEdges, type WaterEdge, type WaterEdgeOptions } from './water-edges.js';
