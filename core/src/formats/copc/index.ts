export { writeCopc } from './copc-writer.js';
export type { CopcNode, CopcOptions } from './copc-writer.js';
